"""Sound close to the machine: resonant noise, motor harmonics, carriers, struck plates, races, rubbing."""

from __future__ import annotations

import math

import numpy as np
import scipy

from eager_ear.core.machine import race_orders
from eager_ear.core.simulate.rotation import STEP_S, Rotation
from eager_ear.core.simulate.shaking import Shaking
from eager_ear.core.simulate.washer import BearingDamage, Knocks, Washer
from eager_ear.core.units import FloatArray

# How often something rubs for a while, and how often a collapsed bearing roars without a line.
RUB_SHARE, ROAR_SHARE = 0.15, 0.5


def sound(
    washer: Washer,
    rotation: Rotation,
    shaking: Shaking,
    *,
    sample_rate_hz: float,
    mains_hz: float,
    rng: np.random.Generator,
) -> FloatArray:
    """Sound close to the machine [shape=(n,), 1 = drum noise at full spin]."""
    rate, drive = sample_rate_hz, washer.drive
    count = int(rotation.t_s[-1] * rate)
    t_s = np.arange(count) / rate

    def at(values: FloatArray) -> FloatArray:
        return np.asarray(np.interp(t_s, rotation.t_s, values))

    speed = at(rotation.drum_hz) * 60.0 / max(drive.spin_rpm, 100.0)
    motor = at(rotation.motor_hz) * 60.0 / max(drive.spin_rpm * drive.pulley_ratio, 100.0)
    powered = at(rotation.motor_on)
    loud = float(np.exp(rng.uniform(-0.3, 1.1)))
    out = float(rng.uniform(0.1, 1.0)) * np.clip(motor, 0, 2) ** 1.5 * _resonant(count, rate, (400.0, 3500.0), rng)
    out *= loud
    poles = float(rng.choice([1, 2, 3, 4, 6]))
    turn = 2 * np.pi * np.cumsum(at(rotation.motor_hz)) / rate
    fade = float(rng.uniform(0.8, 1.6))
    for k in range(1, 9):
        heard = k * poles * at(rotation.motor_hz) < 0.45 * rate
        tone = np.sin(k * poles * turn + float(rng.uniform(0, 6.3)))
        out += (
            0.35
            * loud
            * drive.tone_level
            * k**-fade
            * np.clip(motor, 0, 2) ** 0.6
            * (0.25 + 0.75 * powered)
            * tone
            * heard
        )
    carrier = float(rng.uniform(2500, 7500))
    if carrier < 0.4 * rate:
        out += 0.08 * drive.tone_level * powered * (motor > 0.02) * np.sin(2 * np.pi * carrier * t_s + np.sin(2 * turn))
    if washer.turns_drum:
        slow = 1.0 + float(rng.uniform(0.0, 0.2)) * np.cos(2 * np.pi * at(rotation.drum_turns))
        rises = float(rng.uniform(1.0, 2.2))
        out += washer.air_level * np.clip(speed, 0, 2) ** rises * slow * _resonant(count, rate, (150.0, 4000.0), rng)
        if washer.damage is not None and washer.damage.stage == "collapsed" and rng.random() < ROAR_SHARE:
            out += _roar(washer.damage, speed, rate, rng)
        elif washer.damage is not None:
            out += _race(washer, washer.damage, rotation, speed, rate, rng)
        if rng.random() < RUB_SHARE:
            out += _rub(at(rotation.drum_turns), speed, rate, rng)
        for knocks in washer.knocks:
            out += _knocks(knocks, rotation, count, rate, rng)
    if shaking.hits:
        times, speeds = np.asarray(shaking.hits).T
        out += _plates(times, 1.2 * speeds, (40.0, 260.0), count, rate, rng)
    if shaking.slaps:
        times, speeds = np.asarray(shaking.slaps).T
        out += _plates(times, float(rng.uniform(3.0, 15.0)) * speeds, (60.0, 700.0), count, rate, rng)
    if rotation.slips_s:
        bursts = np.concatenate([np.asarray(rotation.slips_s) + d for d in np.cumsum(rng.uniform(0.02, 0.1, 5))])
        out += _plates(bursts, np.full(bursts.size, drive.clank_level), (900.0, 6000.0), count, rate, rng)
    if drive.squeal_level > 0:
        gaining = np.clip(np.gradient(rotation.drum_hz, STEP_S) * 60.0 / drive.ramp_rpm_s, 0, 1) * rotation.motor_on
        pitch = float(rng.uniform(700, 3200)) * (1.0 + 0.03 * np.sin(2 * np.pi * 1.3 * t_s))
        phase = 2 * np.pi * np.cumsum(pitch) / rate
        on = at(gaining) * (scipy.signal.sawtooth(2 * np.pi * float(rng.uniform(3, 8)) * t_s, 0.5) > -0.3)
        out += drive.squeal_level * on * np.tanh(2.0 * np.sin(phase))
    if drive.grinding_level > 0:
        differs = np.cumsum(np.abs(rotation.motor_hz / max(drive.pulley_ratio, 1e-6) - rotation.drum_hz)) * STEP_S
        teeth = np.arange(1, int(differs[-1] * 4)) / 4.0
        times = np.interp(teeth, differs + 1e-12 * np.arange(differs.size), rotation.t_s)
        strengths = drive.grinding_level * rng.gamma(2.0, 0.5, times.size)
        out += _plates(times, strengths, (500.0, 4500.0), count, rate, rng)
    if drive.hum_level > 0:
        phase = 2 * np.pi * 2 * mains_hz * t_s
        out += drive.hum_level * at(rotation.humming.astype(float)) * np.tanh(1.5 * np.sin(phase))
    return np.asarray(out)


def _resonant(count: int, rate: float, band_hz: tuple[float, float], rng: np.random.Generator) -> FloatArray:
    """Noise of unit RMS through three broad resonances over a slope."""
    white = rng.standard_normal(count)
    out = 0.3 * scipy.signal.lfilter([0.08], [1.0, -0.92], white)
    for centre in rng.uniform(*band_hz, size=3):
        hz = min(float(centre), 0.4 * rate)
        # A resonance broader than half the rate would be none.
        b, a = scipy.signal.iirpeak(hz, max(float(rng.uniform(0.7, 4.0)), 2.4 * hz / rate), fs=rate)
        out = out + float(rng.uniform(0.2, 1.0)) * scipy.signal.lfilter(b, a, white)
    return np.asarray(out / max(float(np.std(out)), 1e-12))


def _race(
    washer: Washer, damage: BearingDamage, rotation: Rotation, speed: FloatArray, rate: float, rng: np.random.Generator
) -> FloatArray:
    """Blows of a spall with an entry and an exit, spaced by a cage that slips at random, over a rough rumble."""
    orders = race_orders(damage.size)
    order = {"outer": orders.outer_race, "inner": orders.inner_race, "ball": 2 * orders.ball}[damage.race]
    turns = rotation.drum_turns - rotation.drum_turns[0]
    steps = 1.0 / order * (1.0 + float(rng.uniform(0.0, 0.012)) + 0.008 * rng.standard_normal(int(turns[-1] * order)))
    passes = np.cumsum(steps)
    passes = passes[passes < turns[-1]]
    times = np.interp(passes, turns + 1e-12 * np.arange(turns.size), rotation.t_s)
    load = {"outer": 1.0 + 0 * passes, "inner": 0.2 + 0.8 * np.cos(np.pi * passes) ** 2}.get(
        damage.race, 0.3 + 0.7 * np.cos(np.pi * passes * orders.cage) ** 2
    )
    fast = np.interp(times, rotation.t_s, rotation.drum_hz) * 60.0 / max(washer.drive.spin_rpm, 100.0)
    hard = damage.level * load * rng.gamma(3.0, 1.0 / 3.0, times.size) * fast**1.2
    # Unit blows at this rate and this ring have about the energy of the noise that level 1 stands for.
    hard = hard * math.sqrt(rate / max(order * washer.drive.spin_rpm / 60.0, 1.0)) * 0.3
    band = (1200.0, min(9000.0, 0.4 * rate))
    out = _plates(times, hard, band, speed.size, rate, rng) + _plates(
        times + 0.0012, 0.5 * hard, band, speed.size, rate, rng
    )
    rough = _resonant(speed.size, rate, (800.0, 5000.0), rng)
    cage = 1.0 + 0.4 * np.cos(2 * np.pi * orders.cage * np.interp(np.arange(speed.size) / rate, rotation.t_s, turns))
    return np.asarray(out + 0.5 * damage.level * damage.roughness * np.clip(speed, 0, 2) * cage * rough)


def _roar(damage: BearingDamage, speed: FloatArray, rate: float, rng: np.random.Generator) -> FloatArray:
    """Races so far gone that no blow keeps its place: noise that swells at random, a few times a second."""
    count = speed.size
    coarse = rng.gamma(1.5, 1.0 / 1.5, int(count / rate * float(rng.uniform(5.0, 25.0))) + 4)
    swell = np.interp(np.linspace(0, coarse.size - 1, count), np.arange(coarse.size), coarse)
    return np.asarray(2.0 * damage.level * np.clip(speed, 0, 2) * swell * _resonant(count, rate, (300.0, 5000.0), rng))


def _rub(turns: FloatArray, speed: FloatArray, rate: float, rng: np.random.Generator) -> FloatArray:
    """Something touches over a part of each turn, for a while, now more, now less."""
    count = turns.size
    width = float(rng.uniform(0.15, 0.45))
    touches = np.clip(np.cos(2 * np.pi * (turns + float(rng.uniform()))) - math.cos(math.pi * width), 0, None)
    comes = np.interp(np.arange(count), np.linspace(0, count, 12), np.clip(rng.normal(0.2, 0.6, 12), 0, 1))
    noise = _resonant(count, rate, (600.0, 5000.0), rng)
    return np.asarray(float(rng.uniform(0.3, 1.5)) * touches * comes * np.clip(speed, 0.05, 2) ** 0.7 * noise)


def _knocks(knocks: Knocks, rotation: Rotation, count: int, rate: float, rng: np.random.Generator) -> FloatArray:
    """Blows at their angles, missed now and then, harder the faster it turns; or at moments of their own."""
    if knocks.per_turn:
        turns = rotation.drum_turns
        angles = np.arange(math.ceil(turns[0]), turns[-1], 1.0 / knocks.per_turn) + float(rng.uniform())
        angles = angles + knocks.jitter_turns * rng.uniform(-1.7, 1.7, angles.size)
        angles = angles[(angles < turns[-1]) & (rng.random(angles.size) < knocks.chance)]
        times = np.interp(angles, turns + 1e-12 * np.arange(turns.size), rotation.t_s)
    else:
        times = np.cumsum(rng.exponential(1.0 / knocks.per_s, int(knocks.per_s * rotation.t_s[-1])))
        times = times[times < rotation.t_s[-1]]
    rpm = 60.0 * np.interp(times, rotation.t_s, rotation.drum_hz)
    low, high = knocks.speed_rpm
    use = (rpm > low) & (rpm < high)
    even = float(np.exp(rng.uniform(math.log(1.5), math.log(20.0))))
    hard = knocks.level * rng.gamma(even, 1.0 / even, times.size) * (0.6 + 0.4 * np.clip(rpm / 600.0, 0, 1))
    shifted = float(np.exp(rng.uniform(-0.7, 0.7)))
    band_hz = (knocks.band_hz[0] * shifted, knocks.band_hz[1] * shifted)
    return _plates(times[use], hard[use], band_hz, count, rate, rng)


def _plates(
    times: FloatArray,
    strengths: FloatArray,
    band_hz: tuple[float, float],
    count: int,
    rate: float,
    rng: np.random.Generator,
) -> FloatArray:
    """Blows on a plate: many modes of the band, the high ones dying first, after a click."""
    train = np.zeros(count)
    inside = (times >= 0) & (times < count / rate)
    np.add.at(train, (times[inside] * rate).astype(int), strengths[inside])
    low, high = band_hz[0], min(band_hz[1], 0.42 * rate)
    low = min(low, 0.7 * high)
    t_s = np.arange(int(min(10.0 / low, 0.2) * rate)) / rate
    modes = np.exp(rng.uniform(math.log(low), math.log(high), 7))
    q = float(np.exp(rng.uniform(math.log(1.5), math.log(25.0))))
    ring = np.sum([np.exp(-np.pi * f / q * t_s) * np.sin(2 * np.pi * f * t_s + k) for k, f in enumerate(modes)], axis=0)
    ring /= max(float(np.max(np.abs(ring))), 1e-9)
    return np.asarray(scipy.signal.oaconvolve(train, ring)[:count])
