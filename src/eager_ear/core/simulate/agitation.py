"""A top loader that washes: what an ear at the lid hears while the agitator or plate works and the basket stands.

An agitator swings to and fro through something like half a turn, nearly as a sine (its gearcase is a crank), a good
half to one stroke a second; a plate or pulsator is driven one way for a second, rests, and is driven back. The motor
of a crank runs on one way at its own speed; the others are turned round with every stroke.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import scipy

from eager_ear.core.machine import find_layout
from eager_ear.core.signals.types import AudioSignal
from eager_ear.core.simulate.air import coloured_noise, sound_at_machine
from eager_ear.core.simulate.by_hand import MAINS_HZ, RATE_HZ, at_half_scale
from eager_ear.core.simulate.faults import draw_washer
from eager_ear.core.simulate.rotation import STEP_RATE_HZ, STEP_S, Rotation
from eager_ear.core.simulate.shaking import shake
from eager_ear.core.simulate.washer import Washer
from eager_ear.core.units import FloatArray

STROKES_HZ = 0.9
SWING_TURNS = 95.0 / 360.0
BURST_S, REST_S, BURST_HZ = 0.9, 0.35, 2.2
RISE_S = 0.12
# Water follows the blades and runs on after them.
WATER_LAG_S, WATER_LEVEL, WATER_CORNER_HZ = 0.2, 0.3, 350.0
CRANKED = "top_coupler"


def simulate_agitation(
    *, layout: str, faults: Sequence[str], seed: int, strength: float | None, lasts_s: float
) -> AudioSignal:
    """The sound at the lid during the wash, without a room; a plate that is not reached by its motor stands.

    Raises
    ------
    BadField, UnknownCode
        A layout or fault that cannot be simulated.
    """
    rng = np.random.default_rng(seed)
    found = find_layout(layout)
    washer = draw_washer(found, faults=faults, strength=strength, rng=rng)
    stroke_hz = strokes(lasts_s, swings="agitator" in found.inside)
    rotation = _driven(washer, stroke_hz)
    shaking = shake(washer, rotation, position="top_centre", rng=rng)
    sound = sound_at_machine(washer, rotation, shaking, sample_rate_hz=RATE_HZ, mains_hz=MAINS_HZ, rng=rng)
    return at_half_scale(sound + _water(rotation, sound.size, rng))


def strokes(lasts_s: float, *, swings: bool) -> FloatArray:
    """How fast the plate turns, one way positive, on a 1 kHz clock [shape=(n,), turns/s]."""
    t_s = np.arange(int((lasts_s + STEP_S) * STEP_RATE_HZ)) * STEP_S
    if swings:
        return np.asarray(2 * np.pi * STROKES_HZ * SWING_TURNS * np.cos(2 * np.pi * STROKES_HZ * t_s))
    through = t_s % (BURST_S + REST_S)
    way = np.where((t_s // (BURST_S + REST_S)) % 2 == 0, 1.0, -1.0)
    push = np.clip(through / RISE_S, 0, 1) * np.clip((BURST_S - through) / RISE_S, 0, 1)
    return np.asarray(BURST_HZ * way * push)


def _driven(washer: Washer, stroke_hz: FloatArray) -> Rotation:
    """Plate and motor. What is tied to a turn is heard whichever way the plate goes."""
    plate_hz = np.abs(stroke_hz)
    ratio = washer.drive.pulley_ratio
    cranked = washer.layout == CRANKED
    motor_hz = np.full(plate_hz.size, washer.drive.spin_rpm * ratio / 60.0) if cranked else ratio * plate_hz
    hums = washer.drive.hum_level > 0
    if hums:
        motor_hz = np.zeros(plate_hz.size)
    drum_hz = plate_hz if washer.turns_drum and not hums else np.zeros(plate_hz.size)
    t_s = np.arange(plate_hz.size) * STEP_S
    return Rotation(
        t_s=t_s,
        drum_hz=drum_hz,
        drum_turns=np.cumsum(drum_hz) * STEP_S,
        motor_hz=motor_hz,
        motor_on=np.ones(plate_hz.size) if cranked else (plate_hz > 0).astype(float),
        humming=np.full(plate_hz.size, hums),
        slips_s=(),
        power_cut_s=float(t_s[-1]),
        rest_s=float(t_s[-1]),
    )


def _water(rotation: Rotation, count: int, rng: np.random.Generator) -> FloatArray:
    """Splash of what the plate moves, none where it stands."""
    share = STEP_S / WATER_LAG_S
    moved = scipy.signal.lfilter([share], [1.0, share - 1.0], rotation.drum_hz)
    level = np.interp(np.arange(count) / RATE_HZ, rotation.t_s, moved)
    noise = coloured_noise(count, sample_rate_hz=RATE_HZ, corner_hz=WATER_CORNER_HZ, rng=rng)
    return np.asarray(WATER_LEVEL * level * noise)
