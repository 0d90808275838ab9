"""A drum that is turned by hand, the motor off: what an ear at the tub hears."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from eager_ear.core.machine import find_layout
from eager_ear.core.signals.types import AudioSignal
from eager_ear.core.simulate.air import sound_at_machine
from eager_ear.core.simulate.faults import draw_washer
from eager_ear.core.simulate.rotation import STEP_RATE_HZ, STEP_S, Rotation
from eager_ear.core.simulate.shaking import shake
from eager_ear.core.units import FloatArray

RATE_HZ = 44_100.0
HAND_RPM = 38.0
# A hand pushes once a turn, and the drum slows in between.
PUSHES = 0.12
MAINS_HZ = 50.0


def simulate_hand_turn(
    *, layout: str, faults: Sequence[str], seed: int, strength: float | None, lasts_s: float
) -> AudioSignal:
    """The sound close to a drum at hand speed, without a room.

    Raises
    ------
    BadField, UnknownCode
        A layout or fault that cannot be simulated.
    """
    rng = np.random.default_rng(seed)
    washer = draw_washer(find_layout(layout), faults=faults, strength=strength, rng=rng)
    rotation = _turned(lasts_s)
    shaking = shake(washer, rotation, position="top_centre", rng=rng)
    sound = sound_at_machine(washer, rotation, shaking, sample_rate_hz=RATE_HZ, mains_hz=MAINS_HZ, rng=rng)
    return at_half_scale(sound)


def at_half_scale(sound: FloatArray) -> AudioSignal:
    """Sound at `RATE_HZ` with its loudest sample at half of full scale."""
    loudest = max(float(np.max(np.abs(sound))), 1e-9)
    return AudioSignal(samples=(0.5 * sound / loudest).astype(np.float32), sample_rate_hz=RATE_HZ)


def _turned(lasts_s: float) -> Rotation:
    count = int((lasts_s + STEP_S) * STEP_RATE_HZ)
    t_s: FloatArray = np.arange(count) * STEP_S
    mean_hz = HAND_RPM / 60.0
    drum_hz = mean_hz * (1.0 + PUSHES * np.sin(2 * np.pi * mean_hz * t_s))
    still = np.zeros(count)
    return Rotation(
        t_s=t_s,
        drum_hz=drum_hz,
        drum_turns=np.cumsum(drum_hz) * STEP_S,
        motor_hz=still,
        motor_on=still,
        humming=np.zeros(count, dtype=bool),
        slips_s=(),
        power_cut_s=0.0,
        rest_s=float(t_s[-1]),
    )
