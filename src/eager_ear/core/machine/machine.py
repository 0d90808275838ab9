"""One machine as it stands before the technician: its layout and what its plate tells."""

from __future__ import annotations

from dataclasses import dataclass

from eager_ear.core.errors import BadField, UnknownCode
from eager_ear.core.machine.bearings import find_bearing
from eager_ear.core.machine.layouts import LAYOUT_CODES


@dataclass(frozen=True, kw_only=True)
class Machine:
    """Facts about one machine; None is "not known".

    Raises
    ------
    UnknownCode
        Layout or bearing designation not known.
    BadField
        A number out of the range that a washer can have.
    """

    layout: str
    mains_hz: int | None = None
    max_spin_rpm: float | None = None
    pulley_ratio: float | None = None
    front_bearing: str | None = None
    rear_bearing: str | None = None
    spider_arms: int = 3
    age_years: float | None = None
    stacked: bool | None = None

    def __post_init__(self) -> None:
        if self.layout not in LAYOUT_CODES:
            raise UnknownCode(field="machine.layout", value=str(self.layout), known=LAYOUT_CODES)
        if self.mains_hz not in (None, 50, 60):
            raise BadField(field="machine.mains_hz", reason=f"{self.mains_hz} is neither 50 nor 60.")
        _check_range("machine.max_spin_rpm", self.max_spin_rpm, 100.0, 2500.0, "revolutions per minute")
        _check_range("machine.pulley_ratio", self.pulley_ratio, 0.5, 30.0, "motor turns per drum turn")
        _check_range("machine.age_years", self.age_years, 0.0, 80.0, "years")
        _check_range("machine.spider_arms", float(self.spider_arms), 2.0, 8.0, "arms")
        for place, designation in (("front", self.front_bearing), ("rear", self.rear_bearing)):
            if designation is not None:
                find_bearing(designation, field=f"machine.bearings.{place}")


def _check_range(field: str, value: float | None, low: float, high: float, unit: str) -> None:
    if value is not None and not low <= value <= high:
        raise BadField(field=field, reason=f"{value:g} is outside {low:g} to {high:g} {unit}.")
