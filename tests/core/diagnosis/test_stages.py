"""Stages of a worn bearing: by hand on numbers made up for it, and what the knowledge makes of a few visits."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np
import pytest

from eager_ear.core.case import Case, HandCheck
from eager_ear.core.diagnosis import Knowledge, make_call
from eager_ear.core.diagnosis.evidence.hand_findings import hand_readings
from eager_ear.core.diagnosis.evidence.readings import read_level
from eager_ear.core.diagnosis.knowledge import Stages
from eager_ear.core.diagnosis.stages import stage_chances, stages_of
from eager_ear.core.machine import Machine

TWO = Stages(
    faults=("drum_bearing",),
    often={"whine": 0.5, "growl": 0.3, "collapsed": 0.2},
    shows={
        "turn_feel": {
            "whine": np.array([0.8, 0.2, 0.0, 0.0, 0.0]),
            "growl": np.array([0.2, 0.8, 0.0, 0.0, 0.0]),
            "collapsed": np.array([0.1, 0.4, 0.5, 0.0, 0.0]),
        },
        "race_clear": {"whine": np.array([0.9, 0.1]), "growl": np.array([0.5, 0.5]), "collapsed": np.array([0.2, 0.8])},
    },
    measured={"race_clear": (10.0,)},
    told={"growl_in_spin": {"whine": 0.1, "growl": 0.6, "collapsed": 0.5}},
)


def by_knowledge(
    knowledge: Knowledge, *, told: tuple[str, ...] = (), measured: Mapping[str, float] | None = None, **checks: Any
) -> dict[str, float]:
    made = tuple(HandCheck(check=code, values=values) for code, values in checks.items())
    readings = hand_readings(made, findings=knowledge.findings, layout="front_belt")
    return stage_chances(knowledge.stages, readings=readings, symptoms=told, measured=measured or {})


def likeliest(chances: Mapping[str, float]) -> str:
    return max(chances, key=chances.__getitem__)


def test_the_odds_of_the_stages_by_hand(knowledge: Knowledge) -> None:
    feel = read_level(knowledge.findings["turn_feel"], "rumble", text="", source="hand", slip=0.0)
    chances = stage_chances(TWO, readings=[feel], symptoms=["growl_in_spin"], measured={"race_clear": 12.0})
    # 0.5·0.2·0.1·0.1, 0.3·0.8·0.5·0.6, 0.2·0.4·0.8·0.5
    weights = np.array([0.001, 0.072, 0.032])
    assert list(chances.values()) == pytest.approx(weights / weights.sum())
    nothing = stage_chances(TWO, readings=[], symptoms=["squeal"], measured={"race_clear": None})
    assert nothing == pytest.approx(dict(TWO.often))


def test_each_stage_is_named_by_what_shows_it(knowledge: Knowledge) -> None:
    early = by_knowledge(
        knowledge, told=("whine_in_spin",), hand_turn={"feel": "smooth"}, drum_lift_play={"play_mm": 0.2}
    )
    rough = by_knowledge(
        knowledge, told=("growl_in_spin",), hand_turn={"feel": "rumble"}, drum_lift_play={"play_mm": 0.9}
    )
    gone = by_knowledge(knowledge, told=("grinding",), hand_turn={"feel": "grinding"}, drum_lift_play={"play_mm": 3.5})
    assert [likeliest(c) for c in (early, rough, gone)] == ["whine", "growl", "collapsed"]
    assert min(early["whine"], rough["growl"], gone["collapsed"]) > 0.7


def test_an_even_noise_is_early_and_a_clattering_one_late(knowledge: Knowledge) -> None:
    even = by_knowledge(knowledge, measured={"level_scatter": 0.02, "race_clear": 7.0})
    rough = by_knowledge(knowledge, measured={"level_scatter": 0.15, "race_clear": 20.0})
    clatters = by_knowledge(knowledge, measured={"level_scatter": 0.7})
    assert [likeliest(c) for c in (even, rough, clatters)] == ["whine", "growl", "collapsed"]


def test_more_play_never_makes_a_stage_earlier(knowledge: Knowledge) -> None:
    late = [by_knowledge(knowledge, drum_lift_play={"play_mm": mm})["collapsed"] for mm in np.arange(0.4, 6.0, 0.3)]
    assert late == sorted(late)


@pytest.mark.parametrize(
    ("wrong", "says"),
    [
        ({"shows": {"turn_feel": {"whine": [1.0]}}}, "no distribution over the levels of turn_feel"),
        ({"shows": {"mood": {"whine": [1.0]}}}, "no distribution over the levels of mood"),
        ({"told": {"hisses": {"whine": 0.5}}}, "hisses is unknown"),
    ],
)
def test_what_does_not_fit_is_refused(wrong: Mapping[str, Any], says: str) -> None:
    table = {"faults": ["drum_bearing"], "stage": {"whine": {"often": 1.0}}, "measured": {}, "shows": {}, "told": {}}
    with pytest.raises(ValueError, match=says):
        stages_of({**table, **wrong}, levels={"turn_feel": 5}, symptoms=["squeal"])


def test_a_word_that_is_set_aside_says_nothing_of_the_stage(knowledge: Knowledge) -> None:
    case = Case(id="visit", machine=Machine(layout="front_belt"), symptoms=("whine_in_spin",))
    believed, doubted = (
        next(s for s in make_call(case, knowledge=knowledge, set_aside=aside).suspects if s.fault == "drum_bearing")
        for aside in ((), ("symptom_whine_in_spin",))
    )
    assert believed.stages["whine"] > doubted.stages["whine"]
    assert doubted.stages == pytest.approx(dict(knowledge.stages.often))
