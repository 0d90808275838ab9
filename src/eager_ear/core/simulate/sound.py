"""What the air carries: drum and motor noise, bearing impulses, knocks, ticks, squeal.

Levels are relative to the drum's own broadband noise at full spin. Localised bearing damage excites the structure's
resonances once per ball passage (McFadden & Smith, J. Sound Vib. 96(1), 1984, pp. 69-82); passages jitter with
cage slip (Antoni & Randall, J. Vib. Acoust. 125(3), 2003, pp. 282-289).
"""

from __future__ import annotations

import numpy as np
from scipy import signal as sps

from eager_ear.core.machine import race_orders
from eager_ear.core.simulate.motion import Rotation, Shaking
from eager_ear.core.simulate.washer import Washer
from eager_ear.core.units import FloatArray


def sound_at_machine(
    washer: Washer, rotation: Rotation, shaking: Shaking, *, sample_rate_hz: float, rng: np.random.Generator
) -> FloatArray:
    """Sound close to the machine [shape=(n,), 1 = drum noise RMS at full spin]."""
    count = int(rotation.t_s[-1] * sample_rate_hz)
    t_s = np.arange(count) / sample_rate_hz
    speed = np.interp(t_s, rotation.t_s, rotation.drum_hz) / (washer.spin_rpm / 60.0)
    turns = np.interp(t_s, rotation.t_s, rotation.drum_turns)
    out = _air(washer, speed, turns, sample_rate_hz, rng)
    out += _motor(washer, rotation, t_s, sample_rate_hz, rng)
    if washer.bearing_level > 0 and washer.drum_driven:
        out += _bearing(washer, rotation, speed, sample_rate_hz, rng)
    if washer.impact_level > 0:
        out += _impacts(washer, rotation, count, sample_rate_hz, rng)
    if shaking.hits:
        out += _stop_hits(shaking, count, sample_rate_hz, rng)
    if washer.squeal_level > 0:
        out += _squeal(washer, rotation, t_s, rng)
    return out


def coloured_noise(count: int, *, sample_rate_hz: float, corner_hz: float, rng: np.random.Generator) -> FloatArray:
    """Gaussian noise of unit RMS, falling 6 dB an octave above the corner."""
    pole = np.exp(-2 * np.pi * corner_hz / sample_rate_hz)
    noise = sps.lfilter([1.0 - pole], [1.0, -pole], rng.standard_normal(count, dtype=np.float32))
    return np.asarray(noise / max(float(np.std(noise)), 1e-12))


def _air(
    washer: Washer, speed: FloatArray, turns: FloatArray, sample_rate_hz: float, rng: np.random.Generator
) -> FloatArray:
    corner = float(rng.uniform(300, 1800))
    noise = coloured_noise(speed.size, sample_rate_hz=sample_rate_hz, corner_hz=corner, rng=rng)
    wobble = 1.0 + float(rng.uniform(0.03, 0.15)) * np.sin(2 * np.pi * turns + 1.0)
    rumble = float(rng.uniform(0.1, 0.5)) * speed**2 * np.sin(2 * np.pi * turns)
    return np.asarray(washer.air_level * speed**washer.air_exponent * wobble * noise + rumble)


def _motor(
    washer: Washer, rotation: Rotation, t_s: FloatArray, sample_rate_hz: float, rng: np.random.Generator
) -> FloatArray:
    turns = np.interp(t_s, rotation.t_s, np.cumsum(rotation.motor_hz) / 1000.0)
    share = np.interp(t_s, rotation.t_s, rotation.motor_hz) / (washer.spin_rpm * washer.pulley_ratio / 60.0)
    out = (
        0.25
        * np.clip(share, 0, 2) ** 1.2
        * coloured_noise(t_s.size, sample_rate_hz=sample_rate_hz, corner_hz=float(rng.uniform(800, 3000)), rng=rng)
    )
    rate_at_full = washer.spin_rpm * washer.pulley_ratio / 60.0
    for order, level in washer.motor_orders:
        if order * rate_at_full < 0.45 * sample_rate_hz:
            tone = np.sin(2 * np.pi * order * turns + float(rng.uniform(0, 6.28)))
            out += washer.motor_tone_level * level * np.clip(share, 0, 2) ** 0.7 * tone
    return np.asarray(out)


def _ring(washer: Washer, sample_rate_hz: float) -> FloatArray:
    """Impulse response of the structure: a few damped modes, unit energy."""
    t_s = np.arange(int(0.02 * sample_rate_hz)) / sample_rate_hz
    modes = [
        np.exp(-np.pi * f / q * t_s) * np.sin(2 * np.pi * f * t_s)
        for f, q in zip(washer.structure_hz, washer.structure_q, strict=True)
        if f < 0.45 * sample_rate_hz
    ]
    ring = np.sum(modes, axis=0)
    return np.asarray(ring / np.sqrt(np.sum(ring**2)))


def _bearing(
    washer: Washer, rotation: Rotation, speed: FloatArray, sample_rate_hz: float, rng: np.random.Generator
) -> FloatArray:
    orders = race_orders(washer.bearing)
    order = {"outer": orders.outer_race, "inner": orders.inner_race, "ball": 2 * orders.ball}[washer.bearing_race]
    order *= 1.0 - washer.bearing_slip
    turns = rotation.drum_turns - rotation.drum_turns[0]
    total = int(turns[-1] * order)
    passages = (np.arange(total) + np.cumsum(0.004 * rng.standard_normal(total))) / order
    passages = np.clip(np.maximum.accumulate(passages), 0, turns[-1] - 1e-6)
    rising = np.maximum.accumulate(turns + 1e-12 * np.arange(turns.size))
    times = np.interp(passages, rising, rotation.t_s)
    load_zone = 1.0 + 0.2 * np.cos(2 * np.pi * passages)
    if washer.bearing_race == "inner":
        load_zone = np.maximum(0.15, np.cos(2 * np.pi * passages)) ** 1.0
    elif washer.bearing_race == "ball":
        load_zone = np.maximum(0.15, np.cos(2 * np.pi * passages * orders.cage))
    strength = load_zone * np.exp(0.35 * rng.standard_normal(total))
    train = np.zeros(speed.size)
    index = np.minimum((times * sample_rate_hz).astype(int), speed.size - 1)
    np.add.at(train, index, strength)
    rate_at_full = order * washer.spin_rpm / 60.0
    train *= washer.bearing_level * np.sqrt(sample_rate_hz / rate_at_full) * speed**1.0
    hiss = coloured_noise(speed.size, sample_rate_hz=sample_rate_hz, corner_hz=5000.0, rng=rng)
    rough = washer.bearing_level * washer.bearing_roughness * speed**0.8 * hiss
    ring = _ring(washer, sample_rate_hz)
    sound = sps.oaconvolve(train, ring)[: speed.size] + 0.5 * rough
    if washer.stage == "whine":
        drum_phase = 2 * np.pi * order * np.interp(np.arange(speed.size) / sample_rate_hz, rotation.t_s, turns)
        sound += washer.bearing_level * speed * (np.sin(drum_phase) + 0.5 * np.sin(2 * drum_phase))
    return np.asarray(sound)


def _burst(low_hz: float, high_hz: float, sample_rate_hz: float, rng: np.random.Generator) -> FloatArray:
    """One knock: three modes in the band, decaying over a few periods; unit peak."""
    length_s = min(8.0 / low_hz, 0.15)
    t_s = np.arange(int(length_s * sample_rate_hz)) / sample_rate_hz
    out = np.zeros(t_s.size)
    for f in rng.uniform(low_hz, min(high_hz, 0.42 * sample_rate_hz), size=3):
        out += np.exp(-t_s * f * float(rng.uniform(0.35, 0.8))) * np.sin(2 * np.pi * f * t_s)
    return np.asarray(out / max(float(np.max(np.abs(out))), 1e-9))


def _impacts(
    washer: Washer, rotation: Rotation, count: int, sample_rate_hz: float, rng: np.random.Generator
) -> FloatArray:
    turns = rotation.drum_turns
    whole = np.arange(np.ceil(turns[0]), turns[-1]) + float(rng.uniform())
    whole = whole + washer.impact_jitter_turns * rng.standard_normal(whole.size)
    whole = whole[(rng.uniform(size=whole.size) < washer.impact_chance) & (whole > turns[0]) & (whole < turns[-1])]
    rising = turns + 1e-12 * np.arange(turns.size)
    times = np.interp(whole, rising, rotation.t_s)
    rpm = np.interp(times, rotation.t_s, rotation.drum_hz) * 60.0
    low, high = washer.impact_speed_rpm
    heard = (rpm > low) & (rpm < high)
    train = np.zeros(count)
    index = np.minimum((times[heard] * sample_rate_hz).astype(int), count - 1)
    train[index] = washer.impact_level * np.exp(0.25 * rng.standard_normal(index.size))
    burst = _burst(*washer.impact_band_hz, sample_rate_hz, rng)
    return np.asarray(sps.oaconvolve(train, burst)[:count])


def _stop_hits(shaking: Shaking, count: int, sample_rate_hz: float, rng: np.random.Generator) -> FloatArray:
    train = np.zeros(count)
    for t_s, speed_m_s in shaking.hits:
        train[min(int(t_s * sample_rate_hz), count - 1)] += 1.5 * speed_m_s
    return np.asarray(sps.oaconvolve(train, _burst(50.0, 200.0, sample_rate_hz, rng))[:count])


def _squeal(washer: Washer, rotation: Rotation, t_s: FloatArray, rng: np.random.Generator) -> FloatArray:
    """Stick-slip tone while the belt accelerates the drum."""
    push = np.clip(np.gradient(rotation.drum_hz, 0.001) / (washer.ramp_rpm_s / 60.0), 0, 1) * rotation.motor_on
    level = np.interp(t_s, rotation.t_s, push) * (0.6 + 0.4 * np.sin(2 * np.pi * 3.1 * t_s))
    base_hz = float(rng.uniform(900, 2600))
    phase = 2 * np.pi * base_hz * (t_s + 0.01 * np.sin(2 * np.pi * 0.7 * t_s))
    return np.asarray(washer.squeal_level * level * (np.sin(phase) + 0.4 * np.sin(2 * phase) + 0.2 * np.sin(3 * phase)))
