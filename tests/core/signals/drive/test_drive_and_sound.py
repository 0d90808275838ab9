"""Belt slip, squeal, noise with the motor off, levels and rest, on sounds built from closed forms."""

from __future__ import annotations

import numpy as np
import pytest

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.angle.track import FRAME_STEP_S, SpeedTrack
from eager_ear.core.signals.drive.belt_slip import measure_slip
from eager_ear.core.signals.drive.motor_off_level import persistence
from eager_ear.core.signals.drive.squeal import find_squeal
from eager_ear.core.signals.dsp.low_band import LowBand
from eager_ear.core.signals.dsp.transform import Spectrogram, short_time_power
from eager_ear.core.signals.sound.levels import (
    frame_levels_db,
    level_scatter,
    level_slope,
    rest_after_fall_s,
    resting_stretches,
)
from eager_ear.core.signals.speed.spin_phases import Phases, cut_phases
from eager_ear.core.signals.types import AudioSignal
from eager_ear.core.units import FloatArray
from tests.core.signals.synthetic import profile, track_of

RATE = 24000.0
T_S = np.arange(int(43.9 * RATE)) / RATE
RATE_HZ = np.interp(T_S, *profile(top_hz=18.0))
CUT_S = 28.0


def track() -> SpeedTrack:
    frames = np.arange(0.0, 43.8, FRAME_STEP_S)
    return track_of(frames, np.interp(frames, T_S, RATE_HZ))


def phases() -> Phases:
    return cut_phases(track(), rests=(), noted_power_cut_s=CUT_S)


def drum_noise(seed: int = 0) -> FloatArray:
    return (0.01 + RATE_HZ / 18.0) * np.random.default_rng(seed).standard_normal(T_S.size)


def heard(sound: FloatArray) -> Spectrogram:
    return short_time_power(sound.astype(np.float32), sample_rate_hz=RATE, frame_s=0.085, hop_s=0.0213)


def low_band(sound: FloatArray) -> LowBand:
    return LowBand.of(AudioSignal(samples=sound.astype(np.float32), sample_rate_hz=RATE), start_s=0.0, mains_hz=50)


def motor(*, ratio: float, slip: float, level: float) -> FloatArray:
    turns = np.cumsum(RATE_HZ) / RATE * ratio / (1.0 - slip)
    return (
        level
        * (T_S < CUT_S)
        * (np.sin(2 * np.pi * turns) + np.sin(2 * np.pi * 2 * turns) + np.sin(2 * np.pi * 12 * turns))
    )


@pytest.mark.parametrize("slip", [0.0, 0.012, 0.05, 0.12])
def test_belt_slip_is_read_from_the_motors_tones(slip: float) -> None:
    sound = 0.05 * (drum_noise() + motor(ratio=11.0, slip=slip, level=0.8))
    found = measure_slip(low_band(sound), track=track(), phases=phases(), pulley_ratio=11.0)
    assert found.slip_pct == pytest.approx(100 * slip, abs=0.3)
    assert found.motor_hz == pytest.approx(11.0 * 18.0 / (1 - slip), rel=0.003)


def test_without_motor_tones_no_slip_is_claimed() -> None:
    with pytest.raises(NotMeasurable, match="do not stand out"):
        measure_slip(low_band(0.05 * drum_noise()), track=track(), phases=phases(), pulley_ratio=11.0)


def test_a_speed_taken_from_the_motor_gives_no_slip() -> None:
    by_sound = SpeedTrack(**{**track().__dict__, "source": "audio"})
    with pytest.raises(NotMeasurable, match="motor's sound"):
        measure_slip(low_band(np.ones(48000)), track=by_sound, phases=phases(), pulley_ratio=11.0)


@pytest.mark.parametrize("drop_db", [0.0, -6.0, -14.0])
def test_noise_with_the_motor_off_is_compared_at_equal_speed(drop_db: float) -> None:
    gain = np.where(T_S < CUT_S, 1.0, 10 ** (drop_db / 20))
    change = persistence(
        heard(0.05 * gain * drum_noise()), start_s=0.0, track=track(), phases=phases(), band_hz=(1000.0, 8000.0)
    )
    assert change.change_db == pytest.approx(drop_db, abs=1.0)


def test_without_a_coast_down_the_question_stays_open() -> None:
    uncut = Phases(parts=phases().parts, power_cut_s=None)
    with pytest.raises(NotMeasurable, match="coast-down"):
        persistence(heard(drum_noise()), start_s=0.0, track=track(), phases=uncut, band_hz=(1000.0, 8000.0))


def test_a_squeal_keeps_its_pitch_and_moving_tones_are_none() -> None:
    ramp = (T_S > 3.0) & (T_S < 16.0)
    squealing = drum_noise() + 1.5 * ramp * np.sin(2 * np.pi * 1500.0 * T_S)
    found = find_squeal(heard(0.05 * squealing), start_s=0.0, phases=phases())
    assert found.frequency_hz == pytest.approx(1500.0, abs=30.0)
    assert found.prominence_db > 10.0
    assert found.share_of_ramp > 0.8
    pausing = drum_noise() + 1.5 * ramp * (np.mod(T_S, 1.0) < 0.4) * np.sin(2 * np.pi * 1500.0 * T_S)
    assert find_squeal(heard(0.05 * pausing), start_s=0.0, phases=phases()).prominence_db > 10.0
    moving = drum_noise() + motor(ratio=60.0, slip=0.0, level=1.0)
    assert find_squeal(heard(0.05 * moving), start_s=0.0, phases=phases()).prominence_db < 6.0


def test_level_rises_six_decibels_for_twice_the_speed() -> None:
    slope = level_slope(heard(0.05 * drum_noise()), start_s=0.0, track=track())
    assert slope is not None
    assert slope.db_per_doubling == pytest.approx(6.0, abs=0.8)


def test_hammering_is_rough_and_steady_noise_is_not() -> None:
    steady = np.random.default_rng(1).standard_normal(T_S.size)
    hammer = steady * (0.05 + (np.mod(T_S, 0.11) < 0.02))
    at = np.array([10.0, 20.0, 30.0])
    assert level_scatter(heard(steady), start_s=0.0, t_s=at).max() < 0.1
    assert level_scatter(heard(hammer), start_s=0.0, t_s=at).min() > 0.5


def test_rest_is_where_all_is_quiet_and_only_if_something_was_loud() -> None:
    frames = track().t_s
    known = track().known
    level = frame_levels_db(heard(0.05 * drum_noise()), start_s=0.0, t_s=frames)
    rests = resting_stretches(t_s=frames, known=known, level_db=level, acceleration=None)
    assert rests[0][0] < 0.5
    assert rests[0][1] == pytest.approx(2.0, abs=0.5)
    flat = np.zeros(frames.size)
    assert resting_stretches(t_s=frames, known=known, level_db=flat, acceleration=None) == ()


def test_rest_is_told_by_a_fall_that_was_seen() -> None:
    falling = track()
    seen = SpeedTrack(**{**falling.__dict__, "known": falling.known & (falling.rate_hz > 3.0)})
    # 18 Hz to rest between 28 and 40 s: straight, so that a third of what was left is added.
    assert rest_after_fall_s(seen) == pytest.approx(40.0, abs=1.0)
    rising = SpeedTrack(**{**falling.__dict__, "known": falling.known & (falling.t_s < 20.0)})
    assert rest_after_fall_s(rising) == float("inf")
