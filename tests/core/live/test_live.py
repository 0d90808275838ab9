"""Listening along: known levels, blocks of any length, drums that turn and stand, what a test still lacks."""

from __future__ import annotations

import itertools
from collections.abc import Callable

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from eager_ear.core.errors import BadSignal
from eager_ear.core.live import NEEDED_S, LiveEar, LiveReading, LiveSpeed
from eager_ear.core.live.progress import SpinProgress
from eager_ear.core.live.sound_stream import SoundStream
from eager_ear.core.machine import Machine
from eager_ear.core.signals.dsp.low_band import SLOW_RATE_HZ
from eager_ear.core.signals.dsp.transform import decimated
from eager_ear.core.signals.types import AccelerationSignal, AudioSignal
from eager_ear.core.simulate import SimulatedCase
from eager_ear.core.units import FloatArray

MACHINE = Machine(layout="front_belt", max_spin_rpm=1200)


def listened(case: SimulatedCase, *, sound: bool = True, motion: bool = True, block: int = 1024) -> list[LiveReading]:
    """The readings of a simulated visit, fed as a phone would."""
    signals = {r.facts.kind: r for r in case.case.recordings if r.facts.test == "spin"}
    heard, felt = signals["audio"], signals["acceleration"]
    audio, acceleration = heard.signal, felt.signal
    assert isinstance(audio, AudioSignal)
    assert isinstance(acceleration, AccelerationSignal)
    rate = audio.sample_rate_hz
    start_s = heard.facts.start_s
    ear = LiveEar(machine=case.case.machine, audio_rate_hz=rate if sound else None, audio_start_s=start_s)
    times = acceleration.t_s + felt.facts.start_s
    out: list[LiveReading] = []
    sent = 0
    for first in range(0, audio.samples.size, block):
        upto = int(np.searchsorted(times, start_s + (first + block) / rate))
        if motion and upto > sent:
            out += ear.push_motion(times[sent:upto], acceleration.axes_m_s2[:, sent:upto])
            sent = upto
        if sound:
            out += ear.push_sound(audio.samples[first : first + block])
    return out


def true_rpm(case: SimulatedCase, readings: list[LiveReading]) -> FloatArray:
    """What the drum did at the readings' moments, the sound's clock put right."""
    late_s = case.take.audio_start_s - case.take.audio_late_s
    return np.interp([r.t_s - late_s for r in readings], case.drum_rpm[:, 0], case.drum_rpm[:, 1], right=0.0)


def test_a_tone_shows_its_level_and_falls_as_time_weighting_f() -> None:
    """IEC 61672-1: 1 kHz is not weighted; once it ends the level falls by 34.7 dB a second."""
    rate = 48000.0
    t_s = np.arange(2 * int(rate)) / rate
    tone = (0.1 * np.sqrt(2.0) * np.sin(2.0 * np.pi * 1000.0 * t_s) * (t_s < 1.2)).astype(np.float32)
    steps = SoundStream(sample_rate_hz=rate, start_s=0.0).push(tone)
    held = [s.level_db for s in steps if 0.9 < s.t_s < 1.15]
    assert held == pytest.approx([-20.0] * len(held), abs=0.05)
    falling = [(s.t_s, s.level_db) for s in steps if 1.3 < s.t_s < 1.6]
    slope = np.polyfit([t for t, _ in falling], [level for _, level in falling], 1)[0]
    assert slope == pytest.approx(-34.7, abs=0.3)


def test_the_slow_sound_is_the_same_as_when_it_is_made_in_one_go() -> None:
    noise = np.random.default_rng(5).normal(size=30000).astype(np.float32)
    stream = SoundStream(sample_rate_hz=44100.0, start_s=2.0)
    stream.push(noise)
    whole, rate = decimated(noise, sample_rate_hz=44100.0, target_hz=SLOW_RATE_HZ)
    assert stream.slow_rate_hz == pytest.approx(rate)
    live = stream.slow.ending_at(2.0 + 150 / rate, count=100)
    assert live is not None
    np.testing.assert_allclose(live, whole[50:150], atol=1e-5)


@settings(max_examples=10, deadline=None)
@given(st.lists(st.integers(1, 9000), min_size=1, max_size=12))
def test_blocks_of_any_length_show_the_same(lengths: list[int]) -> None:
    noise = np.random.default_rng(3).normal(size=40000).astype(np.float32) * np.float32(0.1)
    whole = LiveEar(machine=MACHINE, audio_rate_hz=16000.0, audio_start_s=0.0).push_sound(noise)
    ear = LiveEar(machine=MACHINE, audio_rate_hz=16000.0, audio_start_s=0.0)
    edges = [0, *np.cumsum(lengths), noise.size]
    parts = [r for a, b in itertools.pairwise(edges) for r in ear.push_sound(noise[a : max(a, b)])]
    assert parts == whole


@pytest.mark.parametrize(("sound", "motion"), [(True, True), (False, True)])
def test_a_turning_drum_is_followed(sound: bool, motion: bool, simulated: Callable[..., SimulatedCase]) -> None:
    case = simulated("front_belt", "none", 3)
    readings = listened(case, sound=sound, motion=motion)
    truth = true_rpm(case, readings)
    told = np.array([r.speed is not None and not r.speed.steady for r in readings])
    spinning = truth > 200.0
    assert told[spinning].mean() > 0.6
    rpm = np.array([60.0 * r.speed.rate_hz if r.speed else np.nan for r in readings])
    error = np.abs(rpm / truth - 1.0)[told & spinning]
    assert np.median(error) < 0.03
    assert np.percentile(error, 90) < 0.15
    assert not told[truth < 10.0].any()
    sigmas = np.array([60.0 * r.speed.sigma_hz if r.speed else np.nan for r in readings])
    within = np.abs(rpm - truth)[told & spinning] < 2.0 * sigmas[told & spinning]
    assert within.mean() > 0.8


def test_a_whole_test_lacks_nothing_at_its_end(simulated: Callable[..., SimulatedCase]) -> None:
    readings = listened(simulated("front_belt", "none", 3))
    assert set(readings[20].progress.missing) == set(NEEDED_S)
    assert "full_speed" not in readings[-1].progress.missing
    assert "coast_down" not in readings[-1].progress.missing
    phases = [r.progress.phase for r in readings]
    assert phases.index("ramp") < phases.index("plateau") < len(phases) - 1 - phases[::-1].index("slowing")


def test_a_motor_that_hums_turns_nothing(simulated: Callable[..., SimulatedCase]) -> None:
    readings = listened(simulated("top_splined", "run_capacitor", 2))
    assert not any(r.speed is not None and not r.speed.steady for r in readings)


def test_a_neighbour_that_runs_from_the_beginning_is_not_taken_for_the_drum() -> None:
    rng = np.random.default_rng(8)
    t_s = np.arange(0.0, 20.0, 0.01)
    axes = 0.02 * rng.normal(size=(3, t_s.size))
    axes[0] += 0.2 * np.sin(2.0 * np.pi * 13.0 * t_s)
    axes[2] += 9.81
    ear = LiveEar(machine=MACHINE, audio_rate_hz=None, audio_start_s=0.0)
    readings = [r for k in range(0, t_s.size, 5) for r in ear.push_motion(t_s[k : k + 5], axes[:, k : k + 5])]
    seen = [r.speed for r in readings if r.speed is not None]
    assert seen
    assert all(s.steady and s.rate_hz == pytest.approx(13.0, abs=0.15) for s in seen)
    assert readings[-1].shake_m_s2 == pytest.approx(0.2, abs=0.03)


def test_what_cannot_be_taken_is_refused_and_the_rest_goes_on() -> None:
    with pytest.raises(BadSignal):
        LiveEar(machine=MACHINE, audio_rate_hz=2000.0, audio_start_s=0.0)
    ear = LiveEar(machine=MACHINE, audio_rate_hz=8000.0, audio_start_s=0.0)
    good = np.full(4000, 0.1, dtype=np.float32)
    before = len(ear.push_sound(good))
    with pytest.raises(BadSignal):
        ear.push_sound(np.array([0.0, np.nan], dtype=np.float32))
    with pytest.raises(BadSignal):
        ear.push_motion(np.array([0.0]), np.full((3, 1), np.inf))
    assert len(ear.push_sound(good)) == pytest.approx(before, abs=1)


def test_rows_that_come_twice_or_out_of_order_are_left_out() -> None:
    t_s = np.arange(0.0, 4.0, 0.01)
    axes = np.zeros((3, t_s.size))
    axes[1] = np.sin(2.0 * np.pi * 5.0 * t_s)
    plain = LiveEar(machine=MACHINE, audio_rate_hz=None, audio_start_s=0.0)
    doubled = LiveEar(machine=MACHINE, audio_rate_hz=None, audio_start_s=0.0)
    expected, found = [], []
    for k in range(0, t_s.size, 8):
        part = slice(k, k + 8)
        expected += plain.push_motion(t_s[part], axes[:, part])
        found += doubled.push_motion(t_s[part], axes[:, part])
        found += doubled.push_motion(t_s[part][::-1], axes[:, part][:, ::-1])
    assert found == expected


def test_a_faster_plateau_starts_the_count_of_full_speed_anew() -> None:
    progress = SpinProgress()

    def hold(rate_hz: float, from_s: float, to_s: float) -> None:
        for t in np.arange(from_s, to_s, 0.125):
            speed = LiveSpeed(rate_hz=rate_hz, sigma_hz=0.1, slope_hz_s=0.0, steady=False, felt=True)
            progress.add(t_s=float(t), speed=speed, level_db=-30.0)

    hold(10.0, 0.0, 9.0)
    assert progress.state.seen_s["full_speed"] > 6.0
    hold(18.0, 9.0, 14.0)
    assert 2.5 < progress.state.seen_s["full_speed"] < 5.0
    assert "full_speed" in progress.state.missing


def rows_of(*, rate_hz: float, top_hz: float) -> tuple[FloatArray, FloatArray]:
    """Times and acceleration of a drum that speeds up after five seconds, holds, and slows down again."""
    t_s = np.arange(0.0, 50.0, 1.0 / rate_hz)
    fine_s = np.arange(0.0, 50.0, 0.001)
    drum_hz = np.interp(fine_s, [5.0, 22.0, 35.0, 48.0], [0.0, top_hz, top_hz, 0.0])
    turns = np.interp(t_s, fine_s, np.cumsum(drum_hz) * 0.001)
    size = 0.8 * (np.interp(t_s, fine_s, drum_hz) / top_hz) ** 2
    axes = 0.03 * np.random.default_rng(4).normal(size=(3, t_s.size))
    axes[0] += size * np.cos(2.0 * np.pi * turns)
    axes[2] += 9.81
    return t_s, axes


@pytest.mark.parametrize(
    ("rate_hz", "top_hz", "is_shown"), [(60.0, 20.0, True), (60.0, 26.0, True), (25.0, 20.0, False)]
)
def test_a_slow_sensor_shows_what_it_can_and_nothing_folded(rate_hz: float, top_hz: float, is_shown: bool) -> None:
    t_s, axes = rows_of(rate_hz=rate_hz, top_hz=top_hz)
    # The plate is not known: any drum of the layout has to be thought of.
    ear = LiveEar(machine=Machine(layout="front_belt"), audio_rate_hz=None, audio_start_s=0.0)
    readings = [r for k in range(0, t_s.size, 3) for r in ear.push_motion(t_s[k : k + 3], axes[:, k : k + 3])]
    held = [r for r in readings if 25.0 < r.t_s < 35.0]
    told = [r.speed for r in held if r.speed is not None and not r.speed.steady]
    assert bool(told) == is_shown
    assert all(s.rate_hz == pytest.approx(top_hz, rel=0.03) for s in told)
    assert readings[-1].shake_m_s2 is not None
