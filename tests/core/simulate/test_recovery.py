"""Simulate, measure, recover: the whole pipeline on made-up machines, and the simulator's own physics."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
import pytest

from eager_ear.core.analysis import STAGES, Analysis, analyse
from eager_ear.core.case import RecordingFacts
from eager_ear.core.curves import curves_dict
from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.errors import BadField
from eager_ear.core.machine import find_layout
from eager_ear.core.result import result_dict
from eager_ear.core.signals.types import AudioSignal
from eager_ear.core.simulate import SimulatedCase, simulate_case
from eager_ear.core.simulate.faults import draw_washer

Make = Callable[..., SimulatedCase]


# What recordings alone can tell, in house-call conditions. The seed is the first, not picked.
TOLD_BY_SOUND = (
    ("front_belt", "none"),
    ("front_belt", "drum_bearing"),
    ("top_pulsator", "gearcase_bearing"),
    ("top_coupler", "motor_coupler"),
    ("top_coupler", "run_capacitor"),
    ("top_splined", "hub_spline"),
    ("top_pulsator", "foreign_object"),
)


def test_most_faults_are_named_first_and_the_speed_is_right(simulated: Make, knowledge: Knowledge) -> None:
    named: list[bool] = []
    errors: list[float] = []
    for layout, fault in TOLD_BY_SOUND:
        case = simulated(layout, fault, 1, 0.8)
        analysis = analyse(case.case, knowledge=knowledge)
        named.append(analysis.call.suspects[0].fault == fault)
        track = analysis.lead.track if analysis.lead else None
        assert (track is None) == (not case.washer.turns_drum)
        if track is not None:
            true_hz = np.interp(track.t_s, case.drum_rpm[:, 0], case.drum_rpm[:, 1]) / 60.0
            use = track.known & (true_hz > 1.0)
            errors.append(float(np.median(np.abs(track.rate_hz[use] / true_hz[use] - 1.0))))
    assert sum(named) >= 6
    assert np.median(errors) < 0.002
    assert max(errors) < 0.01


def test_sound_alone_still_names_the_bearing(simulated: Make, knowledge: Knowledge) -> None:
    case = simulated("front_belt", "drum_bearing", 7, 0.9).case
    heard = replace(case, recordings=tuple(r for r in case.recordings if r.facts.kind == "audio"))
    analysis = analyse(heard, knowledge=knowledge)
    assert analysis.call.suspects[0].fault == "drum_bearing"
    assert "order amplitudes" in (analysis.lead.absent if analysis.lead else {})


@pytest.mark.parametrize(("runs", "ticks"), [(True, False), (True, True), (False, False)])
def test_without_a_speed_no_impacts_are_said_only_where_a_machine_runs_and_no_impact_is_heard(
    simulated: Make, knowledge: Knowledge, runs: bool, ticks: bool
) -> None:
    case = simulated("front_belt", "none", 7).case
    spin = next(r for r in case.recordings if r.facts.test == "spin" and isinstance(r.signal, AudioSignal))
    rng = np.random.default_rng(1)
    hiss = 0.01 * rng.standard_normal(20 * 16_000)
    hiss[: 5 * 16_000] *= 0.1 if runs else 1.0
    if ticks:
        hiss[rng.integers(8000, hiss.size, 15)] = 0.9
    still = replace(spin, signal=AudioSignal(samples=hiss.astype(np.float32), sample_rate_hz=16_000.0))
    analysis = analyse(replace(case, recordings=(still,)), knowledge=knowledge)
    assert analysis.lead is not None
    assert analysis.lead.track is None
    assert result_dict(analysis.weighed)["measurements"].get("impacts_per_rev") == (0.0 if runs and not ticks else None)
    assert ("impacts" in analysis.lead.absent) == (ticks or not runs)


def test_shake_alone_gives_speed_but_no_bearing_claim(simulated: Make, knowledge: Knowledge) -> None:
    case = simulated("front_belt", "none", 7).case
    felt = replace(case, recordings=tuple(r for r in case.recordings if r.facts.kind == "acceleration"))
    result = result_dict(analyse(felt, knowledge=knowledge).weighed)
    assert result["measurements"]["spin_rpm_max"] > 300
    assert "impacts_per_rev" not in result["measurements"]
    assert any("sound" in w["message"] for w in result["warnings"] if w["code"] == "not_measured")


def test_result_keeps_the_format_and_stages_are_told(simulated: Make, knowledge: Knowledge) -> None:
    told: list[str] = []
    analysis = analyse(simulated("front_belt", "drum_bearing", 7, 0.9).case, knowledge=knowledge, on_stage=told.append)
    result = result_dict(analysis.weighed)
    assert told == [s for s in STAGES if s != "reading"]
    assert result["format"] == "eager-ear-result/1"
    probabilities = [s["probability"] for s in result["suspects"]]
    assert probabilities == sorted(probabilities, reverse=True)
    assert result["suspects"][0]["stage"] in ("whine", "growl", "collapsed")
    times = [t for t, _ in result["measurements"]["speed_track"]]
    assert times == sorted(times)
    assert np.median(np.diff(times)) <= 0.25
    assert all(c["gain_bits"] > 0 and c["minutes"] > 0 for c in result["next_checks"])
    curves = curves_dict(analysis.lead)
    assert len(curves["t_s"]) == len(curves["rpm"]) == len(curves["roughness"])
    assert len(curves["order_map"]["db"]) + 1 == len(curves["order_map"]["rpm_edges"])


def test_a_hidden_gain_changes_no_call(
    simulated: Make, analysed: Callable[..., Analysis], knowledge: Knowledge
) -> None:
    case = simulated("front_belt", "drum_bearing", 7, 0.9).case
    first = case.recordings[0]
    assert isinstance(first.signal, AudioSignal)
    quiet = replace(first, signal=replace(first.signal, samples=first.signal.samples * np.float32(0.25)))
    before = analysed("front_belt", "drum_bearing", 7, 0.9).call.suspects[0]
    after = analyse(replace(case, recordings=(quiet, *case.recordings[1:])), knowledge=knowledge).call.suspects[0]
    assert before.fault == after.fault
    assert before.probability == pytest.approx(after.probability, abs=0.03)


def test_unusable_recordings_ask_for_new_ones(knowledge: Knowledge, simulated: Make) -> None:
    case = simulated("front_belt", "none", 7).case
    facts = RecordingFacts(name="short.wav", kind="audio", test="spin")
    noise = np.random.default_rng(0).normal(0, 0.01, 12_000).astype(np.float32)
    short = replace(case.recordings[0], facts=facts, signal=AudioSignal(samples=noise, sample_rate_hz=48000.0))
    result = result_dict(analyse(replace(case, recordings=(short,)), knowledge=knowledge).weighed)
    codes = [w["code"] for w in result["warnings"]]
    assert "too_short" in codes
    assert "no_rotation_seen" in codes
    assert "speed_track" not in result["measurements"]


def test_the_same_seed_gives_the_same_case_and_another_one_differs() -> None:
    first, again = (simulate_case(layout="front_direct", faults=["none"], seed=3) for _ in range(2))
    a, b = first.case.recordings[0].signal, again.case.recordings[0].signal
    assert isinstance(a, AudioSignal)
    assert isinstance(b, AudioSignal)
    np.testing.assert_array_equal(a.samples, b.samples)
    other = draw_washer(find_layout("front_direct"), faults=("none",), strength=None, rng=np.random.default_rng(4))
    assert first.washer != other


def test_faults_that_cannot_be_simulated_are_refused() -> None:
    with pytest.raises(BadField, match="cannot be simulated"):
        simulate_case(layout="front_belt", faults=["timer_control"], seed=1)


def test_the_impact_of_a_thing_in_the_drum_is_laid_over_itself(simulated: Make, knowledge: Knowledge) -> None:
    lead = analyse(simulated("front_belt", "foreign_object", 3, 0.9).case, knowledge=knowledge).lead
    assert lead is not None
    assert lead.impact is not None
    assert lead.impact.count >= 10
    assert 2000.0 < lead.impact.frequency_hz < 9000.0
    assert lead.impact.likeness > 3.0 / lead.impact.count
    sound = analyse(simulated("front_belt", "none", 3).case, knowledge=knowledge).lead
    assert sound is not None
    assert sound.impact is None
