"""Small sums at the bench."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, Field

from eager_ear.web.schemas.base import Strict


class ShimsIn(Strict):
    """Axial play with the nut tight, and the clearance of the basket's rim below the cover, where measured [mm]."""

    axial_play_mm: Annotated[float, Field(ge=0, le=30, allow_inf_nan=False)]
    rim_clearance_mm: Annotated[float, Field(ge=0, le=100, allow_inf_nan=False)] | None = None


class AddedMassIn(Strict):
    """A mass off the axis [g], how far off [mm], and the fastest spin [rpm]."""

    mass_g: Annotated[float, Field(ge=0, le=5000, allow_inf_nan=False)]
    radius_mm: Annotated[float, Field(ge=0, le=500, allow_inf_nan=False)]
    spin_rpm: Annotated[float, Field(ge=0, le=2500, allow_inf_nan=False)]


class AddedMassOut(BaseModel):
    """force_n : what it pulls at that speed; kilograms : the weight that would pull as much, standing still"""

    force_n: float
    kilograms: float
