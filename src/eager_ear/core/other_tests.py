"""What recordings beside the spin show, in words: pushes, the room, a machine that was to move."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from eager_ear.core.diagnosis.evidence import ENERGISED, Room, Shown, one_hum
from eager_ear.core.diagnosis.knowledge import Finding
from eager_ear.core.signals.mechanics import BounceDecay
from eager_ear.core.signals.sound import above_room_db
from eager_ear.core.units import plus_minus


@dataclass(frozen=True, kw_only=True)
class OtherTest:
    """One thing that a recording other than a spin shows, in a sentence; `key` names the run."""

    test: str
    key: str
    says: str


def other_tests(
    shown: Sequence[Shown], *, lead: Shown | None, findings: Mapping[str, Finding]
) -> tuple[OtherTest, ...]:
    """What all recordings other than spins show; nothing of those in which nothing is measured.

    Parameters
    ----------
    lead : the spin that stands for the case, against which a room is held
    """
    rooms = [room for each in shown for room in each.rooms]
    out: list[OtherTest] = []
    for each in shown:
        says: list[str] = []
        if each.test in ENERGISED and each.observations:
            heard = one_hum([each], rooms=rooms, findings=findings)
            says = [r.text for r in heard] or ["the hum is no louder than the room's"]
        says += [_push(bounce) for bounce in each.bounces]
        says += [_room(room, lead) for room in each.rooms]
        out += [OtherTest(test=each.test, key=each.key, says=_sentence(text)) for text in says]
    return tuple(out)


def _push(bounce: BounceDecay) -> str:
    by_friction = f", {100 * bounce.friction_share:.0f} % of the loss by friction" if bounce.friction_share else ""
    return (
        f"swings at {60 * bounce.rate_hz:.0f} a minute with a damping ratio of "
        f"{plus_minus(bounce.damping_ratio, bounce.damping_sigma, decimals=2)}{by_friction}"
    )


def _room(room: Room, lead: Shown | None) -> str:
    if lead is None or lead.bands is None:
        return "kept to be held against a spin"
    above_db = above_room_db(lead.bands, room.bands)
    return f"the spin at full speed stands {np.median(above_db):.0f} dB above it, in the middle of all bands"


def _sentence(text: str) -> str:
    return f"{text[:1].upper()}{text[1:]}."
