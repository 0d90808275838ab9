"""Spectra, decimation, even grid, quality gate."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from eager_ear.core.errors import BadSignal, NotMeasurable
from eager_ear.core.signals.dsp.transform import decimated, noise_floor, short_time_power
from eager_ear.core.signals.dsp.uniform_acceleration import even_acceleration
from eager_ear.core.signals.recordings.quality_gate import clipped_share, judge_acceleration, judge_audio
from eager_ear.core.signals.types import AccelerationSignal, AudioSignal


def test_noise_power_is_kept_by_band_power() -> None:
    noise = np.random.default_rng(0).standard_normal(80_000).astype(np.float32)
    spectrum = short_time_power(noise, sample_rate_hz=8000.0, frame_s=0.1, hop_s=0.05)
    assert float(spectrum.band_power(0.0, 4001.0).mean()) == pytest.approx(1.0, rel=0.05)


def test_noise_floor_is_not_lifted_by_lines() -> None:
    power = np.random.default_rng(1).exponential(2.0, size=(40, 1000))
    power[:, ::50] += 500.0
    assert float(noise_floor(power, width=100).mean()) == pytest.approx(2.0, rel=0.1)


@settings(max_examples=20, deadline=None)
@given(st.sampled_from([8000.0, 22050.0, 44100.0, 48000.0, 96000.0]), st.floats(5.0, 150.0))
def test_decimation_keeps_slow_tones_in_time_and_size(rate: float, frequency: float) -> None:
    t_s = np.arange(int(rate)) / rate
    out, low_rate = decimated(np.sin(2 * np.pi * frequency * t_s), sample_rate_hz=rate, target_hz=600.0)
    expected = np.sin(2 * np.pi * frequency * np.arange(out.size) / low_rate)
    middle = slice(out.size // 4, 3 * out.size // 4)
    assert low_rate >= 600.0
    np.testing.assert_allclose(out[middle], expected[middle], atol=0.03)


def test_a_signal_shorter_than_a_frame_is_refused() -> None:
    with pytest.raises(NotMeasurable, match="shorter than a frame"):
        short_time_power(np.zeros(10, dtype=np.float32), sample_rate_hz=8000.0, frame_s=0.1, hop_s=0.05)


def test_jitter_is_undone_and_gaps_are_told() -> None:
    rng = np.random.default_rng(2)
    t_s = np.arange(0.0, 20.0, 0.01) + rng.uniform(-0.003, 0.003, 2000)
    keep = (t_s < 8.0) | (t_s > 8.5)
    axes = np.stack([np.sin(2 * np.pi * 2.0 * t_s), np.full(t_s.size, np.nan), np.full(t_s.size, 9.81)])
    even = even_acceleration(AccelerationSignal(t_s=t_s[keep], axes_m_s2=axes[:, keep]), start_s=1.0)
    assert even.axis_names == ("x", "z")
    assert len(even.gaps_s) == 1
    assert even.gaps_s[0] == pytest.approx((9.0, 9.5), abs=0.03)
    inside = (even.t_s > 2.0) & (even.t_s < 8.0)
    np.testing.assert_allclose(even.axes_m_s2[0, inside], np.sin(2 * np.pi * 2.0 * (even.t_s[inside] - 1.0)), atol=0.02)


def test_clipping_is_seen_and_loud_sound_is_not_taken_for_it() -> None:
    rng = np.random.default_rng(3)
    loud = (0.2 * rng.standard_normal(48_000)).astype(np.float32)
    assert clipped_share(loud) == 0.0
    assert clipped_share(np.clip(6.0 * loud, -1.0, 1.0)) > 0.05


@pytest.mark.parametrize(
    ("samples", "rate", "code"),
    [
        (np.full(480_000, 1e-5, dtype=np.float32), 48000.0, "too_quiet"),
        (0.1 * np.ones(48_000, dtype=np.float32), 48000.0, "too_short"),
        (0.1 * np.ones(160_000, dtype=np.float32), 8000.0, "rate_too_low"),
    ],
)
def test_what_a_recording_lacks_is_told(samples: np.ndarray, rate: float, code: str) -> None:
    warnings = judge_audio(AudioSignal(samples=samples, sample_rate_hz=rate), name="a.wav", is_spin=True)
    assert code in [w.code for w in warnings]
    assert all(w.recording == "a.wav" for w in warnings)


def test_slow_acceleration_is_told() -> None:
    t_s = np.arange(0.0, 20.0, 1 / 30)
    signal = AccelerationSignal(t_s=t_s, axes_m_s2=np.zeros((3, t_s.size)))
    codes = [w.code for w in judge_acceleration(signal, name="a", is_spin=True, gaps=2, highest_hz=20.0)]
    assert codes == ["gaps_in_data", "rate_too_low"]


@pytest.mark.parametrize(
    "make",
    [
        lambda: AudioSignal(samples=np.zeros(0, dtype=np.float32), sample_rate_hz=48000.0),
        lambda: AudioSignal(samples=np.zeros(9, dtype=np.float32), sample_rate_hz=4000.0),
        lambda: AudioSignal(samples=np.array([np.nan], dtype=np.float32), sample_rate_hz=48000.0),
        lambda: AccelerationSignal(t_s=np.array([0.0, 0.02, 0.01]), axes_m_s2=np.zeros((3, 3))),
        lambda: AccelerationSignal(t_s=np.array([0.0, 1.0]), axes_m_s2=np.zeros((3, 2))),
    ],
)
def test_impossible_signals_are_refused(make) -> None:  # type: ignore[no-untyped-def]
    with pytest.raises(BadSignal):
        make()
