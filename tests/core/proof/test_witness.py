"""Painted marks: when they are looked at again, and when that is over or stopped."""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta

import pytest

from eager_ear.core.proof import Look, witness
from eager_ear.core.repair import WitnessPlan

PLAN = WitnessPlan(after_loads=(1, 5, 20), then_days=30, then_times=2, reason="told for the test")
PAINTED = datetime(2026, 3, 4, 9, 0, tzinfo=UTC)


def looks(*loads: int, moved: bool = False, play: tuple[float, ...] = ()) -> list[Look]:
    return [
        Look(
            at=PAINTED + timedelta(days=k),
            loads=n,
            moved=moved and k == len(loads) - 1,
            play_mm=play[k] if k < len(play) else None,
        )
        for k, n in enumerate(loads)
    ]


@pytest.mark.parametrize(
    ("loads", "next_at"), [((0,), 1), ((0, 1), 5), ((0, 3), 5), ((0, 1, 4), 20), ((0, 6), 20), ((0, 1, 4, 10), 20)]
)
def test_the_next_look_comes_after_so_many_loads_in_all(loads: tuple[int, ...], next_at: int) -> None:
    state = witness(looks(*loads), PLAN)
    assert (state.next_at_loads, state.next_on, state.loads) == (next_at, None, sum(loads))
    assert f"{next_at - sum(loads)} more heavy" in state.says
    assert not state.done
    assert not state.stop


def test_after_the_loads_come_the_months_and_then_it_is_over() -> None:
    heavy = looks(0, 1, 4, 15)
    state = witness(heavy, PLAN)
    assert (state.next_at_loads, state.next_on) == (None, date(2026, 4, 6))
    once = [*heavy, *looks(3)]
    assert not witness(once, PLAN).done
    done = witness([*once, *looks(2)], PLAN)
    assert done.done
    assert done.next_on is None
    assert done.loads == 25


def test_nothing_painted_asks_for_the_line() -> None:
    state = witness([], PLAN)
    assert "Paint a line" in state.says
    assert state.next_at_loads is None
    assert not state.done


def test_a_mark_that_moved_stops_it_whatever_follows() -> None:
    state = witness([*looks(0, 1, moved=True), *looks(4)], PLAN)
    assert state.stop
    assert not state.done
    assert state.next_at_loads is None
    assert "unplug" in state.says


def test_play_that_grew_by_more_than_is_felt_stops_it_too() -> None:
    assert not witness(looks(0, 1, play=(0.2, 0.4)), PLAN).stop
    grown = witness(looks(0, 1, play=(0.2, 0.8)), PLAN)
    assert grown.stop
    assert "side play" in grown.says
