"""A room of bare walls: sparse echoes before a tail, and what else sounds in it."""

from __future__ import annotations

import numpy as np
import scipy

from eager_ear.core.simulate.room import Room, room_alone
from eager_ear.core.units import FloatArray


def heard(room: Room, sound: FloatArray, *, sample_rate_hz: float, rng: np.random.Generator) -> FloatArray:
    """Early echoes of bare walls, then a tail, and what else sounds in the room [shape like `sound`]."""
    length = int(min(room.reverberation_s, 0.3) * sample_rate_hz)
    response = np.zeros(length + 1)
    response[0] = 1.0
    for echo_s in rng.uniform(0.002, 0.025, 6):
        response[min(int(echo_s * sample_rate_hz), length)] += float(rng.uniform(-0.5, 0.5)) * room.reverberant_share
    start = int(0.02 * sample_rate_hz)
    if length > start:
        t_s = np.arange(length - start) / sample_rate_hz
        tail = rng.standard_normal(t_s.size) * np.exp(-6.9 * t_s / room.reverberation_s)
        response[start:length] += 0.6 * room.reverberant_share * tail / max(float(np.linalg.norm(tail)), 1e-9)
    out = scipy.signal.oaconvolve(sound, response)[: sound.size]
    return np.asarray(out + room_alone(room, count=sound.size, sample_rate_hz=sample_rate_hz, rng=rng))
