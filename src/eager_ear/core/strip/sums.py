"""Small sums at the bench: shims under a basket, and what an added mass does at speed."""

from __future__ import annotations

import math
from dataclasses import dataclass

from eager_ear.core.errors import BadField
from eager_ear.core.units import rpm_to_hz

# A basket on its shaft wants this much room to turn (judgement), mm.
RUNNING_CLEARANCE_MM = (0.0, 0.1)
STANDARD_GRAVITY_M_S2 = 9.80665


@dataclass(frozen=True, kw_only=True)
class Shims:
    """Total thickness of washers to put in, least and most, and what it leaves above the rim."""

    least_mm: float
    most_mm: float
    rim_left_mm: float | None
    rim_clears: bool


def shim_sum(*, axial_play_mm: float, rim_clearance_mm: float | None = None) -> Shims:
    """Washers that take up the axial play of a basket but for its running clearance.

    Shims raise the basket: where the clearance of its rim below the cover was measured, it is held against them.

    Raises
    ------
    BadField
        A play below nothing or above 30 mm.

    >>> shim_sum(axial_play_mm=1.6, rim_clearance_mm=4.0).most_mm
    1.6
    """
    if not 0.0 <= axial_play_mm <= 30.0:
        raise BadField(field="axial_play_mm", reason=f"{axial_play_mm:g} mm is outside 0 to 30.")
    low, high = RUNNING_CLEARANCE_MM
    most, least = max(0.0, axial_play_mm - low), max(0.0, axial_play_mm - high)
    left = None if rim_clearance_mm is None else rim_clearance_mm - most
    return Shims(least_mm=least, most_mm=most, rim_left_mm=left, rim_clears=left is None or left > 0.0)


def added_force_n(*, mass_g: float, radius_mm: float, spin_rpm: float) -> float:
    """Force that a mass off the axis makes at that speed, in newtons: m r w squared.

    >>> round(added_force_n(mass_g=10.0, radius_mm=100.0, spin_rpm=1000.0), 1)
    11.0
    """
    omega = 2.0 * math.pi * rpm_to_hz(spin_rpm)
    return mass_g * 1e-3 * radius_mm * 1e-3 * omega**2
