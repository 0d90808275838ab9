"""The library of faults: signs are what the tables say, look-alikes those of the trade, and cheap checks come first."""

from __future__ import annotations

import pytest

from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.diagnosis.library import LEAST_RATIO, fault_page, separators
from eager_ear.core.errors import UnknownCode
from eager_ear.core.machine import LAYOUT_CODES


def test_every_fault_of_every_layout_has_its_page(knowledge: Knowledge) -> None:
    for layout in LAYOUT_CODES:
        for fault in knowledge.faults_of(layout):
            page = fault_page(fault.code, layout=layout, knowledge=knowledge)
            if fault.code != "none":
                assert page.signs or page.told, (layout, fault.code)
            for sign in page.signs:
                assert sign.chance > LEAST_RATIO * sign.calm
                assert sign.check is None or layout in knowledge.checks[sign.check].layouts


@pytest.mark.parametrize(
    ("fault", "layout", "taken_for", "settles"),
    [
        ("spider", "front_belt", "drum_bearing", {"run_out", "race_lines", "lip_play", "turn_feel"}),
        ("not_level", "top_pulsator", "suspension_worn", {"rock_gap", "bounce_swings"}),
        ("drum_bearing", "front_belt", "spider", {"run_out", "race_lines", "lip_play", "turn_feel"}),
        ("clutch", "top_coupler", "drive_block", {"clutch_state", "drive_block_state"}),
    ],
)
def test_what_the_trade_confuses_is_told_apart(
    knowledge: Knowledge, fault: str, layout: str, taken_for: str, settles: set[str]
) -> None:
    page = fault_page(fault, layout=layout, knowledge=knowledge)
    alike = {a.fault: {s.finding for s in a.separators} for a in page.look_alikes}
    assert taken_for in alike
    assert alike[taken_for] & settles


def test_telling_apart_is_the_same_from_both_sides_and_spares_the_tub(knowledge: Knowledge) -> None:
    one = separators("spider", "drum_bearing", layout="front_belt", knowledge=knowledge)
    other = separators("drum_bearing", "spider", layout="front_belt", knowledge=knowledge)
    assert [(s.finding, s.one, s.other) for s in one] == [(s.finding, s.other, s.one) for s in other]
    # Three minutes with a gauge, or listening, before the tub is taken out for a look.
    assert one[0].finding != "spider_state"
    with pytest.raises(UnknownCode):
        separators("spider", "clutch", layout="front_belt", knowledge=knowledge)
