"""The service mode of one platform, as its own sheet tells it, and the beat that leads through its way in.

No sequence ships with the product and none is carried from one platform to another: what is not on a photographed
sheet is not known.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from eager_ear.core.errors import BadField
from eager_ear.core.machine import LAYOUT_CODES

Act = Literal["left", "right", "press", "hold"]
ACTS: tuple[Act, ...] = ("left", "right", "press", "hold")
# So much of the sheet's limit is used, so that a slip of a second is not another try.
SHARE_OF_LIMIT = 0.8
# Steps of a knob follow each other comfortably at this; faster than the other nobody turns one [s].
EASY_S = 1.0
QUICKEST_S = 0.25
MOST_ACTS = 60


@dataclass(frozen=True, kw_only=True)
class Turn:
    """Turn the knob one step to a side, or press a key, `count` times; or hold it for `seconds`."""

    act: Act
    count: int = 1
    seconds: float = 0.0
    key: str = ""


@dataclass(frozen=True, kw_only=True)
class ServiceSheet:
    """Slots of the sheet, in the words of whoever read it.

    settle_s : how long it stays plugged in before; time_limit_s : for all of `enter`, None where the sheet has none
    unlock_s : how long the lock stays shut after a spin; photo : of the sheet, without which nothing is kept
    """

    layout: str
    name: str
    photo: str
    enter: tuple[Turn, ...]
    settle_s: float = 30.0
    before: str = ""
    blocked_by: str = ""
    time_limit_s: float | None = None
    confirm: str = ""
    codes: str = ""
    auto_test: str = ""
    spin: str = ""
    calibration: str = ""
    calibration_min: float = 6.0
    start: str = ""
    stop: str = ""
    leave: str = ""
    unlock_s: float = 60.0


@dataclass(frozen=True, kw_only=True)
class Prompt:
    at_s: float
    says: str
    lasts_s: float


@dataclass(frozen=True, kw_only=True)
class Beat:
    """Prompts at their moments from the first act on, and when the last of them is over [s]."""

    prompts: tuple[Prompt, ...]
    lasts_s: float
    limit_s: float | None


def check_sheet(sheet: ServiceSheet) -> None:
    """Raises BadField for slots that cannot be."""
    if sheet.layout not in LAYOUT_CODES:
        raise BadField(field="layout", reason="is no layout.")
    if not sheet.photo:
        raise BadField(field="photo", reason="of the sheet is missing: without it no sequence is kept.")
    if not sheet.enter:
        raise BadField(field="enter", reason="says no way into the mode.")
    for number, turn in enumerate(sheet.enter, 1):
        if turn.act == "hold" and not 0 < turn.seconds <= 60:
            raise BadField(field=f"enter.{number}.seconds", reason="must lie above 0 and up to 60.")
        if turn.act != "hold" and not 1 <= turn.count <= MOST_ACTS:
            raise BadField(field=f"enter.{number}.count", reason=f"must lie between 1 and {MOST_ACTS}.")
    beat(sheet)


def beat(sheet: ServiceSheet) -> Beat:
    """When to do each act so that the whole stays within four fifths of the sheet's limit.

    Raises
    ------
    BadField
        The holds alone, or so many acts, do not fit into the limit.
    """
    holds = sum(turn.seconds for turn in sheet.enter if turn.act == "hold")
    acts = sum(turn.count for turn in sheet.enter if turn.act != "hold")
    step = EASY_S
    if sheet.time_limit_s is not None and acts:
        step = min(EASY_S, (SHARE_OF_LIMIT * sheet.time_limit_s - holds) / acts)
    if step < QUICKEST_S or (sheet.time_limit_s is not None and holds > sheet.time_limit_s):
        raise BadField(
            field="time_limit_s", reason="leaves no time for so many turns and holds; look at the sheet again."
        )
    prompts, now = [], 0.0
    for turn in sheet.enter:
        if turn.act == "hold":
            prompts.append(Prompt(at_s=now, says=f"hold {turn.key}".strip(), lasts_s=turn.seconds))
            now += turn.seconds
            continue
        for number in range(1, turn.count + 1):
            of = f" {number} of {turn.count}" if turn.count > 1 else ""
            prompts.append(Prompt(at_s=now, says=f"{turn.act} {turn.key}".strip() + of, lasts_s=step))
            now += step
    return Beat(prompts=tuple(prompts), lasts_s=now, limit_s=sheet.time_limit_s)
