"""Knocks, ticks, thumps and taps: single blows that ring for a few periods."""

from __future__ import annotations

import numpy as np
import scipy

from eager_ear.core.simulate.rotation import Rotation
from eager_ear.core.simulate.shaking import Shaking
from eager_ear.core.simulate.washer import Knocks, Washer
from eager_ear.core.units import FloatArray


def blow_sounds(
    washer: Washer,
    rotation: Rotation,
    shaking: Shaking,
    *,
    count: int,
    sample_rate_hz: float,
    rng: np.random.Generator,
) -> FloatArray:
    """All blows of this machine [shape=(count,)]."""
    out = np.zeros(count)
    if washer.turns_drum:
        for knocks in washer.knocks:
            times = _knock_times(knocks, rotation, rng)
            strengths = knocks.level * np.exp(0.25 * rng.standard_normal(times.size))
            out += _struck(times, strengths, knocks.band_hz, count, sample_rate_hz, rng)
    if shaking.hits:
        hits = np.asarray(shaking.hits)
        out += _struck(hits[:, 0], 1.5 * hits[:, 1], (50.0, 200.0), count, sample_rate_hz, rng)
    if rotation.slips_s:
        slips = np.asarray(rotation.slips_s)
        # Each slip is a short burst of metallic clanks.
        times = (slips[:, None] + np.sort(rng.uniform(0.0, 0.4, size=(slips.size, 6)), axis=1)).ravel()
        strengths = washer.drive.clank_level * rng.lognormal(0.0, 0.4, times.size)
        out += _struck(times, strengths, (600.0, 5000.0), count, sample_rate_hz, rng)
    return out


def burst(low_hz: float, high_hz: float, sample_rate_hz: float, rng: np.random.Generator) -> FloatArray:
    """One blow: three modes in the band, decaying over a few periods; unit peak."""
    t_s = np.arange(int(min(8.0 / low_hz, 0.15) * sample_rate_hz)) / sample_rate_hz
    out = np.zeros(t_s.size)
    high = min(high_hz, 0.42 * sample_rate_hz)
    for f in rng.uniform(min(low_hz, 0.8 * high), high, size=3):
        out += np.exp(-t_s * f * float(rng.uniform(0.35, 0.8))) * np.sin(2 * np.pi * f * t_s)
    return np.asarray(out / max(float(np.max(np.abs(out))), 1e-9))


def _knock_times(knocks: Knocks, rotation: Rotation, rng: np.random.Generator) -> FloatArray:
    if knocks.per_turn == 0:
        times = np.sort(rng.uniform(0, rotation.t_s[-1], size=int(knocks.per_s * rotation.t_s[-1])))
    else:
        turns = rotation.drum_turns
        blows = np.arange(np.ceil(turns[0]), turns[-1], 1.0 / knocks.per_turn) + float(rng.uniform())
        blows = blows + knocks.jitter_turns * rng.standard_normal(blows.size)
        blows = blows[(rng.uniform(size=blows.size) < knocks.chance) & (blows > turns[0]) & (blows < turns[-1])]
        times = np.interp(blows, turns + 1e-12 * np.arange(turns.size), rotation.t_s)
    rpm = np.interp(times, rotation.t_s, rotation.drum_hz) * 60.0
    low, high = knocks.speed_rpm
    return np.asarray(times[(rpm > low) & (rpm < high)])


def _struck(
    times: FloatArray,
    strengths: FloatArray,
    band_hz: tuple[float, float],
    count: int,
    sample_rate_hz: float,
    rng: np.random.Generator,
) -> FloatArray:
    train = np.zeros(count)
    np.add.at(train, np.minimum((times * sample_rate_hz).astype(int), count - 1), strengths)
    return np.asarray(scipy.signal.oaconvolve(train, burst(*band_hz, sample_rate_hz, rng))[:count])
