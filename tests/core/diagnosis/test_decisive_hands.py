"""What a hand has seen decides: with nothing else known, the call follows it."""

from __future__ import annotations

from typing import Any

import pytest

from eager_ear.core.case import Case, HandCheck
from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.machine import Machine
from eager_ear.core.weigh import weigh

# Seen or measured as the fault itself, not as a sign of it.
DECISIVE: list[tuple[str, dict[str, Any], str, str]] = [
    ("rock", {"gap_mm": [0, 0, 5, 0]}, "front_belt", "not_level"),
    ("capacitor_uf", {"measured_uf": 25, "rated_uf": 40, "tolerance_pct": 5}, "top_shifter", "run_capacitor"),
    ("lid_switch_ohms", {"closed_ohm": "open", "open_ohm": "open"}, "top_coupler", "lid_switch"),
    ("pump_clear", {"blocked": True}, "top_coupler", "pump_blocked"),
    ("coupler_look", {"broken": True}, "top_coupler", "motor_coupler"),
    ("hub_look", {"splines": "stripped"}, "top_splined", "hub_spline"),
    ("hold_and_twist", {"slips": True}, "top_splined", "hub_spline"),
    ("agitator_ratchet", {"grips_one_way": False, "free_other_way": True}, "top_coupler", "agitator_dogs"),
    ("counterweight", {"loose": True}, "front_belt", "counterweight_loose"),
    ("corner_rest", {"detached": ["rear_left"]}, "top_pulsator", "suspension_off"),
    ("clutch_look", {"state": "worn_out"}, "top_coupler", "clutch"),
    ("drum_gap_round", {"gaps_mm": [10, 13, 16, 13, 10, 7, 4, 7]}, "front_belt", "spider"),
    ("bounce", {"corner": "centre", "swings": 9}, "front_belt", "suspension_worn"),
    ("staged_fill", {"leaks_at": "lower", "dwell_min": [20]}, "top_coupler", "tub_seal"),
    ("foreign_sweep", {"found": "object"}, "front_belt", "foreign_object"),
    ("gearcase_turns", {"both_ways": False}, "top_coupler", "gearcase"),
    ("drum_lift_play", {"play_mm": 4}, "front_belt", "drum_bearing"),
]
# Signs that leave more than one fault open: they may not decide alone.
OPEN: list[tuple[str, dict[str, Any], str]] = [
    ("collar_look", {"state": "gritty"}, "top_shifter"),
    ("load_seen", {"kind": "single_heavy"}, "front_belt"),
    ("motor_amps", {"running_a": 8, "rated_a": 4}, "front_belt"),
    ("motor_alone", {"runs": False}, "top_coupler"),
    ("hose_clips", {"loose": True}, "front_belt"),
]


def probabilities(check: str, values: dict[str, Any], layout: str, knowledge: Knowledge) -> list[tuple[str, float]]:
    made = (HandCheck(check=check, values=values),)
    case = Case(id="x", machine=Machine(layout=layout), symptoms=(), note="", checks=made, recordings=())
    return [(s.fault, s.probability) for s in weigh(case, shown=(), knowledge=knowledge).call.suspects]


@pytest.mark.parametrize(("check", "values", "layout", "fault"), DECISIVE, ids=[d[0] for d in DECISIVE])
def test_a_decisive_look_leads_the_call(
    knowledge: Knowledge, check: str, values: dict[str, Any], layout: str, fault: str
) -> None:
    [(first, probability), (_, second), *_] = probabilities(check, values, layout, knowledge)
    assert first == fault
    assert probability > 0.6
    assert probability > 3.0 * second


@pytest.mark.parametrize(("check", "values", "layout"), OPEN, ids=[o[0] for o in OPEN])
def test_a_sign_alone_does_not(knowledge: Knowledge, check: str, values: dict[str, Any], layout: str) -> None:
    [(_, probability), *_] = probabilities(check, values, layout, knowledge)
    assert probability < 0.6
