"""Small sums at the bench: shims under a basket, and what an added mass does at speed."""

from __future__ import annotations

from fastapi import APIRouter

from eager_ear.core.strip.sums import STANDARD_GRAVITY_M_S2, Shims, added_force_n, shim_sum
from eager_ear.web.schemas.repairs.bench import AddedMassIn, AddedMassOut, ShimsIn

router = APIRouter(prefix="/api/bench", tags=["repairing"])


@router.post("/shims")
def shims(body: ShimsIn) -> Shims:
    """Washers that take up an axial play but for the running clearance."""
    return shim_sum(axial_play_mm=body.axial_play_mm, rim_clearance_mm=body.rim_clearance_mm)


@router.post("/added-mass")
def added_mass(body: AddedMassIn) -> AddedMassOut:
    """What a mass off the axis pulls with at speed."""
    force_n = added_force_n(mass_g=body.mass_g, radius_mm=body.radius_mm, spin_rpm=body.spin_rpm)
    return AddedMassOut(force_n=force_n, kilograms=force_n / STANDARD_GRAVITY_M_S2)
