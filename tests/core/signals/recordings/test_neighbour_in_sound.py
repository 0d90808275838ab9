"""Another machine beside this one: heard through all speeds of the drum, and not mistaken for a plate."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import signal as sps

from eager_ear.core.signals.angle.track import SpeedTrack
from eager_ear.core.signals.dsp.low_band import LowBand
from eager_ear.core.signals.recordings.neighbour_in_sound import (
    felt_second_machine,
    heard_second_machine,
    tone_sharpness,
)
from eager_ear.core.signals.recordings.neighbour_in_vibration import SteadyTone
from eager_ear.core.signals.types import AudioSignal
from eager_ear.core.units import FloatArray
from tests.core.signals.synthetic import profile, track_of

RATE = 16000.0
T_S = np.arange(int(44.0 * RATE)) / RATE
RESTS = ((0.0, 2.0), (40.5, 43.9))


def track() -> SpeedTrack:
    frames = np.arange(0.0, 43.8, 0.125)
    return track_of(frames, np.interp(frames, *profile(top_hz=15.0)))


def drum_sound(seed: int = 0) -> FloatArray:
    """A drum and its motor: noise that grows with the speed, and lines that follow it."""
    rng = np.random.default_rng(seed)
    rate_hz = np.interp(T_S, *profile(top_hz=15.0))
    turns = np.cumsum(rate_hz) / RATE
    noise = (0.01 + 0.2 * (rate_hz / 15.0) ** 2) * rng.standard_normal(T_S.size)
    return noise + 0.02 * (rate_hz / 15.0) * sum(np.sin(2 * np.pi * k * turns) for k in (2, 9, 18, 27))


def low(sound: FloatArray) -> LowBand:
    return LowBand.of(AudioSignal(samples=sound.astype(np.float32), sample_rate_hz=RATE), start_s=0.0, mains_hz=50)


def tone(frequency_hz: float, amplitude: float) -> FloatArray:
    return amplitude * np.sin(2 * np.pi * frequency_hz * T_S)


def test_a_tone_that_stands_through_all_speeds_is_another_machines() -> None:
    found = heard_second_machine(low(drum_sound() + tone(131.0, 0.01)), track=track(), rests=RESTS)
    assert found is not None
    assert found.code == "second_machine"
    assert "131 Hz" in found.message


@pytest.mark.parametrize("seed", range(4))
def test_the_drum_its_cabinet_and_the_mains_are_not(seed: int) -> None:
    sound = drum_sound(seed)
    plate = sps.lfilter(*sps.iirpeak(233.0, 30.0, fs=RATE), sound)
    for alone in (sound, sound + 2.0 * plate, sound + tone(100.0, 0.01) + tone(300.0, 0.01)):
        assert heard_second_machine(low(alone), track=track(), rests=RESTS) is None


def test_a_tone_at_one_speed_only_is_not() -> None:
    at_speed = tone(131.0, 0.05) * ((T_S > 16.0) & (T_S < 28.0))
    assert heard_second_machine(low(drum_sound() + at_speed), track=track(), rests=RESTS) is None


def test_sharpness_tells_a_tone_from_noise_at_its_own_frequency() -> None:
    samples = np.random.default_rng(5).standard_normal(40 * 100)
    t_s = np.arange(samples.size) / 100.0
    assert tone_sharpness(samples, sample_rate_hz=100.0, frequency_hz=9.0)[0] < 5.0
    samples += 0.7 * np.sin(2 * np.pi * 9.4 * t_s)
    sharp, exact_hz = tone_sharpness(samples, sample_rate_hz=100.0, frequency_hz=9.0)
    assert sharp > 20.0
    assert exact_hz == pytest.approx(9.4, abs=0.1)


def test_what_was_felt_is_told_as_turns_a_minute() -> None:
    assert felt_second_machine(()) is None
    found = felt_second_machine((SteadyTone(frequency_hz=9.31, amplitude_m_s2=np.array([0.05])),))
    assert found is not None
    assert "559 times a minute" in found.message
