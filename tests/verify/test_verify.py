"""The harness that measures the measurements: draws repeat, scores notice errors, the page says met or missed."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from eager_ear.core.analysis import analyse
from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.signals.types import AudioSignal
from eager_ear.verify import CaseScore, Scores, bearing_draw, mixed_draw, score_case, stage_draw, write_report
from eager_ear.verify.other_physics import OTHER_PHYSICS
from eager_ear.verify.report import bearing_figures, quantity_figures, speed_figures, stage_figures

EXACT = CaseScore(
    seed=1,
    group="none",
    layout="front_belt",
    sensors="acceleration+audio",
    speed_errors=(0.0005,) * 50,
    speed_known_share=0.9,
    false_rotation=False,
    errors={"critical": 0.01, "damping": -0.1, "slip_pp": 0.1, "coast": 0.01, "impacts": 0.0, "lag_s": 0.02},
    warned={"speech": (True, True), "gaps": (False, False)},
    first_named="none",
)


def test_a_seed_is_one_machine_for_good_and_all_kinds_come_up() -> None:
    first, again = mixed_draw(3), mixed_draw(3)
    a, b = first.case.case.recordings[0].signal, again.case.case.recordings[0].signal
    assert type(a) is type(b)
    if isinstance(a, AudioSignal) and isinstance(b, AudioSignal):
        np.testing.assert_array_equal(a.samples, b.samples)
    assert first.group == again.group
    assert mixed_draw(4).case.washer != first.case.washer


def test_bearing_draws_are_ten_decibels_below_the_drums_noise() -> None:
    damaged = bearing_draw(5, stage="growl").case.washer
    assert damaged.damage is not None
    assert 20 * np.log10(damaged.damage.level / damaged.air_level) == pytest.approx(-10.0)
    assert damaged.damage.stage == "growl"
    assert bearing_draw(5, stage=None).case.washer.damage is None


def test_a_score_lays_measurement_beside_truth(knowledge: Knowledge) -> None:
    draw = bearing_draw(1, stage="growl")
    score = score_case(draw, knowledge=knowledge)
    assert score.speed_known_share is not None
    assert score.speed_known_share > 0.5
    assert score.speed_median is not None
    assert score.speed_median < 0.01
    assert score.line_found
    assert score.race_named == score.race_true
    assert not score.speed_lost
    assert not score.speed_wrong
    # The same case with a truth that turns a tenth faster must be scored as wrong.
    lied = replace(draw, case=replace(draw.case, drum_rpm=draw.case.drum_rpm * np.array([1.0, 1.1])))
    assert score_case(lied, knowledge=knowledge).speed_wrong


def test_standing_drums_and_lost_tracks_count_against_it() -> None:
    wrong = replace(EXACT, false_rotation=True)
    lost = replace(EXACT, speed_errors=(), speed_known_share=0.1)
    off = replace(EXACT, speed_errors=(0.08,) * 50)
    good = speed_figures([EXACT] * 100)
    assert [f.met for f in good] == [True, True, True, True]
    share = {name: speed_figures([EXACT] * 97 + bad)[2] for name, bad in (("wrong", [wrong, off]), ("lost", [lost]))}
    assert share["wrong"].value.startswith("4.0 %")
    assert not share["wrong"].met
    assert share["lost"].met


def test_the_page_says_met_and_missed() -> None:
    bad = replace(EXACT, errors={**EXACT.errors, "critical": 0.3, "impacts": 1.0})
    names = {f.name: f.met for f in quantity_figures([EXACT, bad, bad])}
    assert names["Critical speed, median error"] is False
    assert names["Damping ratio, median error"] is True
    assert names["Impacts per revolution right"] is False
    found = replace(EXACT, race_true="inner", race_named="inner", line_found=True)
    missed = replace(found, line_found=False, race_named=None)
    figures = bearing_figures(
        [EXACT] * 10, {"growl": [found] * 19 + [missed], "whine": [missed] * 3, None: [EXACT] * 5}
    )
    assert [f.met for f in figures] == [True, False, True, True]
    ours = Scores(mixed=[EXACT, bad], bearing={"growl": [found], None: [EXACT]}, stages=[])
    other = Scores(mixed=[EXACT], bearing={}, stages=[])
    page = write_report(ours, other, development="1 to 9", reported="10 to 11")
    critical = next(line for line in page.splitlines() if line.startswith("| Critical speed, median"))
    assert critical.split("|")[3:7] == [" 15.5 % (2) ", " **missed** ", " 1 % (1) ", " met "]
    assert "**missed**" in page
    assert "10 to 11" in page
    assert "| speech | 2 of 2 | 0 of 0 |" in page


def test_the_page_says_how_often_a_call_that_was_so_sure_was_right() -> None:
    sure = replace(EXACT, first_probability=0.9)
    wrong = replace(sure, group="belt+spider", first_named="motor")
    one_of_two = replace(wrong, first_named="spider", first_probability=0.5)
    ours = Scores(mixed=[sure, sure, wrong, one_of_two], bearing={}, stages=[])
    page = write_report(ours, ours, development="1 to 9", reported="10 to 13")
    assert "| 90 to 100 % | 90 % | 2 of 3 (67 %) |" in page
    assert "| 40 to 60 % | 50 % | 1 of 1 (100 %) |" in page
    assert "| 0 to 20 %" not in page


def test_hits_on_the_stops_are_scored_where_they_could_be_counted(knowledge: Knowledge) -> None:
    score = score_case(mixed_draw(170206), knowledge=knowledge)
    assert score.warned["stop_hits"] == (True, True)
    assert 0.0 < score.first_probability < 1.0
    deaf = score_case(mixed_draw(3), knowledge=knowledge)
    assert deaf.sensors == "audio"
    assert "stop_hits" not in deaf.warned


def test_an_analysis_knows_nothing_of_the_truth(knowledge: Knowledge) -> None:
    case = bearing_draw(2, stage="whine").case.case
    calls = [analyse(replace(case, id=name), knowledge=knowledge).call for name in ("drum_bearing", "none")]
    first, second = ([(s.fault, s.probability) for s in call.suspects] for call in calls)
    assert first == second


def test_stages_are_drawn_alike_and_counted() -> None:
    drawn = [stage_draw(seed).group for seed in range(3)]
    assert set(drawn) == {"whine", "growl", "collapsed"}
    right = replace(EXACT, stage_true="growl", stage_named="growl")
    [figure] = stage_figures([right, right, right, replace(right, stage_named="whine"), EXACT])
    assert figure.value == "75 % of 4"
    assert figure.met


def test_the_other_physics_is_another_machine_with_a_truth_of_its_own() -> None:
    ours, other = mixed_draw(700_025), mixed_draw(700_025, physics=OTHER_PHYSICS)
    assert ours.group == other.group
    assert ours.case.shaking.natural_hz == ours.case.washer.suspension.radial_hz
    slow, fast = other.case.shaking.natural_hz
    assert 1.0 < slow < fast < 6.0
    assert slow not in ours.case.shaking.natural_hz
    assert other.case.truth()["critical_rpm"] == [60.0 * slow, 60.0 * fast]
