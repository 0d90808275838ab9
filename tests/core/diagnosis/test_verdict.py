"""What one hand check says by itself: worked examples, and the sums behind them."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from eager_ear.core.case import HandCheck
from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.diagnosis.evidence.hand_findings import hand_readings
from eager_ear.core.diagnosis.verdict import Judged, Verdict, judge
from eager_ear.core.errors import BadField, UnknownCode
from eager_ear.core.machine import LAYOUTS
from tests.support import ROOT


def only(judged: Judged) -> Verdict:
    [verdict] = judged.verdicts
    return verdict


def gaps(mean: float, *, runout: float = 0.0, oval: float = 0.0, count: int = 12) -> dict[str, Any]:
    angle = 2.0 * np.pi * np.arange(count) / count
    return {"gaps_mm": list(mean + runout * np.cos(angle - np.pi / 2) + oval * np.cos(2 * angle))}


def test_a_bent_axis_speaks_for_the_spider_and_says_what_bearings_would_do(knowledge: Knowledge) -> None:
    judged = judge("drum_gap_round", gaps(12.0, runout=5.0), layout="front_belt", knowledge=knowledge)
    verdict = only(judged)
    assert (verdict.level, [m.fault for m in verdict.speaks_for]) == ("badly bent", ["spider"])
    assert verdict.value == pytest.approx(5.0)
    assert judged.sums["widest_deg"] == pytest.approx(90.0)
    assert "Bearings would give play" in verdict.says
    assert verdict.calm < 0.005 < 0.4 < verdict.speaks_for[0].chance
    assert judged.then is None


def test_a_true_axis_clears_it_and_an_oval_rim_is_told_apart(knowledge: Knowledge) -> None:
    true = only(judge("drum_gap_round", gaps(12.0, runout=0.2), layout="front_belt", knowledge=knowledge))
    assert (true.level, [m.fault for m in true.clears], true.speaks_for) == ("true", ["spider"], ())
    oval = judge("drum_gap_round", gaps(12.0, oval=3.0), layout="front_belt", knowledge=knowledge)
    assert oval.sums["oval_mm"] == pytest.approx(3.0)
    assert oval.sums["oval_sigma_mm"] < 0.5
    assert "oval" in (oval.then or "")
    few = judge("drum_gap_round", gaps(12.0, count=4), layout="front_belt", knowledge=knowledge)
    assert "oval_mm" not in few.sums
    assert "five or more" in (few.then or "")


def test_only_faults_of_the_layout_are_named(knowledge: Knowledge) -> None:
    values = gaps(12.0, runout=5.0)
    top = only(judge("drum_gap_round", values, layout="top_pulsator", knowledge=knowledge))
    assert {m.fault for m in top.speaks_for} == {"spindle_seat"}
    unknown = only(judge("drum_gap_round", values, layout=None, knowledge=knowledge))
    assert {m.fault for m in unknown.speaks_for} == {"spider", "spindle_seat"}


@pytest.mark.parametrize(
    ("gap_mm", "then"),
    [([0, 0, 5.25, 0], "rear right foot out by 3.0 turns"), ([3.5, 0, 0, 0], "front left foot out by 2.0 turns")],
)
def test_which_foot_and_how_far(knowledge: Knowledge, gap_mm: list[float], then: str) -> None:
    judged = judge("rock", {"gap_mm": gap_mm}, layout="front_belt", knowledge=knowledge)
    assert then in (judged.then or "")
    assert judge("rock", {"gap_mm": [0, 0, 0.2, 0]}, layout="front_belt", knowledge=knowledge).then is None


@pytest.mark.parametrize(
    ("check", "values", "sums", "says"),
    [
        ("bounce", {"corner": "rear_left", "swings": 4}, {"swings": 4.0, "damping_ratio": 0.1184}, "other corners"),
        ("bounce", {"corner": "centre", "peaks_mm": [20, 10, 5]}, {"swings": 4.3219}, None),
        ("belt_pluck", {"hz": 60, "span_mm": 300, "kg_per_m": 0.05}, {"tension_n": 64.8}, None),
        ("hot_cutout", {"runs_min": 6, "rests_min": 18}, {"duty": 0.25}, "fabric"),
        ("hot_cutout", {"runs_min": 6}, {}, "Wait"),
        ("staged_fill", {"leaks_at": "middle", "dwell_min": [20, 4]}, {}, "spin-tube seal"),
        ("staged_fill", {"leaks_at": "none", "dwell_min": [20, 20, 20]}, {}, None),
    ],
)
def test_sums_and_what_to_do_next(
    knowledge: Knowledge, check: str, values: dict[str, Any], sums: dict[str, float], says: str | None
) -> None:
    judged = judge(check, values, layout=None, knowledge=knowledge)
    assert {name: round(judged.sums[name], 4) for name in sums} == sums
    assert (judged.then is None) if says is None else (says in (judged.then or ""))


def test_every_check_can_be_judged_with_a_part_of_its_values(knowledge: Knowledge) -> None:
    for check, spec in knowledge.checks.items():
        assert judge(check, {}, layout=None, knowledge=knowledge).verdicts == ()
        for value in spec.values:
            if value.kind == "flag":
                judge(check, {value.name: True}, layout=None, knowledge=knowledge)
            if value.kind == "number":
                judge(check, {value.name: max(value.low, 1.0)}, layout=None, knowledge=knowledge)


def test_what_cannot_be_is_refused(knowledge: Knowledge) -> None:
    with pytest.raises(BadField, match="outside"):
        judge("rock", {"gap_mm": [0, 0, 900, 0]}, layout=None, knowledge=knowledge)
    with pytest.raises(UnknownCode):
        judge("tap_it", {}, layout=None, knowledge=knowledge)


def test_each_thing_that_is_said_belongs_to_a_level(knowledge: Knowledge) -> None:
    said = [f for f in knowledge.findings.values() if f.says]
    assert len(said) >= 8
    assert all(len(f.says) == len(f.levels) for f in said)


def test_what_is_hardly_met_is_asked_about_and_kept(knowledge: Knowledge) -> None:
    slip = judge("drum_lift_play", {"play_mm": 34}, layout="front_belt", knowledge=knowledge)
    assert slip.asks == ("Play at the lip: 34 mm is hardly met; usual is 0 to 20. Is it so?",)
    assert slip.verdicts
    assert judge("drum_lift_play", {"play_mm": 3.4}, layout="front_belt", knowledge=knowledge).asks == ()
    several = judge("rock", {"gap_mm": [0, 22, 0, 31]}, layout="front_belt", knowledge=knowledge).asks
    assert "22 and 31 mm" in several[0]


def test_every_check_lights_a_place_that_the_drawing_has(knowledge: Knowledge) -> None:
    drawing = (ROOT / "frontend/src/marks/drawings/machine-drawing.tsx").read_text()
    front, top = drawing.split("const TOP")[0], drawing.split("const TOP")[1].split("const NAMES")[0]
    for check in knowledge.checks.values():
        for drum, shapes in (("front", front), ("top", top)):
            if any(LAYOUTS[code].drum == drum for code in check.layouts):
                assert f"  {check.places[drum]}: <" in shapes, (check.code, drum)


def test_play_is_held_against_the_limits_of_the_layout(knowledge: Knowledge) -> None:
    """Seven tenths lie between the borders of the two: some play at a front loader's lip, none at a tall basket's."""
    for check, values, lower, higher in (
        ("drum_lift_play", {"play_mm": 0.7}, "front_belt", "top_pulsator"),
        ("axial_play", {"play_mm": 0.7}, "front_direct", "top_splined"),
    ):
        front, top = (only(judge(check, values, layout=on, knowledge=knowledge)) for on in (lower, higher))
        finding = knowledge.findings[front.finding]
        assert (front.level, top.level) == ("some", "none"), check
        assert (front.limits, top.limits) == (finding.limits, finding.limits_on[higher])
        unknown = only(judge(check, values, layout=None, knowledge=knowledge))
        assert unknown.limits == finding.limits


def test_limits_of_a_layout_move_the_call_and_not_the_finding(knowledge: Knowledge) -> None:
    checks = (HandCheck(check="axial_play", values={"play_mm": 0.7}),)
    [front], [top] = (
        hand_readings(checks, findings=knowledge.findings, layout=layout) for layout in ("front_belt", "top_coupler")
    )
    assert front.finding is top.finding is knowledge.findings["axial_play_seen"]
    assert front.level_likelihood[1] > top.level_likelihood[1]
