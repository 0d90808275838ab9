"""The speed track on signals whose speed is known exactly."""

from __future__ import annotations

import numpy as np
import pytest

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.machine import Machine, find_layout
from eager_ear.core.signals.angle.track import SpeedTrack
from eager_ear.core.signals.dsp.low_band import LowBand
from eager_ear.core.signals.speed.find import SpeedSources, find_speed
from eager_ear.core.signals.types import AudioSignal, TachoSignal
from eager_ear.core.units import FloatArray
from tests.core.signals.synthetic import profile, shaken

MACHINE = Machine(layout="front_direct", max_spin_rpm=1200)
LAYOUT = find_layout("front_direct")


def errors(track: SpeedTrack, t_s: FloatArray, rate_hz: FloatArray, *, above_hz: float) -> FloatArray:
    true = np.interp(track.t_s, t_s, rate_hz)
    use = track.known & (true > above_hz)
    assert use.sum() > 40
    return np.abs(track.rate_hz[use] - true[use]) / true[use]


def track_speed(sources: SpeedSources) -> SpeedTrack:
    return find_speed(sources, machine=MACHINE, layout=LAYOUT).track


def test_clean_vibration_is_tracked_within_the_stated_error() -> None:
    t_s, rate_hz = profile(top_hz=18.0)
    track = track_speed(SpeedSources(acceleration=shaken(t_s, rate_hz, orders={1: 1.0}, noise=0.05)))
    error = errors(track, t_s, rate_hz, above_hz=2.0)
    assert np.median(error) < 0.002
    assert np.percentile(error, 95) < 0.02


def test_plateau_reaches_three_times_the_cramer_rao_bound() -> None:
    amplitude, noise, rate, window_s = 1.0, 0.1, 200.0, 1.0 / 0.6
    t_s = np.arange(0.0, 30.0, 1.0 / rate)
    rate_hz = np.full(t_s.size, 15.3)
    track = track_speed(SpeedSources(acceleration=shaken(t_s, rate_hz, orders={1: amplitude}, noise=noise)))
    inside = track.known & (track.t_s > 4) & (track.t_s < 26)
    count = rate * window_s
    bound_hz = np.sqrt(6.0 * noise**2 / (np.pi**2 * amplitude**2 * count**3)) * rate
    assert np.sqrt(np.mean((track.rate_hz[inside] - 15.3) ** 2)) < 3.0 * bound_hz


def test_a_strong_second_order_does_not_double_the_speed() -> None:
    t_s, rate_hz = profile(top_hz=9.0)
    vibration = shaken(t_s, rate_hz, orders={1: 0.6, 2: 1.0}, noise=0.02)
    track = track_speed(SpeedSources(acceleration=vibration))
    assert np.percentile(errors(track, t_s, rate_hz, above_hz=2.0), 95) < 0.03


def test_the_call_does_not_depend_on_scale_sign_or_channel_order() -> None:
    t_s, rate_hz = profile(top_hz=12.0)
    plain = shaken(t_s, rate_hz, orders={1: 1.0}, noise=0.05)
    turned = type(plain)(
        axes_m_s2=-3.0 * plain.axes_m_s2[::-1],
        axis_names=plain.axis_names[::-1],
        sample_rate_hz=plain.sample_rate_hz,
        start_s=plain.start_s,
        gaps_s=plain.gaps_s,
    )
    first = track_speed(SpeedSources(acceleration=plain))
    second = track_speed(SpeedSources(acceleration=turned))
    np.testing.assert_array_equal(first.known, second.known)
    np.testing.assert_allclose(first.rate_hz[first.known], second.rate_hz[first.known], rtol=5e-3)


def test_noise_alone_gives_no_speed_and_says_so() -> None:
    t_s = np.arange(0.0, 30.0, 0.005)
    vibration = shaken(t_s, np.zeros(t_s.size), orders={}, noise=0.1)
    with pytest.raises(NotMeasurable) as caught:
        track_speed(SpeedSources(acceleration=vibration))
    assert caught.value.quantity == "speed track"


def test_tacho_pulses_win_over_everything() -> None:
    pulses = np.cumsum(np.full(200, 0.1))
    silent = AudioSignal(samples=np.zeros(480000, dtype=np.float32), sample_rate_hz=48000.0)
    track = track_speed(
        SpeedSources(low=LowBand.of(silent, start_s=0.0, mains_hz=50), tacho=TachoSignal(pulse_s=pulses))
    )
    assert track.source == "tacho"
    assert track.max_rpm == pytest.approx(600.0, rel=1e-6)


def test_turns_count_the_revolutions() -> None:
    t_s, rate_hz = profile(top_hz=10.0)
    track = track_speed(SpeedSources(acceleration=shaken(t_s, rate_hz, orders={1: 1.0}, noise=0.02)))
    at = np.array([18.0, 26.0])
    assert float(np.diff(track.turns_at(at))[0]) == pytest.approx(80.0, abs=0.2)
