"""What must not matter does not: gain, time, rate, channel order and sign; and what is no recording breaks nothing."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from scipy import signal as sps

from eager_ear.core.analysis import Analysis, analyse
from eager_ear.core.case import Case, Recording, RecordingFacts
from eager_ear.core.curves import curves_dict
from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.machine import LAYOUT_CODES, Machine
from eager_ear.core.result import result_dict
from eager_ear.core.signals.types import AccelerationSignal, AudioSignal
from eager_ear.core.simulate import SimulatedCase
from eager_ear.knowledge import load_knowledge

KNOWLEDGE = load_knowledge()
Change = Callable[[Recording], Recording]


def louder(recording: Recording) -> Recording:
    if isinstance(recording.signal, AudioSignal):
        return replace(recording, signal=replace(recording.signal, samples=recording.signal.samples * np.float32(0.4)))
    return recording


def upside_down(recording: Recording) -> Recording:
    if isinstance(recording.signal, AudioSignal):
        return replace(recording, signal=replace(recording.signal, samples=-recording.signal.samples))
    return replace(recording, signal=replace(recording.signal, axes_m_s2=-recording.signal.axes_m_s2))  # type: ignore[arg-type]


def later(recording: Recording) -> Recording:
    return replace(recording, facts=replace(recording.facts, start_s=recording.facts.start_s + 7.5))


def resampled(recording: Recording) -> Recording:
    if isinstance(recording.signal, AudioSignal):
        samples = sps.resample_poly(recording.signal.samples, 2, 3).astype(np.float32)
        rate = recording.signal.sample_rate_hz * 2 / 3
        return replace(recording, signal=AudioSignal(samples=samples, sample_rate_hz=rate))
    return recording


def sides_swapped(recording: Recording) -> Recording:
    if isinstance(recording.signal, AccelerationSignal):
        axes = recording.signal.axes_m_s2[[1, 0, 2]]
        return replace(recording, signal=AccelerationSignal(t_s=recording.signal.t_s, axes_m_s2=axes))
    return recording


def changed(case: Case, change: Change, knowledge: Knowledge) -> Analysis:
    return analyse(replace(case, recordings=tuple(change(r) for r in case.recordings)), knowledge=knowledge)


@pytest.mark.parametrize("change", [louder, upside_down, later, resampled, sides_swapped], ids=lambda c: c.__name__)
def test_what_must_not_matter_changes_no_call(
    change: Change,
    simulated: Callable[..., SimulatedCase],
    analysed: Callable[..., Analysis],
    knowledge: Knowledge,
) -> None:
    case = simulated("front_belt", "drum_bearing", 7, 0.9).case
    before = analysed("front_belt", "drum_bearing", 7, 0.9)
    after = changed(case, change, knowledge)
    assert after.call.suspects[0].fault == before.call.suspects[0].fault
    assert after.call.suspects[0].probability == pytest.approx(before.call.suspects[0].probability, abs=0.05)
    first, second = (a.lead.track for a in (before, after) if a.lead is not None)
    assert first is not None
    assert second is not None
    assert second.max_rpm == pytest.approx(first.max_rpm, rel=0.003)
    shift = 7.5 if change is later else 0.0
    common = np.arange(21.0, 26.0, 0.5)
    np.testing.assert_allclose(second.at(common + shift), first.at(common), rtol=0.02)


def noise_case(layout: str, seconds: float, rate_hz: float, kind: str, seed: int) -> Case:
    rng = np.random.default_rng(seed)
    count = int(seconds * rate_hz)
    shapes = {
        "noise": 0.1 * rng.standard_normal(count),
        "silence": np.zeros(count),
        "full_scale": np.sign(rng.standard_normal(count)),
        "one_click": np.eye(1, count, count // 2)[0],
        "ramp": np.linspace(-1.0, 1.0, count),
        "tone": np.sin(2 * np.pi * 440.0 * np.arange(count) / rate_hz),
    }
    audio = AudioSignal(samples=shapes[kind].astype(np.float32), sample_rate_hz=rate_hz)
    t_s = np.sort(rng.uniform(0.0, seconds, size=max(3, int(50 * seconds))))
    t_s = t_s + 1e-6 * np.arange(t_s.size)
    axes = np.stack([rng.standard_normal(t_s.size), np.full(t_s.size, np.nan), np.full(t_s.size, 9.8)])
    return Case(
        id="odd",
        machine=Machine(layout=layout),
        recordings=(
            Recording(facts=RecordingFacts(name="a.wav", kind="audio", test="spin", run="1"), signal=audio),
            Recording(
                facts=RecordingFacts(name="a.csv", kind="acceleration", test="spin", run="1", start_s=-2.0),
                signal=AccelerationSignal(t_s=t_s, axes_m_s2=axes),
            ),
        ),
    )


@settings(max_examples=25, deadline=None, derandomize=True, suppress_health_check=list(HealthCheck))
@given(
    layout=st.sampled_from(LAYOUT_CODES),
    seconds=st.sampled_from([0.3, 1.0, 2.5, 9.0, 20.0]),
    rate_hz=st.sampled_from([8000.0, 11025.0, 22050.0, 48000.0]),
    kind=st.sampled_from(["noise", "silence", "full_scale", "one_click", "ramp", "tone"]),
    seed=st.integers(0, 1000),
)
def test_odd_recordings_give_a_result_and_no_claim(
    layout: str, seconds: float, rate_hz: float, kind: str, seed: int
) -> None:
    analysis = analyse(noise_case(layout, seconds, rate_hz, kind, seed), knowledge=KNOWLEDGE)
    result = result_dict(analysis.weighed)
    curves_dict(analysis.lead)
    assert result["advice"] != "commit"
    assert all(0.0 < s["probability"] < 1.0 for s in result["suspects"])
    numbers = [v for v in result["measurements"].values() if isinstance(v, float)]
    assert np.isfinite(numbers).all()
    assert "critical_rpm" not in result["measurements"]
    assert "belt_slip_pct" not in result["measurements"]
