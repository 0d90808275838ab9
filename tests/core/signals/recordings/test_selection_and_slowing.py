"""Which recordings are measured, slowed vibration, the error a track states of itself, and tones followed by phase."""

from __future__ import annotations

import numpy as np
import pytest

from eager_ear.core.case import Recording, RecordingFacts
from eager_ear.core.machine import Machine, find_layout
from eager_ear.core.signals.angle.learnt_orders import OrderFamily
from eager_ear.core.signals.angle.track import FRAME_STEP_S, SpeedTrack
from eager_ear.core.signals.dsp.low_band import LowBand
from eager_ear.core.signals.dsp.uniform_acceleration import EvenAcceleration, slowed
from eager_ear.core.signals.recordings.selection import choose
from eager_ear.core.signals.speed.find import SpeedSources, find_speed
from eager_ear.core.signals.speed.refine.by_phase import refine_by_tones
from eager_ear.core.signals.types import AccelerationSignal, AudioSignal, TachoSignal
from eager_ear.core.units import FloatArray
from tests.core.signals.synthetic import profile, shaken


def audio(name: str, samples: FloatArray, *, start_s: float = 0.0) -> Recording:
    facts = RecordingFacts(name=name, kind="audio", test="spin", run="1", start_s=start_s, position="rear_panel")
    return Recording(facts=facts, signal=AudioSignal(samples=samples.astype(np.float32), sample_rate_hz=8000.0))


def test_the_longest_whole_sound_is_measured_and_the_clipped_one_named() -> None:
    rng = np.random.default_rng(0)
    clipped = audio("loud.wav", np.clip(3.0 * rng.standard_normal(200_000), -1, 1))
    short = audio("short.wav", 0.1 * rng.standard_normal(80_000))
    whole = audio("whole.wav", 0.1 * rng.standard_normal(120_000), start_s=1.5)
    chosen = choose([clipped, short, whole], highest_hz=20.0)
    assert chosen.audio_name == "whole.wav"
    assert chosen.audio_start_s == 1.5
    assert chosen.position == "rear_panel"
    assert [w.recording for w in chosen.warnings if w.code == "clipped"] == ["loud.wav"]
    # Better a clipped recording than none.
    assert choose([clipped], highest_hz=20.0).audio_name == "loud.wav"


def test_tacho_power_cut_and_missing_sensors_are_passed_on() -> None:
    facts = RecordingFacts(name="t.csv", kind="tacho", test="spin", run="1", start_s=0.4, power_cut_s=33.0)
    chosen = choose([Recording(facts=facts, signal=TachoSignal(pulse_s=np.arange(1.0, 9.0)))], highest_hz=20.0)
    assert chosen.tacho is not None
    assert chosen.tacho_start_s == 0.4
    assert chosen.noted_power_cut_s == 33.0
    assert chosen.audio is None
    assert chosen.acceleration is None
    t_s = np.arange(0.0, 5.0, 0.01)
    blind = AccelerationSignal(t_s=t_s, axes_m_s2=np.full((3, t_s.size), np.nan))
    unseen = RecordingFacts(name="a.csv", kind="acceleration", test="spin", run="1")
    assert choose([Recording(facts=unseen, signal=blind)], highest_hz=20.0).acceleration is None


def test_slowed_vibration_keeps_time_amplitude_and_phase() -> None:
    t_s = np.arange(0.0, 20.0, 1.0 / 400.0)
    tone = np.sin(2 * np.pi * 11.0 * t_s + 0.3)
    hiss = 0.5 * np.sin(2 * np.pi * 170.0 * t_s)
    fast = EvenAcceleration(
        axes_m_s2=np.stack([tone + hiss]), axis_names=("x",), sample_rate_hz=400.0, start_s=2.0, gaps_s=()
    )
    slow = slowed(fast, target_hz=120.0)
    assert slow.sample_rate_hz == pytest.approx(400.0 / 3.0)
    assert slow.start_s == 2.0
    middle = (slow.t_s > 4.0) & (slow.t_s < 20.0)
    expected = np.sin(2 * np.pi * 11.0 * (slow.t_s - 2.0) + 0.3)
    np.testing.assert_allclose(slow.axes_m_s2[0, middle], expected[middle], atol=0.03)


@pytest.mark.parametrize("noise", [0.05, 0.4])
def test_a_track_states_its_own_error_honestly(noise: float) -> None:
    t_s, rate_hz = profile(top_hz=16.0)
    layout = find_layout("front_direct")
    machine = Machine(layout="front_direct", max_spin_rpm=1200)
    spread: list[float] = []
    for seed in range(6):
        vibration = shaken(t_s, rate_hz, orders={1: 1.0}, noise=noise, seed=seed)
        track = find_speed(SpeedSources(acceleration=vibration), machine=machine, layout=layout).track
        true = np.interp(track.t_s, t_s, rate_hz)
        turning = track.known & (track.t_s > 12) & (track.t_s < 36)
        spread.extend(np.abs(track.rate_hz - true)[turning] / track.sigma_hz[turning])
    # Two thirds of a standard deviation is the middle of a normal error; a factor of three either way is honest.
    assert 0.2 < np.median(spread) < 2.0


def test_a_tone_of_high_order_pins_the_rate() -> None:
    rate = 6000.0
    t_s = np.arange(int(30 * rate)) / rate
    true_hz = 12.0 + 0.05 * np.sin(2 * np.pi * 0.4 * t_s)
    turns = np.cumsum(true_hz) / rate
    sound = 0.2 * np.sin(2 * np.pi * 24.0 * turns) + 0.05 * np.random.default_rng(1).standard_normal(t_s.size)
    low = LowBand.of(
        AudioSignal(samples=np.repeat(sound, 2).astype(np.float32), sample_rate_hz=2 * rate), start_s=0.0, mains_hz=50
    )
    frames = np.arange(0.0, 29.8, FRAME_STEP_S)
    coarse = SpeedTrack(
        t_s=frames,
        rate_hz=np.full(frames.size, 12.0),
        known=np.ones(frames.size, dtype=bool),
        sigma_hz=np.full(frames.size, 0.1),
        source="audio",
    )
    family = OrderFamily(orders=np.array([24.0]), strengths=np.array([5.0]))
    fine = refine_by_tones(coarse, low, family, creeps=False)
    inside = (frames > 1.0) & (frames < 28.5)
    error = np.abs(fine.rate_hz - np.interp(frames, t_s, true_hz))[inside]
    assert np.median(error) < 0.006
    assert np.median(np.abs(coarse.rate_hz - np.interp(frames, t_s, true_hz))[inside]) > 0.02


def test_what_no_longer_shows_the_machine_is_rejected_and_a_clipped_peak_is_not() -> None:
    rng = np.random.default_rng(3)
    noise = 0.1 * rng.standard_normal(200_000)
    peaks = noise.copy()
    peaks[5_000::20_000] = peaks[5_001::20_000] = 1.0
    cut = np.clip(12.0 * noise, -1, 1)
    rejected = {
        name: [w.code for w in choose([audio(f"{name}.wav", samples)], highest_hz=20.0).warnings if w.rejects]
        for name, samples in (("sound", noise), ("peaks", peaks), ("cut", cut), ("quiet", 1e-6 * noise))
    }
    assert rejected == {"sound": [], "peaks": [], "cut": ["clipped"], "quiet": ["too_quiet"]}
    warned = {w.code: w.rejects for w in choose([audio("peaks.wav", peaks)], highest_hz=20.0).warnings}
    assert warned["clipped"] is False
