"""The lag between two clocks from rates that both tell, against known answers."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.angle.track import FRAME_STEP_S, SpeedTrack
from eager_ear.core.signals.speed.refine.by_phase import regimes
from eager_ear.core.signals.speed.refine.clock_lag import sharpened_lag
from eager_ear.core.signals.speed.refine.rate_readings import RateReading
from tests.core.signals.synthetic import profile, track_of


def spun() -> SpeedTrack:
    t_s = np.arange(0.0, 43.5, FRAME_STEP_S)
    return track_of(t_s, np.interp(t_s, *profile(top_hz=15.0)))


def read(track: SpeedTrack, *, lag_s: float, order_off: float, creep: float, noise_hz: float, seed: int) -> RateReading:
    """What a line tells whose clock, order and belt are off by so much."""
    later = np.interp(track.t_s + lag_s, *profile(top_hz=15.0))
    pulling = np.gradient(later, track.t_s) > 0.15
    rng = np.random.default_rng(seed)
    error = later * (1.0 + order_off + creep * pulling) - track.rate_hz
    return RateReading(
        error_hz=error + noise_hz * rng.standard_normal(track.t_s.size),
        sigma_hz=np.where(track.rate_hz > 2.0, noise_hz, np.inf),
    )


@pytest.mark.parametrize("lag_s", [-0.12, 0.0, 0.15])
@pytest.mark.parametrize("creep", [0.0, 0.01])
def test_lag_is_told_from_wrong_orders_and_from_a_belts_creep(lag_s: float, creep: float) -> None:
    track = spun()
    readings = [
        read(track, lag_s=lag_s, order_off=off, creep=creep, noise_hz=0.02, seed=k)
        for k, off in enumerate((0.003, -0.002))
    ]
    regime = regimes(track, creeps=creep > 0)
    found = sharpened_lag(track, readings, regime=regime, sigma_s=0.2)
    assert found.lag_s == pytest.approx(lag_s, abs=0.012)
    assert abs(found.lag_s - lag_s) < 4.0 * found.sigma_s
    assert found.sigma_s < 0.03


def test_one_wild_stretch_does_not_move_the_lag() -> None:
    track = spun()
    reading = read(track, lag_s=0.08, order_off=0.0, creep=0.0, noise_hz=0.02, seed=5)
    wild = (track.t_s > 8.0) & (track.t_s < 9.0)
    reading = replace(reading, error_hz=np.where(wild, 0.4, reading.error_hz))
    found = sharpened_lag(track, [reading], regime=regimes(track, creeps=False), sigma_s=0.2)
    assert found.lag_s == pytest.approx(0.08, abs=0.02)


def test_steady_turning_tells_no_lag() -> None:
    t_s = np.arange(0.0, 30.0, FRAME_STEP_S)
    track = track_of(t_s, np.full(t_s.size, 12.0))
    reading = RateReading(error_hz=np.zeros(t_s.size), sigma_hz=np.full(t_s.size, 0.02))
    with pytest.raises(NotMeasurable, match="too little"):
        sharpened_lag(track, [reading], regime=regimes(track, creeps=False), sigma_s=0.2)
