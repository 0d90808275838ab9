"""One washer at four corners: the simulated runs belong together, and a lost support shows where it was."""

from __future__ import annotations

from eager_ear.core.analysis import analyse
from eager_ear.core.simulate import simulate_corners
from eager_ear.core.simulate.corners import CORNER_POSITIONS
from eager_ear.knowledge import load_knowledge


def test_every_corner_is_a_run_of_its_own_with_one_sound() -> None:
    case = simulate_corners(layout="front_belt", faults=["none"], seed=4)
    shaken = [r.facts for r in case.recordings if r.facts.kind == "acceleration"]
    assert [f.position for f in shaken] == list(CORNER_POSITIONS)
    assert len({f.run for f in shaken}) == 4
    assert sum(r.facts.kind == "audio" for r in case.recordings) == 1
    assert len({r.facts.name for r in case.recordings}) == len(case.recordings)


def test_a_lost_support_sets_its_corner_apart_and_four_sound_ones_do_not() -> None:
    knowledge = load_knowledge()
    ahead: dict[str, float] = {}
    for fault in ("suspension_off", "none"):
        case = simulate_corners(layout="top_pulsator", faults=[fault], seed=2)
        analysis = analyse(case, knowledge=knowledge)
        assert analysis.corners is not None
        assert len(analysis.corners.corners) == 4
        ahead[fault] = analysis.corners.ahead_db
    assert ahead["suspension_off"] > ahead["none"] + 1.0
