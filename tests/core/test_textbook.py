"""Measurements on machines of textbook formulas, over several draws at once: no single one of them is tuned to."""

from __future__ import annotations

import numpy as np
import pytest

from eager_ear.core.analysis import Analysis, analyse
from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.units import FloatArray
from tests.core.textbook import Textbook, outer_race_order, textbook_spin

SEEDS = range(900, 908)
pytestmark = pytest.mark.slow


def figures(analysis: Analysis) -> dict[str, float]:
    assert analysis.weighed.lead is not None
    return dict(analysis.weighed.lead.figures)


def speed_errors(made: Textbook, analysis: Analysis) -> FloatArray:
    """Relative errors of what is said of the speed, where the drum turns."""
    track = np.array(analysis.weighed.lead.figures["speed_track"]) if analysis.weighed.lead else np.zeros((0, 2))
    told = track[track[:, 1] > 0]
    true = 60.0 * np.interp(told[:, 0], made.t_s, made.rate_hz)
    return np.asarray(np.abs(told[:, 1] - true) / np.maximum(true, 30.0))


def test_worn_dampers_are_measured_and_the_speed_through_their_ringing_is_right(knowledge: Knowledge) -> None:
    damping, critical, wrong = [], [], []
    for seed in SEEDS:
        made = textbook_spin(seed, worn=True)
        analysis = analyse(made.case, knowledge=knowledge)
        wrong.append(speed_errors(made, analysis) > 0.05)
        found = figures(analysis)
        if "suspension_damping_ratio" in found:
            damping.append(found["suspension_damping_ratio"] / made.damping)
            critical.append(found["critical_rpm"] / made.critical_rpm)
    assert len(damping) >= 6
    assert np.exp(np.median(np.abs(np.log(damping)))) < 1.35
    assert np.median(np.abs(np.array(critical) - 1.0)) < 0.03
    assert np.concatenate(wrong).mean() < 0.03


def test_sound_dampers_are_not_taken_for_worn_ones(knowledge: Knowledge) -> None:
    ratios, wrong = [], []
    for seed in SEEDS:
        made = textbook_spin(seed)
        analysis = analyse(made.case, knowledge=knowledge)
        wrong.append(speed_errors(made, analysis) > 0.05)
        found = figures(analysis)
        if "suspension_damping_ratio" in found:
            ratios.append(found["suspension_damping_ratio"] / made.damping)
    assert len(ratios) >= 5
    assert 0.75 < np.median(ratios) < 1.25
    assert min(ratios) > 0.5
    assert np.concatenate(wrong).mean() < 0.03


@pytest.mark.parametrize(
    ("blows_a_turn", "ringing_hz", "fault"), [(1.0, 4000.0, "foreign_object"), (1.0, 100.0, "counterweight_loose")]
)
def test_what_strikes_once_a_turn_is_counted_and_named(
    blows_a_turn: float, ringing_hz: float, fault: str, knowledge: Knowledge
) -> None:
    counted, named = [], []
    for seed in SEEDS[:4]:
        made = textbook_spin(seed, blows_a_turn=blows_a_turn, ringing_hz=ringing_hz)
        analysis = analyse(made.case, knowledge=knowledge)
        counted.append(figures(analysis).get("impacts_per_rev"))
        named.append(analysis.call.suspects[0].fault)
    assert counted == [1.0] * 4
    assert named.count(fault) >= 3


def test_a_spall_of_the_outer_race_is_found(knowledge: Knowledge) -> None:
    named = []
    for seed in SEEDS[:4]:
        made = textbook_spin(seed, blows_a_turn=outer_race_order())
        named.append(analyse(made.case, knowledge=knowledge).call.suspects[0].fault)
    assert named.count("drum_bearing") >= 3
