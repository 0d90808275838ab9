"""One washer spun once for every corner of its cabinet, the phone moved on each time."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from eager_ear.core.case import Case, Recording
from eager_ear.core.machine import find_layout
from eager_ear.core.simulate.faults import draw_washer
from eager_ear.core.simulate.phone import draw_phone
from eager_ear.core.simulate.scenario import record_washer

CORNER_POSITIONS = ("top_front_left", "top_front_right", "top_rear_right", "top_rear_left")


def simulate_corners(*, layout: str, faults: Sequence[str], seed: int, strength: float = 0.8) -> Case:
    """A case with one run a corner: sound beside the first, vibration in all.

    Raises
    ------
    BadField, UnknownCode
        A layout or fault that cannot be simulated.
    """
    rng = np.random.default_rng(seed)
    washer = draw_washer(find_layout(layout), faults=faults, strength=strength, rng=rng)
    phone = draw_phone(rough=False, rng=rng)
    recordings: list[Recording] = []
    for run, position in enumerate(CORNER_POSITIONS, start=1):
        taken = record_washer(
            washer,
            rng=rng,
            name="corners",
            rough=False,
            with_audio=run == 1,
            position=position,
            same_phone=phone,
        )
        for recording in taken.case.recordings:
            name = f"{recording.facts.kind}-{run}.{'wav' if recording.facts.kind == 'audio' else 'csv'}"
            recordings.append(replace(recording, facts=replace(recording.facts, name=name, run=str(run))))
    return replace(taken.case, id=f"sim-corners-{layout}-{seed}", recordings=tuple(recordings))
