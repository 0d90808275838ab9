"""Painted marks on what was shimmed, locked or pressed: when they are looked at again, and what they have shown."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta

from eager_ear.core.repair.guides import WitnessPlan

# Side play is felt to about this; what grew by less has not grown (judgement).
PLAY_FELT_MM = 0.3


@dataclass(frozen=True, kw_only=True)
class Look:
    """One look at the marks. loads : heavy ones since the look before; play_mm : side play, None when not measured."""

    at: datetime
    loads: int
    moved: bool
    play_mm: float | None = None
    photo: str | None = None
    entry: str = ""


@dataclass(frozen=True, kw_only=True)
class Witness:
    """How far the marks have proved it.

    loads : heavy ones in all; next_at_loads, next_on : when to look again, either may be None
    stop : something moved: unplug, proper part or scrap
    done : every look was had and nothing moved
    """

    looks: tuple[Look, ...]
    loads: int
    next_at_loads: int | None
    next_on: date | None
    stop: bool
    done: bool
    says: str


def witness(looks: Sequence[Look], plan: WitnessPlan) -> Witness:
    """Where a row of looks stands in its plan. The first look, without a load, is the painting itself."""
    looks = tuple(looks)
    loads = sum(look.loads for look in looks)
    plays = [look.play_mm for look in looks if look.play_mm is not None]
    grew = len(plays) > 1 and plays[-1] - plays[0] > PLAY_FELT_MM
    stop = any(look.moved for look in looks) or grew
    # A look counts for every number of loads that had been washed by then.
    ahead = [n for n in plan.after_loads if n > loads]
    later = _looks_later(looks, plan)
    next_at = ahead[0] if looks and ahead and not stop else None
    next_on = None
    if looks and not ahead and later < plan.then_times and not stop:
        next_on = (looks[-1].at + timedelta(days=plan.then_days)).date()
    done = bool(looks) and not stop and not ahead and later >= plan.then_times
    return Witness(
        looks=looks,
        loads=loads,
        next_at_loads=next_at,
        next_on=next_on,
        stop=stop,
        done=done,
        says=_says(looks, loads, next_at, next_on, grew=grew, done=done),
    )


def _looks_later(looks: Sequence[Look], plan: WitnessPlan) -> int:
    """How many looks were had after the one that completed the loads."""
    loads, later = 0, 0
    for look in looks:
        if loads >= plan.after_loads[-1]:
            later += 1
        loads += look.loads
    return later


def _says(
    looks: Sequence[Look], loads: int, next_at: int | None, next_on: date | None, *, grew: bool, done: bool
) -> str:
    if not looks:
        return "Paint a line over nut, flange and shaft, photograph it, and note it here: the loads count from then on."
    if any(look.moved for look in looks):
        return "A mark has moved: stop, unplug. The proper part or scrap; not tightened once more."
    if grew:
        return "The side play has grown since the marks were painted: stop, unplug, and look at the seat."
    had = f"{loads} heavy {'load' if loads == 1 else 'loads'} and nothing moved."
    if next_at is not None:
        more = next_at - loads
        return f"{had} Look again after {more} more heavy {'load' if more == 1 else 'loads'}."
    if next_on is not None:
        return f"{had} Look again on {next_on:%-d %B %Y}."
    return f"{had} That is every look that was planned." if done else had
