"""How long a machine has run, from its age and its use: what is written on a part that is kept from it."""

from __future__ import annotations

from dataclasses import dataclass

from eager_ear.core.repair.stock import Use

WEEKS_A_YEAR = 365.25 / 7
# Rounded to what such an estimate is good for.
STEP_HOURS = 50


@dataclass(frozen=True, kw_only=True)
class HoursRun:
    """loads_a_week : of the usual answers; hours : that the machine has run then"""

    loads_a_week: int
    hours: int


def hours_run(age_years: float | None, *, use: Use) -> tuple[HoursRun, ...]:
    """Hours for each usual answer to how many loads a week it washed; none where the age is not known."""
    if age_years is None:
        return ()
    weeks = age_years * WEEKS_A_YEAR
    return tuple(
        HoursRun(loads_a_week=loads, hours=STEP_HOURS * round(weeks * loads * use.hours_a_load / STEP_HOURS))
        for loads in use.loads_a_week
    )
