"""The sum behind the advice, by hand, and the rules of the trade that hold whatever it says."""

from __future__ import annotations

import itertools
from dataclasses import replace
from typing import Any

import numpy as np
import pytest

from eager_ear.core.case import Case, HandCheck
from eager_ear.core.cost import Money, Shop, Stakes, stakes_of
from eager_ear.core.diagnosis.decision import RECORDING_MIN, Choice, _openings, decide
from eager_ear.core.diagnosis.evidence.hand_findings import hand_readings
from eager_ear.core.diagnosis.evidence.shown import Observation, Shown
from eager_ear.core.diagnosis.evidence.story_findings import story_readings
from eager_ear.core.diagnosis.knowledge import Finding
from eager_ear.core.diagnosis.next_check import BETWEEN_CHECKS_MIN, minutes_of, opened_by
from eager_ear.core.diagnosis.posterior import Posterior, hypotheses_for, infer, level_chances
from eager_ear.core.machine import LAYOUT_CODES, Machine
from eager_ear.core.signals.recordings import Warning
from eager_ear.core.units import FloatArray
from eager_ear.core.weigh import Weighed, weigh
from eager_ear.knowledge import load_knowledge

KNOWLEDGE = load_knowledge()


def weighed(layout: str, *checks: tuple[str, dict[str, Any]], told: tuple[str, ...] = (), **shop: Any) -> Weighed:
    case = Case(
        id="x",
        machine=Machine(layout=layout),
        symptoms=told,
        checks=tuple(HandCheck(check=code, values=values) for code, values in checks),
    )
    return weigh(case, shown=(), knowledge=KNOWLEDGE, shop=Shop(**shop) if shop else None)


def choice(found: Weighed, code: str | None, action: str = "check") -> Choice:
    return next(c for c in found.call.decision.choices if c.action == action and code in (c.check, c.fault))


def test_the_sum_by_hand() -> None:
    """Opening in vain costs its own minutes and leaves the true fault; leaving costs what is left."""
    posterior = infer([], hypotheses=hypotheses_for("top_coupler", knowledge=KNOWLEDGE))
    faults = [f.code for f in KNOWLEDGE.faults_of("top_coupler")]
    stakes = Stakes(
        wrong_min=dict.fromkeys(faults, 100.0),
        left_min=40.0,
        unsettled_min=20.0,
        refer_min=90.0,
        hour=Money.of(60, "EUR"),
    )
    found = decide(posterior, layout="top_coupler", done=(), knowledge=KNOWLEDGE, stakes=stakes)
    closed = {f.code for f in KNOWLEDGE.faults.values() if f.teardown == "none"}
    sets = posterior.hypotheses.sets
    wants = np.array([bool(s - closed) for s in sets])
    left = np.array([40.0 if s - closed else 20.0 if s else 0.0 for s in sets])
    leave = next(c for c in found.choices if c.action == "leave")
    assert leave.lost_min == pytest.approx(float(posterior.probability @ left))
    opening = next(c for c in found.choices if c.action == "open")
    without = np.array([opening.fault not in s for s in sets])
    expected = float((posterior.probability * without * (100.0 + left)).sum())
    assert opening.lost_min == pytest.approx(expected)
    assert opening.wrong == pytest.approx(float(posterior.probability[without].sum()))
    seeing = next(c for c in found.choices if c.action == "see_to")
    there = np.array([seeing.fault in s for s in sets])
    expected = float(posterior.probability @ np.where(there, 40.0 * wants, 10.0 + left))
    assert seeing.lost_min == pytest.approx(expected)
    totals = [c.total_min for c in found.choices]
    assert totals == sorted(totals)


def test_a_foot_in_the_air_is_seen_to_rather_than_left() -> None:
    found = weighed("front_belt", ("rock", {"gap_mm": [0, 5, 0, 0]}), told=("walks", "shakes"))
    assert found.call.decision.choices[0].action == "see_to"
    assert found.call.decision.choices[0].fault == "not_level"
    assert found.call.advice == "no_teardown"


def test_a_check_is_never_expected_to_make_it_worse() -> None:
    found = weighed("front_belt", ("hand_turn", {"feel": "rumble"}))
    ends = ("open", "see_to", "leave")
    without = min(c.lost_min for c in found.call.decision.choices if c.action in ends)
    for one in found.call.decision.choices:
        if one.action in ("check", "record"):
            assert one.lost_min <= without + 1e-9
            assert one.spent_min > 0


def test_a_spider_is_not_opened_for_before_its_gap_round() -> None:
    """Told and shaken as it may be: three minutes settle it."""
    told = ("thump_in_spin", "shakes", "walks", "clank_metal")
    before = weighed("front_belt", ("hand_turn", {"feel": "scrapes_once_per_turn"}), told=told)
    assert before.call.advice != "commit"
    after = weighed("front_belt", ("drum_gap_round", {"gaps_mm": [10, 13, 16, 13, 10, 7, 4, 7]}), told=told)
    assert (after.call.suspects[0].fault, after.call.advice) == ("spider", "commit")


def test_a_coupler_whose_crumbs_were_seen_is_not_checked_once_more() -> None:
    found = weighed("top_coupler", ("coupler_look", {"broken": True}), told=("no_spin", "no_agitation"))
    assert (found.call.suspects[0].fault, found.call.advice) == ("motor_coupler", "commit")


def test_splines_suspected_from_the_story_are_twisted_by_hand_before_anything_is_recorded() -> None:
    found = weighed("top_splined", told=("no_spin", "clank_metal", "grinding"))
    assert found.call.suspects[0].fault == "hub_spline"
    assert (found.call.advice, found.call.next_checks[0].check) == ("check_more", "hold_and_twist")


def test_a_growl_from_the_story_is_recorded_first() -> None:
    assert weighed("front_belt", told=("growl_in_spin", "roar_rises_with_speed")).call.advice == "record_again"


def test_rust_in_the_bell_asks_for_the_leak_before_the_clutch() -> None:
    wet = weighed("top_coupler", ("clutch_look", {"state": "wet_with_rust"}), told=("clothes_wet",))
    assert wet.call.suspects[0].fault == "tub_seal"
    assert wet.call.advice == "check_more"
    leak = weighed("top_coupler", ("residue", {"where": "clutch_bell"}), told=("leak_centre", "clothes_wet"))
    assert (leak.call.advice, leak.call.next_checks[0].check) == ("check_more", "staged_fill")
    assert "before anything is opened" in leak.call.headline
    assert "level at which it drips" in leak.call.decision.why_first


def test_no_motor_before_what_brakes_it_is_ruled_out() -> None:
    burnt = (("smell", {"burnt": True}), ("motor_amps", {"running_a": 9.0, "rated_a": 4.0}))
    found = weighed("front_belt", *burnt, ("hot_cutout", {"runs_min": 6.0, "rests_min": 20.0}), told=("burnt_smell",))
    assert found.call.suspects[0].fault == "motor"
    assert found.call.advice == "check_more"
    assert set(found.call.decision.first) <= {"hand_turn", "pump_clear"}


def test_a_pump_that_was_seen_jammed_leads() -> None:
    found = weighed("front_belt", ("pump_clear", {"blocked": True}), told=("does_not_drain",))
    assert (found.call.suspects[0].fault, found.call.advice) == ("pump_blocked", "commit")


def test_a_spin_test_is_weighed_until_one_was_recorded() -> None:
    """It is worth what its most telling finding would be, as often as a spin shows that."""
    case = Case(
        id="x", machine=Machine(layout="front_belt"), checks=(HandCheck(check="smell", values={"burnt": False}),)
    )
    call = weigh(case, shown=(), knowledge=KNOWLEDGE).call
    record = next(c for c in call.decision.choices if c.action == "record")
    assert (call.advice, call.decision.choices[0]) == ("record_again", record)
    assert "ecord a spin test from rest to rest" in call.headline
    posterior = infer(
        hand_readings(case.checks, findings=KNOWLEDGE.findings),
        hypotheses=hypotheses_for("front_belt", knowledge=KNOWLEDGE),
    )
    stakes = stakes_of("front_belt", repair=KNOWLEDGE.repair, shop=Shop(), faults=tuple(KNOWLEDGE.faults))
    losses = np.stack([opening.loss for opening in _openings(posterior, KNOWLEDGE, stakes)])
    now = float((losses @ posterior.probability).min())
    heard = [f for f in KNOWLEDGE.findings.values() if f.shown and "front_belt" in f.layouts]
    least = min(f.shown * least_after(posterior, losses, f) + (1.0 - f.shown) * now for f in heard)
    assert record.lost_min == pytest.approx(least)
    assert record.spent_min == pytest.approx(RECORDING_MIN + BETWEEN_CHECKS_MIN)
    heard_call = weigh(case, shown=(spun(drum_still=0.0),), knowledge=KNOWLEDGE).call
    assert all(c.action != "record" for c in heard_call.decision.choices)


def test_a_foot_in_the_air_is_seen_to_before_a_spin_is_recorded() -> None:
    found = weighed("top_pulsator", ("rock", {"gap_mm": [0, 4.0, 0, 0]}), told=("walks",)).call
    assert found.suspects[0].fault == "not_level"
    assert found.advice in ("no_teardown", "check_more")
    assert all(c.action != "record" for c in found.decision.choices)


def test_a_machine_is_handed_on_once_no_check_pays() -> None:
    """As dear as the way and the hour that somebody else works; as long as a check pays, it is not weighed."""
    told = ("no_spin", "trips_mid_spin")
    asked = weighed("front_belt", told=told).call
    assert asked.decision.choices[0].action in ("check", "record")
    assert all(c.action != "refer" for c in asked.decision.choices)
    every = [code for code, check in KNOWLEDGE.checks.items() if "front_belt" in check.layouts]
    posterior = infer(
        story_readings(told, knowledge=KNOWLEDGE), hypotheses=hypotheses_for("front_belt", knowledge=KNOWLEDGE)
    )
    stakes = stakes_of("front_belt", repair=KNOWLEDGE.repair, shop=Shop(), faults=tuple(KNOWLEDGE.faults))
    found = decide(posterior, layout="front_belt", done=every, knowledge=KNOWLEDGE, stakes=stakes)
    assert (found.choices[0].action, found.choices[0].total_min) == ("refer", pytest.approx(60.0 + 25.0))
    assert min(c.total_min for c in found.choices if c.action != "refer") > 85.0


def test_a_way_that_was_paid_for_is_not_paid_again() -> None:
    """Four minutes of a panel, five with a meter: whoever has either at hand pays what is missing."""
    ways = {"panel": "belt_look", "meter": "capacitor_uf", "lid": "bounce"}
    assert {way: KNOWLEDGE.checks[code].access for way, code in ways.items()} == {way: way for way in ways}
    for made, way, left in (
        ("lid", "panel", 4.0),
        ("panel", "meter", 1.0),
        ("meter", "panel", 0.0),
        ("panel", "panel", 0.0),
    ):
        check = next(c for c in KNOWLEDGE.checks.values() if c.access == way and c.code != ways[made])
        opened = opened_by([ways[made]], knowledge=KNOWLEDGE)
        assert minutes_of(check, opened=opened) == check.minutes + left
    before, after = weighed("top_shifter"), weighed("top_shifter", ("belt_look", {"state": "good"}))
    minutes = [
        {c.check: c.minutes for c in found.call.next_checks if KNOWLEDGE.checks[c.check].access == "panel"}
        for found in (before, after)
    ]
    both = set(minutes[0]) & set(minutes[1])
    assert both
    assert all(minutes[0][code] - minutes[1][code] == 4.0 for code in both)


def test_dear_mistakes_ask_for_more_checks_and_cheap_ones_for_fewer() -> None:
    checks = (("hand_turn", {"feel": "rumble"}), ("drum_lift_play", {"play_mm": 2.0}))
    cheap = weighed("front_belt", *checks, wrong_teardown=0, hour=6000)
    dear = weighed("front_belt", *checks, wrong_teardown=500_000, hour=6000)
    assert choice(dear, "drum_bearing", "open").lost_min > 5 * choice(cheap, "drum_bearing", "open").lost_min
    assert cheap.call.advice == "commit"
    assert dear.call.advice == "check_more"


def test_stakes_are_the_work_the_parts_and_the_trust() -> None:
    faults = tuple(f.code for f in KNOWLEDGE.faults_of("top_coupler"))
    plain = stakes_of("top_coupler", repair=KNOWLEDGE.repair, shop=Shop(wrong_teardown=0), faults=faults)
    # Off and on of the coupler without trouble, and half of a kit of 10 to 25 at an hour of 60.
    assert plain.wrong_min["motor_coupler"] == pytest.approx(48.5 + 0.5 * 17.5, abs=0.01)
    trusted = stakes_of("top_coupler", repair=KNOWLEDGE.repair, shop=Shop(wrong_teardown=6000), faults=faults)
    assert trusted.wrong_min["motor_coupler"] == pytest.approx(plain.wrong_min["motor_coupler"] + 60.0)
    assert plain.wrong_min["gearcase"] > 2 * plain.wrong_min["motor_coupler"]


def test_what_brings_what_about_is_likelier_together_than_by_chance() -> None:
    both = hypotheses_for("top_coupler", knowledge=KNOWLEDGE)
    chance = dict(zip(both.sets, both.prior, strict=True))
    pair = chance[frozenset({"tub_seal", "clutch"})]
    assert pair > 5 * chance[frozenset({"tub_seal", "agitator_dogs"})]
    assert pair < chance[frozenset({"tub_seal"})]


def test_where_hand_and_story_disagree_both_are_named() -> None:
    told = ("growl_in_spin", "roar_rises_with_speed", "leak_rear", "rust_marks")
    found = weighed(
        "front_belt",
        ("drum_lift_play", {"play_mm": 2.6}),
        ("residue", {"where": "rear_below_bearing"}),
        ("hand_turn", {"feel": "smooth"}),
        told=told,
    )
    assert found.call.suspects[0].fault == "drum_bearing"
    [warning] = [w for w in found.call.warnings if w.code == "contradiction"]
    assert "smooth" in warning.message
    assert "measure both again" in warning.message


def least_after(posterior: Posterior, losses: FloatArray, *found: Finding) -> float:
    """Expected loss once all of these were looked at, outcome by outcome."""
    tables = [level_chances(finding, posterior.hypotheses) for finding in found]
    total = 0.0
    for levels in itertools.product(*(range(len(f.levels)) for f in found)):
        joint = posterior.probability.copy()
        for table, level in zip(tables, levels, strict=True):
            joint = joint * table[:, level]
        total += float((losses @ joint).min())
    return total


def test_two_checks_behind_one_cover_by_hand() -> None:
    """The second is made after those outcomes of the first where it pays, at its own minutes alone."""
    posterior = infer(
        story_readings(("no_spin", "grinding"), knowledge=KNOWLEDGE),
        hypotheses=hypotheses_for("top_coupler", knowledge=KNOWLEDGE),
    )
    # To be left with what is there costs 100, to have opened for the coupler in vain 60 besides.
    stakes = Stakes(
        wrong_min=dict.fromkeys(KNOWLEDGE.faults, 60.0),
        left_min=100.0,
        unsettled_min=0.0,
        refer_min=1000.0,
        hour=Money.of(60, "EUR"),
    )
    first, second = KNOWLEDGE.checks["coupler_look"], KNOWLEDGE.checks["gearcase_turns"]
    others = set(KNOWLEDGE.checks) - {first.code, second.code}
    found = decide(posterior, layout="top_coupler", done=others, knowledge=KNOWLEDGE, stakes=stakes)
    looked = next(c for c in found.choices if c.check == first.code)
    losses = np.stack([opening.loss for opening in _openings(posterior, KNOWLEDGE, stakes)])
    [coupler], [gearcase] = ([KNOWLEDGE.findings[f] for f in check.findings] for check in (first, second))
    alone = least_after(posterior, losses, coupler)
    # Others behind the same cover were made: it is off.
    way = first.minutes + BETWEEN_CHECKS_MIN
    joint = level_chances(coupler, posterior.hypotheses) * posterior.probability[:, None]
    then = 0.0
    made = 0.0
    for column in joint.T:
        end = float((losses @ column).min())
        after = [float((losses @ (column * level)).min()) for level in level_chances(gearcase, posterior.hypotheses).T]
        minutes = float(column.sum()) * (second.minutes + BETWEEN_CHECKS_MIN)
        made += minutes if sum(after) + minutes < end else 0.0
        then += min(end, sum(after) + minutes)
    assert (looked.then, looked.name) == ("gearcase_turns", "Look at the motor coupler, then turn the gearcase's shaft")
    assert looked.total_min == pytest.approx(way + then)
    assert looked.spent_min == pytest.approx(way + made)
    assert then < alone
    # Both of them whatever the first says would take longer than the second only where it pays.
    both = least_after(posterior, losses, coupler, gearcase) + second.minutes + BETWEEN_CHECKS_MIN
    assert then <= both + 1e-9


@pytest.mark.parametrize("layout", LAYOUT_CODES)
def test_a_second_check_lies_behind_the_same_cover(layout: str) -> None:
    found = weighed(layout, told=("no_spin",))
    for one in found.call.decision.choices:
        if one.then is None:
            continue
        assert one.check is not None
        ways = {KNOWLEDGE.checks[code].access for code in (one.check, one.then)}
        assert len(ways) == 1
        assert not ways & {"outside", "lid"}


def spun(*warnings: Warning, **observed: float) -> Shown:
    observations = tuple(
        Observation(finding=finding, value=value, sigma=0.5, text=finding) for finding, value in observed.items()
    )
    return Shown(test="spin", key="a", turning=True, heard=True, observations=observations, warnings=warnings)


def test_what_a_rejected_recording_shows_opens_no_machine() -> None:
    """Weighed it is; only what was felt, or heard once more, opens the machine."""
    known = {"race_lines": 25.0, "noise_stays": 12.0}
    cut = Warning(code="clipped", message="2 % of the samples are clipped.", recording="a.wav", rejects=True)
    case = Case(id="x", machine=Machine(layout="front_belt"), symptoms=("growl_in_spin",))
    dear = Shop(wrong_teardown=0, hour=6000)
    clean = weigh(case, shown=(spun(**known),), knowledge=KNOWLEDGE, shop=dear).call
    cautious = weigh(case, shown=(spun(cut, **known),), knowledge=KNOWLEDGE, shop=dear).call
    assert clean.advice == "commit"
    assert cautious.advice == "record_again"
    assert cautious.suspects[0].probability == pytest.approx(clean.suspects[0].probability)
    assert "Record it again before anything is opened: 2 % of the samples are clipped." in cautious.headline
    mild = weigh(case, shown=(spun(replace(cut, rejects=False), **known),), knowledge=KNOWLEDGE, shop=dear).call
    assert mild.advice == "commit"
    felt = replace(case, checks=(HandCheck(check="drum_lift_play", values={"play_mm": 4.0}),))
    assert weigh(felt, shown=(spun(cut, **known),), knowledge=KNOWLEDGE, shop=dear).call.advice == "commit"
