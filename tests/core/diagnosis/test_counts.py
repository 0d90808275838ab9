"""What is counted moves odds and columns as arithmetic by hand says, and no further than the doubt allows."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.diagnosis.counts import LEAST_CHANCE, Counts, with_columns, with_odds
from eager_ear.core.diagnosis.posterior import hypotheses_for, level_chances
from eager_ear.core.units import FloatArray


def shown_with(knowledge: Knowledge, finding: str, fault: str, *, layout: str) -> FloatArray:
    """What a machine with that fault alone shows of the finding."""
    hypotheses = hypotheses_for(layout, knowledge=knowledge)
    sets = [frozenset[str]() if fault == "none" else frozenset({fault})]
    return np.asarray(level_chances(knowledge.findings[finding], hypotheses)[hypotheses.sets.index(sets[0])])


def test_a_column_is_so_many_cases_and_counts_are_added_to_it(knowledge: Knowledge) -> None:
    # Broken couplers were seen whole in 3 of 10: (97 + 7) broken of 110.
    told = knowledge.findings["coupler_state"]
    assert not told.given["motor_coupler"][0] > 0.04
    counts = Counts(levels={"coupler_state": {"motor_coupler": np.array([3.0, 7.0])}})
    after = with_columns(knowledge, counts, weight=100.0)
    before = shown_with(knowledge, "coupler_state", "motor_coupler", layout="top_coupler")
    got = shown_with(after, "coupler_state", "motor_coupler", layout="top_coupler")
    np.testing.assert_allclose(got, (100.0 * before + [3.0, 7.0]) / 110.0, atol=2e-3)


def test_what_a_fault_shows_is_counted_together_with_what_the_machine_shows_anyway(knowledge: Knowledge) -> None:
    seen = {"suspension_worn": np.array([10.0, 10.0, 80.0]), "none": np.array([170.0, 20.0, 10.0])}
    after = with_columns(knowledge, Counts(levels={"bounce_swings": seen}), weight=1e-6)
    calm = shown_with(after, "bounce_swings", "none", layout="top_coupler")
    worn = shown_with(after, "bounce_swings", "suspension_worn", layout="top_coupler")
    np.testing.assert_allclose(calm, [0.85, 0.10, 0.05], atol=1e-3)
    np.testing.assert_allclose(worn, [0.10, 0.10, 0.80], atol=1e-3)


def test_doubt_keeps_its_share_of_the_built_in_column(knowledge: Knowledge) -> None:
    many = Counts(levels={"coupler_state": {"motor_coupler": np.array([1e6, 0.0])}})
    after = with_columns(knowledge, many, weight=1.0, doubt=0.4)
    before = shown_with(knowledge, "coupler_state", "motor_coupler", layout="top_coupler")
    got = shown_with(after, "coupler_state", "motor_coupler", layout="top_coupler")
    np.testing.assert_allclose(got, 0.4 * before + 0.6 * np.array([1.0, 0.0]), atol=5e-3)


def test_a_fault_is_tied_to_a_finding_only_where_counts_leave_no_doubt(knowledge: Knowledge) -> None:
    calm = np.array([180.0, 15.0, 5.0])
    clear = Counts(levels={"drag": {"none": calm, "belt": np.array([5.0, 5.0, 40.0])}})
    chance = Counts(levels={"drag": {"none": calm, "belt": np.array([44.0, 5.0, 1.0])}})
    assert "belt" not in knowledge.findings["drag"].given
    assert "belt" in with_columns(knowledge, clear, weight=10.0, ties=True).findings["drag"].given
    assert "belt" not in with_columns(knowledge, clear, weight=10.0).findings["drag"].given
    assert "belt" not in with_columns(knowledge, chance, weight=10.0, ties=True).findings["drag"].given


def has(knowledge: Knowledge, fault: str) -> float:
    """How often a machine has that fault, before anything is heard."""
    hypotheses = hypotheses_for("top_coupler", knowledge=knowledge)
    return float(hypotheses.prior[hypotheses.members[fault].astype(bool)].sum())


def test_odds_that_were_counted_as_they_are_stay_as_they_are(knowledge: Knowledge) -> None:
    found = {f: 500.0 * has(knowledge, f) for f in knowledge.odds_of("top_coupler")}
    counts = Counts(visits={"top_coupler": 500.0}, found={"top_coupler": found})
    after = with_odds(knowledge, counts, weight=50.0)
    for fault in found:
        assert has(after, fault) == pytest.approx(has(knowledge, fault), rel=0.03)


def test_odds_of_a_layout_move_with_what_was_found_there_and_nowhere_else(knowledge: Knowledge) -> None:
    counts = Counts(visits={"top_coupler": 50.0}, found={"top_coupler": {"motor_coupler": 50.0}})
    after = with_odds(knowledge, counts, weight=50.0)
    for fault in ("none", "motor_coupler", "clutch"):
        # As many cases brought along as were counted: the mean of both.
        expected = (has(knowledge, fault) + float(fault == "motor_coupler")) / 2.0
        assert has(after, fault) == pytest.approx(expected, rel=0.06)
    assert after.odds_of("front_belt") == knowledge.odds_of("front_belt")
    first, now = (hypotheses_for("top_coupler", knowledge=k) for k in (knowledge, after))
    single = first.sets.index(frozenset({"motor_coupler"}))
    assert now.prior[single] > 2.0 * first.prior[single]
    assert now.prior.sum() == pytest.approx(1.0)


def test_nothing_becomes_impossible_by_counting(knowledge: Knowledge) -> None:
    only = Counts(
        visits={"top_coupler": 1e9},
        found={"top_coupler": {"none": 1e9}},
        levels={"coupler_state": {"motor_coupler": np.array([0.0, 1e9])}},
    )
    after = with_columns(with_odds(knowledge, only, weight=1.0), only, weight=1.0)
    odds = after.odds_of("top_coupler")
    assert min(odds.values()) / sum(odds.values()) >= LEAST_CHANCE / 2
    assert shown_with(after, "coupler_state", "motor_coupler", layout="top_coupler").min() >= LEAST_CHANCE / 2


def test_counting_nothing_changes_nothing(knowledge: Knowledge) -> None:
    after = with_columns(knowledge, Counts(levels={"bounce_swings": {}}), weight=30.0)
    for fault in ("none", "suspension_worn", "suspension_off"):
        np.testing.assert_allclose(
            shown_with(after, "bounce_swings", fault, layout="top_coupler"),
            shown_with(knowledge, "bounce_swings", fault, layout="top_coupler"),
            atol=2e-3,
        )
    assert replace(after, findings=knowledge.findings).odds == knowledge.odds
