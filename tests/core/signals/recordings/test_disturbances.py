"""Talk, gain and slides: noticed when there, not when not."""

from __future__ import annotations

import numpy as np
import pytest

from eager_ear.core.signals.drive.arrival import measure_arrival
from eager_ear.core.signals.drive.mains_hum import find_hum
from eager_ear.core.signals.dsp.band_envelopes import SoundSections
from eager_ear.core.signals.dsp.low_band import LowBand
from eager_ear.core.signals.impacts.transients import find_transients
from eager_ear.core.signals.recordings.disturbances import find_gain_pumping, find_slide, find_talk
from eager_ear.core.signals.speed.spin_phases import cut_phases
from eager_ear.core.signals.types import AccelerationSignal, AudioSignal
from eager_ear.core.units import FloatArray
from tests.core.signals.synthetic import profile, track_of

RATE = 16000.0
T_S = np.arange(int(40.0 * RATE)) / RATE


def low(sound: FloatArray) -> LowBand:
    return LowBand.of(AudioSignal(samples=sound.astype(np.float32), sample_rate_hz=RATE), start_s=0.0, mains_hz=50)


def noise(gain: FloatArray | float = 1.0, *, seed: int = 0) -> FloatArray:
    return 0.02 * gain * np.random.default_rng(seed).standard_normal(T_S.size)


def spinning() -> FloatArray:
    return 0.02 + np.interp(T_S, [2, 14, 26, 38], [0, 1, 1, 0])


def voice(begin_s: float, end_s: float) -> FloatArray:
    """Gliding overtones with syllables."""
    pitch = 150.0 * (1.0 + 0.15 * np.sin(2 * np.pi * 0.9 * T_S))
    phase = 2 * np.pi * np.cumsum(pitch) / RATE
    overtones = sum(np.sin(k * phase) / k**0.7 for k in range(1, 18))
    syllables = np.maximum(np.sin(2 * np.pi * 2.0 * T_S), 0.0)
    return 0.05 * overtones * syllables * ((begin_s < T_S) & (end_s > T_S))


def test_talk_is_heard_where_it_is() -> None:
    found = find_talk(low(noise(spinning()) + voice(5.0, 9.0)))
    assert found is not None
    assert found.code == "speech"
    covered = sum(min(b, 9.5) - max(a, 4.5) for a, b in found.spans if b > 4.5 and a < 9.5)
    assert covered > 1.5
    assert all(a > 3.5 and b < 10.5 for a, b in found.spans)


def test_noise_and_a_running_motor_are_not_talk() -> None:
    assert find_talk(low(noise(spinning()))) is None
    t_s, rate_hz = profile(top_hz=15.0)
    turns = np.cumsum(np.interp(T_S, t_s, rate_hz)) / RATE
    motor = 0.02 * sum(np.sin(2 * np.pi * k * 9.0 * turns) / k for k in range(1, 12))
    assert find_talk(low(noise(spinning()) + motor)) is None


def test_gain_that_swells_after_the_stop_is_noticed() -> None:
    rests = ((36.5, 39.8),)
    modulation = np.where(T_S > 36.5, 10 ** (12.0 * np.clip((T_S - 36.5) / 3.0, 0, 1) / 20.0), 30.0)
    found = find_gain_pumping(low(0.05 * noise(modulation)), rests=rests, slope_db_per_doubling=9.0)
    assert found is not None
    assert found.code == "gain_pumping"
    still = np.where(T_S > 36.5, 1.0, 30.0)
    assert find_gain_pumping(low(0.05 * noise(still)), rests=rests, slope_db_per_doubling=9.0) is None
    assert find_gain_pumping(low(noise()), rests=(), slope_db_per_doubling=1.0) is not None


def test_a_slide_turns_gravity_and_a_bang_does_not() -> None:
    t_s = np.arange(0, 40, 0.01)
    rng = np.random.default_rng(2)
    axes = 0.05 * rng.standard_normal((3, t_s.size)) + np.array([[0.0], [0.0], [9.81]])
    turned = axes.copy()
    after = t_s > 22.0
    turned[0, after] += 9.81 * np.sin(0.1)
    turned[2, after] -= 9.81 * (1 - np.cos(0.1))
    found = find_slide(AccelerationSignal(t_s=t_s, axes_m_s2=turned), start_s=3.0)
    assert found is not None
    assert found.spans[0][0] < 25.5 < found.spans[0][1]
    banged = axes.copy()
    banged[:, 2000:2010] += 20.0
    assert find_slide(AccelerationSignal(t_s=t_s, axes_m_s2=banged), start_s=0.0) is None
    assert (
        find_slide(AccelerationSignal(t_s=t_s, axes_m_s2=0.05 * rng.standard_normal((3, t_s.size))), start_s=0.0)
        is None
    )


@pytest.mark.parametrize(("tone_hz", "seconds"), [(100.0, 6.0), (93.0, 0.0)])
def test_hum_is_at_twice_the_mains_and_is_switched(tone_hz: float, seconds: float) -> None:
    on = (T_S > 10.0) & (T_S < 16.0)
    hum = find_hum(low(0.2 * noise() + 0.2 * on * np.sin(2 * np.pi * tone_hz * T_S)))
    assert hum.seconds == pytest.approx(seconds, abs=0.8)
    always = find_hum(low(0.2 * noise() + 0.2 * np.sin(2 * np.pi * 100.0 * T_S)))
    assert always.steady


def test_arrival_and_early_fall_are_timed() -> None:
    t_s, rate_hz = profile(top_hz=18.0)
    frames = np.arange(0.0, 43.8, 0.125)
    track = track_of(frames, np.interp(frames, t_s, rate_hz))
    phases = cut_phases(track, rests=(), noted_power_cut_s=34.0)
    found = measure_arrival(track, phases=phases, plate_rpm=1200.0, noted_power_cut_s=34.0)
    assert found.share_of_plate == pytest.approx(0.9, abs=0.01)
    assert found.ramp_s == pytest.approx(14.0 * (0.95 - 0.35), abs=0.4)
    assert found.fell_before_cut_s == pytest.approx(6.0, abs=0.6)


def test_impacts_are_found_once_each_and_their_echo_is_none() -> None:
    rng = np.random.default_rng(4)
    at = np.sort(rng.choice(np.arange(1.0, 39.0, 0.9), 30, replace=False))
    sound = 0.001 * rng.standard_normal(T_S.size)
    for moment in at:
        first = int(moment * RATE)
        tail = np.exp(-np.arange(int(0.3 * RATE)) / (0.05 * RATE)) * rng.standard_normal(int(0.3 * RATE))
        sound[first : first + tail.size] += 0.05 * tail
        sound[first : first + 16] += 0.5
    audio = AudioSignal(samples=sound.astype(np.float32), sample_rate_hz=RATE)
    found = find_transients(SoundSections(audio, start_s=2.0), bands={"tick": (2000.0, 7000.0)})["tick"]
    assert found.t_s.size == pytest.approx(at.size, abs=3)
    assert max(np.min(np.abs(found.t_s - 2.0 - moment)) for moment in at) < 0.01
    assert (found.rise_db > 12.0).all()
