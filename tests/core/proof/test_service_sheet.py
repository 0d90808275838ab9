"""The beat that leads into a service mode, within what its sheet allows."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import pytest

from eager_ear.core.errors import BadField
from eager_ear.core.proof import ServiceSheet, Turn, beat, check_sheet

SHEET = ServiceSheet(
    layout="top_splined",
    name="Four lamps",
    photo="0190a000-0000-7000-8000-000000000001",
    enter=(Turn(act="left", count=3), Turn(act="right"), Turn(act="hold", seconds=2.0, key="start")),
    time_limit_s=6.0,
)


def test_acts_and_holds_take_four_fifths_of_the_limit() -> None:
    made = beat(SHEET)
    # 0.8 x 6 s less a hold of 2 s leaves 0.7 s for each of four acts.
    assert [p.at_s for p in made.prompts] == pytest.approx([0.0, 0.7, 1.4, 2.1, 2.8])
    assert [p.says for p in made.prompts] == ["left 1 of 3", "left 2 of 3", "left 3 of 3", "right", "hold start"]
    assert made.lasts_s == pytest.approx(4.8)
    for one, other in pairwise(made.prompts):
        assert other.at_s == pytest.approx(one.at_s + one.lasts_s)


@pytest.mark.parametrize("limit", [None, 60.0])
def test_with_time_to_spare_nobody_is_hurried(limit: float | None) -> None:
    assert beat(replace(SHEET, time_limit_s=limit)).lasts_s == pytest.approx(4 * 1.0 + 2.0)


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"time_limit_s": 3.0}, "time_limit_s"),
        ({"photo": ""}, "photo"),
        ({"enter": ()}, "enter"),
        ({"enter": (Turn(act="hold", seconds=0.0),)}, "enter.1.seconds"),
        ({"enter": (Turn(act="left"), Turn(act="press", count=0))}, "enter.2.count"),
        ({"layout": "top_anything"}, "layout"),
        ({"enter": (Turn(act="hold", seconds=30.0),), "time_limit_s": 20.0}, "time_limit_s"),
    ],
)
def test_slots_that_cannot_be_are_refused_at_their_field(change: dict[str, object], field: str) -> None:
    with pytest.raises(BadField) as refused:
        check_sheet(replace(SHEET, **change))  # type: ignore[arg-type]
    assert refused.value.field == field
