"""How a machine is gone at: only what changes the plan is asked, and what was said is what is planned."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from eager_ear.core.machine import LAYOUT_CODES
from eager_ear.core.repair import Setting
from eager_ear.core.strip import NoSuchWay, find_paths, make_plan, told_setting, ways_to_stand
from eager_ear.knowledge import load_knowledge

REPAIR = load_knowledge().repair


def ways(layout: str, path: str, **told: object) -> dict[str, dict[str, bool]]:
    setting = told_setting(told, setting=Setting(layout=layout))
    found: dict[str, dict[str, bool]] = {}
    paths = find_paths([path], layout=layout, repair=REPAIR)
    for way in ways_to_stand(paths, setting=setting, repair=REPAIR, factor=1.0):
        found.setdefault(way.question, {})[way.answer] = way.chosen
    return found


def test_the_exit_of_the_tub_is_asked_where_the_tub_comes_out() -> None:
    assert ways("front_belt", "bearings_pressed")["exit"] == {"exit_front": True, "exit_top": False, "exit_rear": False}
    assert "exit" not in ways("front_belt", "belt_rigid")
    assert "exit" not in ways("top_coupler", "coupler_kit")


def test_what_was_said_is_chosen() -> None:
    assert ways("front_belt", "bearings_pressed", exit="exit_top")["exit"]["exit_top"]
    assert ways("top_coupler", "coupler_kit", posture="on_back")["posture"]["on_back"]
    assert ways("front_belt", "bearings_pressed", people=2)["people"] == {"1": False, "2": True}


def test_below_a_dryer_the_posture_is_not_asked() -> None:
    column = Setting(layout="top_coupler", posture="stacked")
    told = told_setting({"posture": "on_back"}, setting=column)
    assert told.posture == "stacked"
    paths = find_paths(["coupler_kit"], layout="top_coupler", repair=REPAIR)
    assert "posture" not in {w.question for w in ways_to_stand(paths, setting=told, repair=REPAIR, factor=1.0)}


@settings(max_examples=60, deadline=None)
@given(st.data())
def test_every_answer_that_is_offered_leads_to_the_plan_that_it_promises(data: st.DataObject) -> None:
    layout = data.draw(st.sampled_from(LAYOUT_CODES))
    path = data.draw(st.sampled_from([p.id for p in REPAIR.paths.values() if layout in p.layouts]))
    paths = find_paths([path], layout=layout, repair=REPAIR)
    setting = Setting(layout=layout)
    try:
        make_plan(paths, setting=setting, repair=REPAIR)
    except NoSuchWay:
        return
    for way in ways_to_stand(paths, setting=setting, repair=REPAIR, factor=1.5):
        answer: object = int(way.answer) if way.question == "people" else way.answer
        asked = told_setting({way.question: answer}, setting=setting)
        plan = make_plan(paths, setting=asked, repair=REPAIR, factor=1.5)
        assert plan.minutes[0] == pytest.approx(way.minutes)
        assert plan.tippings == way.tippings
