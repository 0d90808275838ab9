"""A damaged bearing's impulses ringing in the structure.

Localised damage excites the structure's resonances once per ball passage (McFadden & Smith, J. Sound Vib. 96(1),
1984, pp. 69-82); passages jitter with the cage's slip (Antoni & Randall, J. Vib. Acoust. 125(3), 2003, pp. 282-289).
"""

from __future__ import annotations

import numpy as np
import scipy

from eager_ear.core.machine import race_orders
from eager_ear.core.simulate.rotation import Rotation
from eager_ear.core.simulate.washer import BearingDamage, Washer
from eager_ear.core.units import FloatArray


def damage_order(damage: BearingDamage) -> float:
    """Impulses per drum turn, slip included."""
    orders = race_orders(damage.size)
    order = {"outer": orders.outer_race, "inner": orders.inner_race, "ball": 2 * orders.ball}[damage.race]
    return order * (1.0 - damage.slip)


def bearing_sound(
    washer: Washer,
    damage: BearingDamage,
    rotation: Rotation,
    speed: FloatArray,
    *,
    sample_rate_hz: float,
    rng: np.random.Generator,
) -> FloatArray:
    """Sound of the damage [shape like `speed`, which is the drum's speed over its full speed]."""
    order = damage_order(damage)
    turns = rotation.drum_turns - rotation.drum_turns[0]
    total = int(turns[-1] * order)
    passages = (np.arange(total) + np.cumsum(0.004 * rng.standard_normal(total))) / order
    passages = np.clip(np.maximum.accumulate(passages), 0, turns[-1] - 1e-6) if total else passages
    rising = np.maximum.accumulate(turns + 1e-12 * np.arange(turns.size))
    times = np.interp(passages, rising, rotation.t_s)
    strength = _load_zone(damage, passages) * np.exp(0.35 * rng.standard_normal(total))
    train = np.zeros(speed.size)
    index = np.minimum((times * sample_rate_hz).astype(int), speed.size - 1)
    np.add.at(train, index, strength)
    rate_at_full = order * washer.drive.spin_rpm / 60.0
    train *= damage.level * np.sqrt(sample_rate_hz / rate_at_full) * speed
    sound = scipy.signal.oaconvolve(train, _ring(washer, sample_rate_hz))[: speed.size]
    pole = np.exp(-2 * np.pi * 5000.0 / sample_rate_hz)
    hiss = scipy.signal.lfilter([1.0 - pole], [1.0, -pole], rng.standard_normal(speed.size, dtype=np.float32))
    sound += 0.5 * damage.level * damage.roughness * speed**0.8 * hiss / np.std(hiss)
    if damage.stage == "whine":
        phase = 2 * np.pi * order * np.interp(np.arange(speed.size) / sample_rate_hz, rotation.t_s, turns)
        sound += damage.level * speed * (np.sin(phase) + 0.5 * np.sin(2 * phase))
    return np.asarray(sound)


def _load_zone(damage: BearingDamage, passages: FloatArray) -> FloatArray:
    """How hard each passage is pressed: an inner race and a ball travel through the loaded arc."""
    if damage.race == "inner":
        return np.asarray(np.maximum(0.15, np.cos(2 * np.pi * passages)))
    if damage.race == "ball":
        return np.asarray(np.maximum(0.15, np.cos(2 * np.pi * passages * race_orders(damage.size).cage)))
    return np.asarray(1.0 + 0.2 * np.cos(2 * np.pi * passages))


def _ring(washer: Washer, sample_rate_hz: float) -> FloatArray:
    """Impulse response of the structure: a few damped modes, unit energy."""
    t_s = np.arange(int(0.02 * sample_rate_hz)) / sample_rate_hz
    modes = [
        np.exp(-np.pi * f / q * t_s) * np.sin(2 * np.pi * f * t_s)
        for f, q in zip(washer.structure_hz, washer.structure_q, strict=True)
        if f < 0.45 * sample_rate_hz
    ]
    ring = np.sum(modes, axis=0) if modes else np.ones(1)
    return np.asarray(ring / np.sqrt(np.sum(ring**2)))
