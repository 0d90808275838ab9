"""Once-per-turn amplitudes where plain demodulation fails: aliases, gaps, slow turning."""

from __future__ import annotations

import numpy as np
import pytest

from eager_ear.core.signals.angle.first_order import OncePerTurn
from eager_ear.core.signals.angle.track import SpeedTrack
from eager_ear.core.signals.dsp.uniform_acceleration import EvenAcceleration
from eager_ear.core.signals.speed.refine.by_phase import refine_by_vibration
from eager_ear.core.units import FloatArray, Span
from tests.core.signals.synthetic import steady_track

SECONDS = 40.0


def cosine(*, rate_hz: float, sampled_hz: float) -> FloatArray:
    t_s = np.arange(int(SECONDS * sampled_hz)) / sampled_hz
    return np.stack([2.0 * np.cos(2 * np.pi * rate_hz * t_s + 0.4)])


def seen(
    rows: FloatArray,
    track: SpeedTrack,
    *,
    sampled_hz: float,
    bandwidth_hz: float = 0.8,
    spoilt_s: tuple[Span, ...] = (),
) -> OncePerTurn:
    return OncePerTurn.of(track, rows, rate_hz=sampled_hz, start_s=0.0, bandwidth_hz=0.8, spoilt_s=spoilt_s)


@pytest.mark.parametrize(("rate_hz", "sampled_hz"), [(11.9, 25.0), (13.2, 25.0), (0.9, 100.0), (7.0, 400.0)])
def test_the_mirror_image_of_a_line_does_not_bend_its_amplitude(rate_hz: float, sampled_hz: float) -> None:
    rows = cosine(rate_hz=rate_hz, sampled_hz=sampled_hz)
    found = seen(rows, steady_track(rate_hz=rate_hz, seconds=SECONDS), sampled_hz=sampled_hz)
    inside = (found.t_s > 3.0) & (found.t_s < SECONDS - 3.0)
    np.testing.assert_allclose(2.0 * np.abs(found.base[0, inside]), 2.0, rtol=0.03)
    steps = np.diff(np.unwrap(np.angle(found.base[0, inside])))
    assert np.abs(steps).max() < 0.02


def test_a_line_too_close_to_its_mirror_image_is_said_to_be_unknown() -> None:
    rows = cosine(rate_hz=12.45, sampled_hz=25.0)
    found = seen(rows, steady_track(rate_hz=12.45, seconds=SECONDS), sampled_hz=25.0)
    inside = (found.t_s > 3.0) & (found.t_s < SECONDS - 3.0)
    assert np.isinf(found.noise[inside]).all()


def test_a_gap_is_unknown_and_its_edges_are_not_bent() -> None:
    rows = cosine(rate_hz=8.0, sampled_hz=100.0)
    t_s = np.arange(rows.shape[1]) / 100.0
    rows[:, (t_s > 20.0) & (t_s < 22.0)] = 0.0
    found = seen(rows, steady_track(rate_hz=8.0, seconds=SECONDS), sampled_hz=100.0, spoilt_s=((20.0, 22.0),))
    gap = (found.t_s > 20.5) & (found.t_s < 21.5)
    assert np.isinf(found.noise[gap]).all()
    known = np.isfinite(found.noise) & (found.t_s > 3.0) & (found.t_s < SECONDS - 3.0)
    assert known.sum() > 150
    np.testing.assert_allclose(2.0 * np.abs(found.base[0, known]), 2.0, rtol=0.03)


def test_noise_alone_is_as_strong_as_stated() -> None:
    rows = 0.5 * np.random.default_rng(2).standard_normal((3, int(400 * 100.0)))
    found = seen(rows, steady_track(rate_hz=8.0, seconds=400.0), sampled_hz=100.0)
    power = np.square(np.abs(found.base)).sum(axis=0)[50:-50]
    assert power.mean() == pytest.approx(2.0 * float(np.median(found.noise[50:-50])), rel=0.2)


def test_a_slow_sensor_tells_the_rate_close_to_half_its_own() -> None:
    t_s = np.arange(int(SECONDS * 25.0)) / 25.0
    true_hz = 11.8
    rng = np.random.default_rng(3)
    axes = np.stack([np.cos(2 * np.pi * true_hz * t_s), np.sin(2 * np.pi * true_hz * t_s)])
    axes = axes + 0.05 * rng.standard_normal(axes.shape)
    slow = EvenAcceleration(axes_m_s2=axes, axis_names=("x", "z"), sample_rate_hz=25.0, start_s=0.0, gaps_s=())
    coarse = steady_track(rate_hz=true_hz + 0.05, seconds=SECONDS - 0.5)
    fine = refine_by_vibration(coarse, slow)
    inside = (fine.t_s > 3.0) & (fine.t_s < SECONDS - 3.5)
    assert np.abs(fine.rate_hz[inside] - true_hz).max() < 0.03
