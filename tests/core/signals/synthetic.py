"""Signals with known answers, made here and not by the simulator."""

from __future__ import annotations

import numpy as np

from eager_ear.core.signals.angle.track import FRAME_STEP_S, SpeedTrack
from eager_ear.core.signals.dsp.uniform_acceleration import EvenAcceleration, even_acceleration
from eager_ear.core.signals.speed.search.grid import ScoreGrid
from eager_ear.core.signals.types import AccelerationSignal
from eager_ear.core.units import FloatArray


def steady_track(*, rate_hz: float, seconds: float) -> SpeedTrack:
    t_s = np.arange(0.0, seconds, FRAME_STEP_S)
    return track_of(t_s, np.full(t_s.size, rate_hz))


def track_of(t_s: FloatArray, rate_hz: FloatArray) -> SpeedTrack:
    return SpeedTrack(
        t_s=t_s, rate_hz=rate_hz, known=rate_hz > 0.3, sigma_hz=np.full(t_s.size, 0.01), source="acceleration"
    )


def profile(*, top_hz: float, rate: float = 200.0) -> tuple[FloatArray, FloatArray]:
    """Rest, ramp, plateau, straight coast-down, rest: times and drum rate."""
    t_s = np.arange(0.0, 44.0, 1.0 / rate)
    return t_s, np.interp(t_s, [0, 2, 16, 28, 40, 44], [0, 0, top_hz, top_hz, 0, 0])


def shaken(
    t_s: FloatArray, rate_hz: FloatArray, *, orders: dict[float, float], noise: float, seed: int = 0
) -> EvenAcceleration:
    """Acceleration on x with those amplitudes at full speed [m/s²], growing with speed squared as a force does."""
    rng = np.random.default_rng(seed)
    turns = np.cumsum(rate_hz) * (t_s[1] - t_s[0])
    share = (rate_hz / max(float(rate_hz.max()), 1e-9)) ** 2
    x = sum(a * np.cos(2 * np.pi * k * turns) for k, a in orders.items()) * share
    axes = np.stack([x, np.zeros_like(x), np.full_like(x, 9.81)]) + noise * rng.standard_normal((3, t_s.size))
    return even_acceleration(AccelerationSignal(t_s=t_s, axes_m_s2=axes), start_s=0.0)


def noise_score(grid: ScoreGrid, seed: int) -> FloatArray:
    rng = np.random.default_rng(seed)
    return rng.standard_normal((grid.t_s.size, grid.candidates_hz.size)).astype(np.float32)


def ridge(score: FloatArray, grid: ScoreGrid, rate_hz: FloatArray | float, *, height: float) -> FloatArray:
    where = np.abs(grid.candidates_hz - np.broadcast_to(rate_hz, grid.t_s.shape)[:, None]) < 0.16
    return np.where(where, height, 0.0).astype(np.float32) + score
