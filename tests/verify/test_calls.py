"""The harness that judges the call: draws repeat, hands and words follow the truth, figures count what they name."""

from __future__ import annotations

from collections import Counter

import numpy as np
import pytest

from eager_ear.core.analysis import analyse
from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.diagnosis.evidence.shown import Observation, Shown
from eager_ear.core.machine import LAYOUT_CODES, Machine, find_layout
from eager_ear.core.simulate import draw_washer, record_washer
from eager_ear.core.simulate.customer import story_of
from eager_ear.core.simulate.technician import ACTS, Truth, hands_on
from eager_ear.core.visit.hands import validate_values
from eager_ear.verify.calls import CallScore, Judged, Visit, can_be_heard, drawn_truth, score_visit, visit
from eager_ear.verify.calls_report import calibration_error, call_figures, write_calls_report
from eager_ear.verify.learn import counts_as_toml, heard_counts
from eager_ear.verify.matching import MATCHING
from eager_ear.verify.other_physics import OTHER_PHYSICS


def test_every_check_of_the_knowledge_can_be_made_and_is_valid(knowledge: Knowledge) -> None:
    rng = np.random.default_rng(3)
    assert set(ACTS) == set(knowledge.checks)
    for fault, checks in MATCHING.items():
        assert fault in knowledge.faults
        for layout in knowledge.faults[fault].layouts:
            truth = Truth(layout=layout, faults=(fault,), strength=0.8)
            for check in hands_on(truth, checks, rng=rng):
                assert validate_values(check.check, check.values, knowledge=knowledge) == check.values


def test_words_come_from_the_fault_and_are_known(knowledge: Knowledge) -> None:
    rng = np.random.default_rng(4)
    told = Counter[str]()
    for _ in range(300):
        truth = Truth(layout="front_belt", faults=("not_level",), strength=0.7)
        told.update(story_of(truth, knowledge=knowledge, rng=rng))
    assert set(told) <= set(knowledge.symptoms)
    assert told["walks"] == pytest.approx(180, abs=40)


def test_a_seed_is_one_visit_and_all_layouts_and_counts_come_up(knowledge: Knowledge) -> None:
    assert drawn_truth(11, knowledge=knowledge) == drawn_truth(11, knowledge=knowledge)
    drawn = [drawn_truth(seed, knowledge=knowledge) for seed in range(300)]
    assert {t.layout for t in drawn} == set(LAYOUT_CODES)
    assert {len(t.faults) for t in drawn} == {0, 1, 2}
    again = [visit(5, knowledge=knowledge, recorded=False) for _ in range(2)]
    assert again[0] == again[1]


def test_a_deciding_look_decides_on_visits_never_used_elsewhere(knowledge: Knowledge) -> None:
    scores = [
        score_visit(visit(s, knowledge=knowledge, recorded=False), knowledge=knowledge, ways=("decisive",))
        for s in range(710_000, 710_400)
    ]
    figures = {f.name: f for f in call_figures(scores, knowledge=knowledge)}
    share = float(figures["First right, deciding check alone"].value.split(" ")[0])
    # Three in a hundred looks are misread by whoever makes them.
    assert share > 93.0


def other(layout: str, fault: str, *, seed: int = 1) -> float:
    """How the cabinet shakes at full speed, by the other physics [m/s²]."""
    rng = np.random.default_rng(seed)
    faults = () if fault == "none" else (fault,)
    washer = draw_washer(find_layout(layout), faults=faults, strength=0.9, rng=rng)
    case = record_washer(washer, rng=rng, name="other", rough=False, with_audio=False, physics=OTHER_PHYSICS)
    fast = case.rotation.drum_hz > 0.95 * case.rotation.drum_hz.max()
    return float(np.std(case.shaking.cabinet_m_s2[:, fast]))


def test_the_other_physics_shakes_more_where_more_is_wrong() -> None:
    sound, arm, load = (
        np.median([other("front_belt", f, seed=s) for s in range(3)]) for f in ("none", "spider", "load_problem")
    )
    assert arm > 1.5 * sound
    assert load > 1.5 * sound


def test_the_other_physics_is_measured_like_any_machine(knowledge: Knowledge) -> None:
    rng = np.random.default_rng(12)
    washer = draw_washer(find_layout("front_belt"), faults=("drum_bearing",), strength=0.6, rng=rng)
    case = record_washer(washer, rng=rng, name="other", rough=False, physics=OTHER_PHYSICS)
    found = analyse(case.case, knowledge=knowledge)
    assert found.lead is not None
    assert found.lead.track is not None
    assert found.lead.track.max_rpm == pytest.approx(case.drum_rpm[:, 1].max(), rel=0.02)
    assert found.call.suspects[0].fault == "drum_bearing"


def judged(*named: str, chance: float = 0.9, advice: str = "commit", opened: str | None = None) -> Judged:
    return Judged(named=named, first_chance=chance, advice=advice, opened_for=opened)


def score(seed: int, *faults: str, **by: Judged) -> CallScore:
    return CallScore(seed=seed, physics="ours", layout="front_belt", faults=faults, by=by, minutes=(5.0, 10.0))


def test_figures_count_what_they_name(knowledge: Knowledge) -> None:
    right = judged("spider", "belt", "none", opened="spider")
    wrong = judged("belt", "none", "spider", opened="belt")
    pair = judged("belt", "none", "spider", advice="check_more")
    scores = [
        score(1, "spider", both=right, recordings=wrong, walked=right),
        score(2, "spider", both=wrong, recordings=right, walked=wrong),
        score(3, both=judged("none", "belt", advice="no_teardown"), walked=judged("none", advice="no_teardown")),
        score(4, "spider", "belt", both=pair, walked=pair),
    ]
    figures = {f.name: f.value for f in call_figures(scores, knowledge=knowledge)}
    assert figures["First right, recordings and matching checks"] == "66.7 % of 3"
    assert figures["First right, recordings alone, where it can be heard"] == "50.0 % of 2"
    assert figures["Truth in the first two"] == "66.7 % of 3"
    assert figures["Of two faults both in the first three"] == "100.0 % of 1"
    assert figures["Wrong teardown advised"] == "25.0 % of 4 (1)"
    assert figures["Clear ones that reach a decision"] == "100.0 % of 2"
    assert figures["Minutes of checks against a fixed list"].startswith("0.50")
    assert can_be_heard(("spider",))
    assert not can_be_heard(("drum_burr",))


def test_calls_that_are_right_as_often_as_they_say_have_no_calibration_error(knowledge: Knowledge) -> None:
    good = [score(k, "spider", recordings=judged("spider" if k % 4 else "belt", chance=0.75)) for k in range(8)]
    bad = [score(k, "spider", recordings=judged("belt", chance=0.75)) for k in range(8)]
    assert calibration_error(good, knowledge=knowledge) == pytest.approx(0.0)
    assert calibration_error(bad, knowledge=knowledge) == pytest.approx(0.75)


def test_the_page_tells_both_physics_and_what_was_met(knowledge: Knowledge) -> None:
    page = write_calls_report(
        [score(1, "spider", both=judged("spider")), score(2, both=judged("belt"))], seeds="1 to 2", knowledge=knowledge
    )
    assert "| other physics |" in page
    assert "| spider | 1 | spider 1 |" in page
    assert "missed" in page


def test_counts_are_of_single_faults_and_can_be_read_back(knowledge: Knowledge) -> None:
    def heard(*faults: str, value: float) -> Visit:
        run = Shown(
            test="spin", key="1", observations=(Observation(finding="damping", value=value, sigma=0.0, text=""),)
        )
        truth = Truth(layout="front_belt", faults=faults, strength=0.5)
        return Visit(
            seed=1, physics="ours", truth=truth, machine=Machine(layout="front_belt"), shown=(run,), hands=(), story=()
        )

    visits = [
        heard(value=0.3),
        heard("suspension_worn", value=0.01),
        heard("suspension_worn", "belt", value=0.01),
    ]
    counts = heard_counts(visits, knowledge=knowledge)
    assert set(counts.levels["damping"]) == {"none", "suspension_worn"}
    assert counts.levels["damping"]["suspension_worn"][2] > 0.99
    text = counts_as_toml(counts, count=2, seeds="1 to 3")
    assert "[levels.damping]" in text
    assert "suspension_worn = [0.00, 0.00, 1.00]" in text
