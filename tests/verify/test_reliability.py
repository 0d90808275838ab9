"""Reliability counts each draw by how often its machine is met."""

from __future__ import annotations

from dataclasses import replace
from itertools import combinations

import numpy as np
import pytest

from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.diagnosis.posterior import hypotheses_for
from eager_ear.core.simulate import faults_of_layout
from eager_ear.knowledge import load_knowledge
from eager_ear.verify.reliability import calls_by_what_they_said, drawn_share, house_call_weights, reliability_table
from tests.verify.test_verify import EXACT

LAYOUT = "front_belt"


def possible_faults() -> tuple[str, ...]:
    return faults_of_layout(LAYOUT, knowledge=load_knowledge())


def groups() -> list[tuple[str, ...]]:
    possible = possible_faults()
    return [(), *((f,) for f in possible), *combinations(possible, 2)]


def test_weighted_draws_come_as_often_as_they_are_met(knowledge: Knowledge) -> None:
    scores = [replace(EXACT, group="+".join(faults) or "none") for faults in groups()]
    drawn = np.array([drawn_share(LAYOUT, len(faults), knowledge=knowledge) for faults in groups()])
    assert drawn.sum() == pytest.approx(1.0)
    met = drawn * house_call_weights(scores, knowledge=knowledge)
    hypotheses = hypotheses_for(LAYOUT, knowledge=knowledge)
    prior = dict(zip(hypotheses.sets, hypotheses.prior, strict=True))
    np.testing.assert_allclose(met, [prior[frozenset(faults)] for faults in groups()])


def test_a_rare_fault_that_was_called_wrong_weighs_little(knowledge: Knowledge) -> None:
    common = replace(EXACT, group="none", first_named="none", first_probability=0.5)
    weights = {
        fault: float(house_call_weights([replace(EXACT, group=fault)], knowledge=knowledge)[0])
        for fault in possible_faults()
    }
    rare = replace(common, group=min(weights, key=lambda fault: weights[fault]))
    [calls] = calls_by_what_they_said([common, rare], knowledge=knowledge)
    assert (calls.low, calls.high, calls.count) == (0.4, 0.6, 2)
    assert calls.right == 0.5
    assert calls.right_met > 0.8
    assert 1.0 <= calls.worth < 2.0
    assert calls.said == calls.said_met == 0.5


def test_one_of_two_faults_named_first_is_right_and_the_page_says_how_many() -> None:
    possible = possible_faults()
    pair = replace(EXACT, group="+".join(possible[:2]), first_named=possible[1], first_probability=0.95)
    wrong = replace(EXACT, group="none", first_named=possible[0], first_probability=0.3)
    page = reliability_table([pair, wrong])
    assert "| 90 to 100 % | 95 % | 1 of 1 (100 %) | 95 % | 100 % | 1 draws |" in page
    assert "| 20 to 40 % | 30 % | 0 of 1 (0 %) | 30 % | 0 % | 1 draws |" in page
