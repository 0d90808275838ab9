"""Inference: probabilities, additivity, explaining away, information."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from eager_ear.core.case import Case, HandCheck
from eager_ear.core.diagnosis import Knowledge, make_call
from eager_ear.core.diagnosis.evidence.readings import Reading, read_level, read_number
from eager_ear.core.diagnosis.evidence.story_findings import story_readings
from eager_ear.core.diagnosis.knowledge import Chain
from eager_ear.core.diagnosis.next_check import next_checks
from eager_ear.core.diagnosis.posterior import Hypotheses, fault_sets, hypotheses_for, infer, level_chances
from eager_ear.core.machine import LAYOUT_CODES, Machine
from eager_ear.core.units import odds_to_decibans
from eager_ear.knowledge import load_knowledge

KNOWLEDGE = load_knowledge()


def hypotheses(layout: str = "front_belt") -> Hypotheses:
    return hypotheses_for(layout, knowledge=KNOWLEDGE)


def seen(code: str, level: str) -> Reading:
    return read_level(KNOWLEDGE.findings[code], level, text=level, source="hand")


@pytest.mark.parametrize("layout", LAYOUT_CODES)
def test_prior_and_levels_are_distributions(layout: str, knowledge: Knowledge) -> None:
    sets = hypotheses_for(layout, knowledge=knowledge)
    assert sets.prior.sum() == pytest.approx(1.0)
    for finding in knowledge.findings.values():
        chances = level_chances(finding, sets)
        np.testing.assert_allclose(chances.sum(axis=1), 1.0, atol=1e-9)
        assert (chances >= -1e-12).all()


@settings(max_examples=30, deadline=None)
@given(
    st.lists(
        st.tuples(st.sampled_from(sorted(KNOWLEDGE.findings)), st.integers(0, 9)), max_size=8, unique_by=lambda t: t[0]
    )
)
def test_pulls_and_prior_add_up_to_the_odds(picked: list[tuple[str, int]]) -> None:
    readings = []
    for code, index in picked:
        levels = KNOWLEDGE.findings[code].levels
        readings.append(seen(code, levels[index % len(levels)]))
    posterior = infer(readings, hypotheses=hypotheses())
    assert posterior.probability.sum() == pytest.approx(1.0)
    for fault, pulls in posterior.pulls.items():
        total = posterior.prior_db[fault] + sum(p.decibans for p in pulls)
        inside = posterior.probability[posterior.hypotheses.members[fault]].sum()
        outside = posterior.probability[~posterior.hypotheses.members[fault]].sum()
        assert total == pytest.approx(10 * np.log10(inside / outside), abs=0.01)


def test_no_evidence_leaves_the_prior() -> None:
    posterior = infer([], hypotheses=hypotheses())
    np.testing.assert_allclose(posterior.probability, posterior.hypotheses.prior)


def test_a_found_object_explains_the_tick_away_from_others() -> None:
    tick = seen("tick_each_turn", "clear")
    alone = infer([tick], hypotheses=hypotheses("top_pulsator")).marginal
    explained = infer([tick, seen("sweep_found", "object")], hypotheses=hypotheses("top_pulsator")).marginal
    assert explained["foreign_object"] > alone["foreign_object"]
    assert explained["spindle_seat"] < alone["spindle_seat"]


def test_two_independent_signs_raise_two_faults_together() -> None:
    posterior = infer(
        [seen("rod_off", "off"), seen("belt_state", "glazed"), seen("belt_slip", "slips")],
        hypotheses=hypotheses(),
    )
    assert posterior.marginal["suspension_off"] > 0.5
    assert posterior.marginal["belt"] > 0.5
    assert posterior.marginal["suspension_off"] + posterior.marginal["belt"] > 1.0


def test_a_reading_near_a_limit_does_not_jump() -> None:
    finding = KNOWLEDGE.findings["lip_play"]
    limit = finding.limits[1]
    below, above = (
        infer([read_number(finding, v, sigma=0.1, text="", source="hand")], hypotheses=hypotheses()).marginal
        for v in (limit * 0.99, limit * 1.01)
    )
    assert above["drum_bearing"] == pytest.approx(below["drum_bearing"], rel=0.05)
    assert above["drum_bearing"] > below["drum_bearing"]


def test_falling_limits_read_the_right_way_round() -> None:
    finding = KNOWLEDGE.findings["damping"]
    assert read_number(finding, 0.25, sigma=0.01, text="", source="sound").level == "healthy"
    assert read_number(finding, 0.03, sigma=0.005, text="", source="sound").level == "very low"


def test_information_is_never_negative_and_done_checks_are_gone() -> None:
    posterior = infer([seen("turn_feel", "rumble")], hypotheses=hypotheses())
    checks = next_checks(posterior, layout="front_belt", done={"hand_turn"}, knowledge=KNOWLEDGE)
    assert checks
    assert all(c.gain_bits > 0 for c in checks)
    assert "hand_turn" not in [c.check for c in checks]
    assert "coupler_look" not in [c.check for c in checks]
    for check in checks:
        assert sum(o.chance for o in check.outcomes) == pytest.approx(1.0, abs=1e-6)


def test_untold_symptoms_weigh_little_and_an_empty_story_nothing() -> None:
    assert story_readings([], knowledge=KNOWLEDGE) == []
    told = infer(story_readings(["growl_in_spin"], knowledge=KNOWLEDGE), hypotheses=hypotheses())
    assert max(told.marginal, key=lambda f: told.marginal[f]) == "drum_bearing"
    untold = [p for p in told.pulls["drum_bearing"] if "does not report" in p.reading.text]
    assert all(abs(p.decibans) < 4.0 for p in untold)


def call_of(**facts: object):  # type: ignore[no-untyped-def]
    case = Case(id="t", machine=Machine(layout=str(facts.pop("layout", "front_belt"))), **facts)  # type: ignore[arg-type]
    return make_call(case, knowledge=KNOWLEDGE)


def test_nothing_known_means_record_first() -> None:
    assert call_of().advice == "record_again"


def test_clear_hands_commit_and_unclear_ones_ask() -> None:
    rod = HandCheck(check="corner_rest", values={"detached": ["rear_left"]})
    clear = call_of(checks=(rod,), symptoms=("drum_off_centre", "shakes"))
    assert (clear.suspects[0].fault, clear.advice) == ("suspension_off", "commit")
    unclear = call_of(checks=(HandCheck(check="smell", values={"burnt": False}),))
    assert unclear.advice in ("check_more", "record_again")
    assert unclear.next_checks


def test_no_machine_is_opened_on_hearsay_alone() -> None:
    told = call_of(layout="front_belt", symptoms=("squeal", "slow_spin", "burnt_smell"))
    assert told.suspects[0].fault == "belt"
    assert told.advice != "commit"
    looked = HandCheck(check="belt_look", values={"state": "glazed"})
    seen_too = call_of(layout="front_belt", symptoms=("squeal", "slow_spin", "burnt_smell"), checks=(looked,))
    assert seen_too.advice == "commit"


def test_a_load_needs_no_teardown() -> None:
    seen_load = HandCheck(check="load_seen", values={"kind": "mat_or_blanket"})
    firm = [
        HandCheck(check="rock", values={"gap_mm": [0.0, 0.0, 0.0, 0.0]}),
        HandCheck(check="bounce", values={"corner": "centre", "swings": 1.0}),
        HandCheck(check="drum_gap_round", values={"gaps_mm": [9.0] * 8}),
        HandCheck(check="counterweight", values={"loose": False}),
        HandCheck(check="corner_rest", values={"detached": []}),
    ]
    call = call_of(checks=(seen_load, *firm), symptoms=("shakes", "walks"))
    assert call.suspects[0].fault == "load_problem"
    assert call.advice in ("no_teardown", "check_more")


def test_suspects_are_every_fault_of_the_layout() -> None:
    for layout in LAYOUT_CODES:
        call = call_of(layout=layout, symptoms=("shakes",))
        assert {s.fault for s in call.suspects} == {f.code for f in KNOWLEDGE.faults_of(layout)}


def test_decibans_of_even_odds_are_zero_and_symmetric() -> None:
    assert odds_to_decibans(0.2) == pytest.approx(-odds_to_decibans(0.8))


def test_threes_along_a_chain_by_hand() -> None:
    """Of ten shares one is the seal's: the three along its chain are 0.1 · 0.5 · 0.2, before all are scaled to one."""
    chains = (
        Chain(cause="tub_seal", effect="drum_bearing", chance=0.5, why=""),
        Chain(cause="drum_bearing", effect="motor", chance=0.2, why=""),
        Chain(cause="belt", effect="clutch", chance=0.9, why=""),
    )
    made = fault_sets(("none", "tub_seal", "drum_bearing", "motor"), chains)
    three = made.sets.index(frozenset({"tub_seal", "drum_bearing", "motor"}))
    assert [len(s) for s in made.sets].count(3) == 1
    prior = made.prior({"none": 4.0, "tub_seal": 1.0, "drum_bearing": 2.0, "motor": 3.0})
    alone = made.sets.index(frozenset({"tub_seal"}))
    assert prior[three] / prior[alone] == pytest.approx(0.5 * 0.2)


def test_one_cause_brings_about_two() -> None:
    chains = (
        Chain(cause="load_problem", effect="suspension_off", chance=0.1, why=""),
        Chain(cause="load_problem", effect="motor_coupler", chance=0.2, why=""),
    )
    made = fault_sets(("none", "load_problem", "suspension_off", "motor_coupler"), chains)
    assert made.threes == ((0, pytest.approx(0.02)),)


def test_a_leak_a_worn_bearing_and_a_worn_clutch_are_seen_together() -> None:
    told = infer(
        [
            seen("leak_level", "drips"),
            seen("turn_feel", "rumble"),
            seen("residue_where", "under_gearcase"),
            seen("clutch_state", "worn_out"),
        ],
        hypotheses=hypotheses("top_coupler"),
    )
    assert min(told.marginal[f] for f in ("tub_seal", "gearcase_bearing", "clutch")) > 0.5
    assert frozenset({"tub_seal", "gearcase_bearing", "clutch"}) in told.hypotheses.sets
