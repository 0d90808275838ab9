"""Figures of the result: their errors are the scatter that repeats would show."""

from __future__ import annotations

import numpy as np

from eager_ear.core.figures import figures
from eager_ear.core.signals.angle import order_curves
from eager_ear.core.signals.run_measurement import RunMeasurement
from tests.core.signals.synthetic import shaken, steady_track


def test_once_per_turn_motion_scatters_as_its_error_says() -> None:
    t_s = np.arange(0.0, 20.0, 1.0 / 200.0)
    track = steady_track(rate_hz=12.0, seconds=19.5)
    found, errors = [], []
    for seed in range(24):
        vibration = shaken(t_s, np.full(t_s.size, 12.0), orders={1: 2.0, 2: 0.2}, noise=0.5, seed=seed)
        run = RunMeasurement(key="1", load="empty", track=track, curves=order_curves(vibration, track=track))
        told = figures(run)
        found.append([told["order_amplitudes_mm"][k] for k in ("1", "2")])
        errors.append([told["order_amplitudes_mm_sigma"][k] for k in ("1", "2")])
    scatter, stated = np.std(found, axis=0), np.mean(errors, axis=0)
    assert np.all(scatter < 2.0 * stated)
    assert np.all(stated < 4.0 * scatter)


def test_the_fastest_spin_states_the_error_of_its_plateau() -> None:
    track = steady_track(rate_hz=12.0, seconds=19.5)
    told = figures(RunMeasurement(key="1", load=None, track=track))
    assert told["spin_rpm_max_sigma"] == round(60.0 * float(np.median(track.sigma_hz)), 2)
