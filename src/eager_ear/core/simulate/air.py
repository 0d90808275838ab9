"""What the air carries: drum and motor noise, squeal, grinding, hum, and the sum of everything.

Levels are relative to the drum's own broadband noise at full spin.
"""

from __future__ import annotations

import numpy as np
import scipy

from eager_ear.core.simulate.bearing_sound import bearing_sound
from eager_ear.core.simulate.blows import blow_sounds, burst
from eager_ear.core.simulate.rotation import STEP_RATE_HZ, Rotation
from eager_ear.core.simulate.shaking import Shaking
from eager_ear.core.simulate.washer import Washer
from eager_ear.core.units import FloatArray

# What a motor's mechanical tones keep of their level once no torque passes through them.
IDLE_SHARE = 0.35
PRONGS = 3


def sound_at_machine(
    washer: Washer,
    rotation: Rotation,
    shaking: Shaking,
    *,
    sample_rate_hz: float,
    mains_hz: float,
    rng: np.random.Generator,
) -> FloatArray:
    """Sound close to the machine [shape=(n,), 1 = drum noise RMS at full spin]."""
    count = int(rotation.t_s[-1] * sample_rate_hz)
    t_s = np.arange(count) / sample_rate_hz
    full_hz = max(washer.drive.spin_rpm, 100.0) / 60.0
    speed = np.interp(t_s, rotation.t_s, rotation.drum_hz) / full_hz
    out = np.zeros(count)
    if washer.turns_drum:
        turns = np.interp(t_s, rotation.t_s, rotation.drum_turns)
        out += _drum_noise(washer, speed, turns, sample_rate_hz, rng)
        if washer.damage is not None:
            out += bearing_sound(washer, washer.damage, rotation, speed, sample_rate_hz=sample_rate_hz, rng=rng)
    out += _motor(washer, rotation, t_s, sample_rate_hz, rng)
    out += blow_sounds(washer, rotation, shaking, count=count, sample_rate_hz=sample_rate_hz, rng=rng)
    if washer.drive.squeal_level > 0:
        out += _squeal(washer, rotation, t_s, rng)
    if washer.drive.grinding_level > 0:
        out += _grinding(washer, rotation, t_s, sample_rate_hz, rng)
    if washer.drive.hum_level > 0:
        out += _hum(washer, rotation, t_s, mains_hz)
    return out


def coloured_noise(count: int, *, sample_rate_hz: float, corner_hz: float, rng: np.random.Generator) -> FloatArray:
    """Gaussian noise of unit RMS, falling 6 dB an octave above the corner."""
    pole = np.exp(-2 * np.pi * corner_hz / sample_rate_hz)
    noise = scipy.signal.lfilter([1.0 - pole], [1.0, -pole], rng.standard_normal(count, dtype=np.float32))
    return np.asarray(noise / max(float(np.std(noise)), 1e-12))


def _drum_noise(
    washer: Washer, speed: FloatArray, turns: FloatArray, sample_rate_hz: float, rng: np.random.Generator
) -> FloatArray:
    corner = float(rng.uniform(300, 1800))
    noise = coloured_noise(speed.size, sample_rate_hz=sample_rate_hz, corner_hz=corner, rng=rng)
    once = 2 * np.pi * turns
    wobble = 1.0 + float(rng.uniform(0.02, 0.15)) * np.sin(once + 1.0)
    rumble = float(rng.uniform(0.02, 0.5)) * speed**2 * np.sin(once)
    return np.asarray(washer.air_level * speed**washer.air_exponent * wobble * noise + rumble)


def _motor(
    washer: Washer, rotation: Rotation, t_s: FloatArray, sample_rate_hz: float, rng: np.random.Generator
) -> FloatArray:
    """Fan and brushes as noise, tones at multiples of the motor's rate; the electric ones go with the current."""
    full_hz = max(washer.drive.spin_rpm * washer.drive.pulley_ratio / 60.0, 1.0)
    turns = np.interp(t_s, rotation.t_s, np.cumsum(rotation.motor_hz) / STEP_RATE_HZ)
    share = np.clip(np.interp(t_s, rotation.t_s, rotation.motor_hz) / full_hz, 0, 2)
    powered = np.interp(t_s, rotation.t_s, rotation.motor_on)
    corner = float(rng.uniform(800, 3000))
    noise = coloured_noise(t_s.size, sample_rate_hz=sample_rate_hz, corner_hz=corner, rng=rng)
    out = 0.25 * share**1.2 * noise
    loud = washer.drive.tone_level * share**0.7
    for tone in washer.drive.tones:
        phase = 2 * np.pi * tone.order * turns + float(rng.uniform(0, 6.28))
        left = 0.0 if tone.electric else IDLE_SHARE
        audible = np.interp(t_s, rotation.t_s, tone.order * rotation.motor_hz) < 0.45 * sample_rate_hz
        out += tone.level * loud * (left + (1.0 - left) * powered) * audible * np.sin(phase)
    return np.asarray(out)


def _squeal(washer: Washer, rotation: Rotation, t_s: FloatArray, rng: np.random.Generator) -> FloatArray:
    """Stick-slip tone while the belt accelerates the drum."""
    push = np.clip(np.gradient(rotation.drum_hz, 0.001) / (washer.drive.ramp_rpm_s / 60.0), 0, 1) * rotation.motor_on
    level = np.interp(t_s, rotation.t_s, push) * (0.6 + 0.4 * np.sin(2 * np.pi * float(rng.uniform(2, 5)) * t_s))
    base_hz = float(rng.uniform(900, 2600))
    phase = 2 * np.pi * base_hz * (t_s + 0.01 * np.sin(2 * np.pi * 0.7 * t_s))
    tone = np.sin(phase) + 0.4 * np.sin(2 * phase) + 0.2 * np.sin(3 * phase)
    return np.asarray(washer.drive.squeal_level * level * tone)


def _grinding(
    washer: Washer, rotation: Rotation, t_s: FloatArray, sample_rate_hz: float, rng: np.random.Generator
) -> FloatArray:
    """Prongs or splines jumping past each other, a few blows for every turn by which motor and drum differ."""
    lag = np.cumsum(np.abs(rotation.motor_hz / max(washer.drive.pulley_ratio, 1e-6) - rotation.drum_hz)) / STEP_RATE_HZ
    whole = np.arange(1, int(lag[-1] * PRONGS)) / PRONGS
    times = np.interp(whole, lag + 1e-12 * np.arange(lag.size), rotation.t_s)
    train = np.zeros(t_s.size)
    index = np.minimum((times * sample_rate_hz).astype(int), t_s.size - 1)
    train[index] = washer.drive.grinding_level * rng.lognormal(0.0, 0.5, index.size)
    return np.asarray(scipy.signal.oaconvolve(train, burst(400.0, 3000.0, sample_rate_hz, rng))[: t_s.size])


def _hum(washer: Washer, rotation: Rotation, t_s: FloatArray, mains_hz: float) -> FloatArray:
    on = np.interp(t_s, rotation.t_s, rotation.humming.astype(float))
    phase = 2 * np.pi * 2 * mains_hz * t_s
    tone = np.sin(phase) + 0.4 * np.sin(2 * phase + 1.0) + 0.2 * np.sin(3 * phase)
    return np.asarray(washer.drive.hum_level * on * tone)
