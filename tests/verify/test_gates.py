"""What a gate is worth: the sum by hand, the same draw with and without, and the page."""

from __future__ import annotations

from dataclasses import replace

from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.signals.gates import GATES
from eager_ear.verify import mixed_draw, write_gates
from eager_ear.verify.gates import GateScore, gate_worths, score_gates, worth
from eager_ear.verify.score import CaseScore

BLANK = CaseScore(
    seed=1,
    group="none",
    layout="front_belt",
    sensors="audio",
    speed_errors=(),
    speed_known_share=None,
    false_rotation=False,
)


def test_known_right_counts_and_known_wrong_counts_against() -> None:
    assert worth(BLANK) == 0.0
    assert worth(replace(BLANK, false_rotation=True)) == -1.0
    half_right = replace(BLANK, speed_known_share=0.8, speed_errors=(0.0, 0.01, -0.01, 0.2))
    assert worth(half_right) == 0.8 * (0.75 - 0.25)
    assert worth(replace(half_right, errors={"impacts": 0.0})) == 0.8 * 0.5 + 1.0
    assert worth(replace(half_right, errors={"impacts": -1.0})) == 0.8 * 0.5 - 1.0


def test_gates_are_ranked_by_what_they_gain() -> None:
    one, other = sorted(GATES)[:2]
    scores = [
        GateScore(seed=1, gained={one: 0.5, other: -0.3}),
        GateScore(seed=2, gained={one: 0.0}),
        GateScore(seed=3, gained={}),
        GateScore(seed=4, gained={one: -0.1}),
    ]
    worths = gate_worths(scores)
    first, last = worths[0], worths[-1]
    assert (first.name, first.shut, first.helped, first.hurt, round(first.gained, 9)) == (one, 3, 1, 1, 10.0)
    assert (last.name, last.shut, last.helped, last.hurt, last.gained) == (other, 1, 0, 1, -7.5)
    page = write_gates(scores, scores[:1], first_seed=1)
    assert f"| {one} | {GATES[one]} | 3 | 1 | 1 | +10.0 | 1 | 1 | 0 | +50.0 |" in page


def test_a_draw_is_measured_once_more_without_each_gate_that_shut(knowledge: Knowledge) -> None:
    found = score_gates(mixed_draw(1), knowledge=knowledge)
    assert set(found.gained) <= set(GATES)
    assert found.gained
    assert all(-2.0 <= gained <= 2.0 for gained in found.gained.values())
