"""Machines, bearings, errors and units."""

from __future__ import annotations

import pickle

import pytest
from hypothesis import given
from hypothesis import strategies as st

from eager_ear.casefile import FileTooLarge, UnreadableFile
from eager_ear.core.case import RecordingFacts
from eager_ear.core.errors import BadField, CoreError, InputError, NotMeasurable, UnknownCode
from eager_ear.core.machine import (
    BEARINGS,
    LAYOUT_CODES,
    LAYOUTS,
    Machine,
    find_bearing,
    race_orders,
    rule_of_thumb_bearings,
)
from eager_ear.core.signals.run import bearings_to_search
from eager_ear.core.units import hz_to_rpm, odds_to_decibans, rpm_to_hz
from eager_ear.store import NotFound


@pytest.mark.parametrize("size", BEARINGS, ids=lambda s: s.designation)
def test_orders_obey_the_kinematics_of_rolling(size) -> None:  # type: ignore[no-untyped-def]
    orders = race_orders(size)
    assert orders.outer_race + orders.inner_race == pytest.approx(size.ball_count)
    assert orders.outer_race == pytest.approx(size.ball_count * orders.cage)
    assert 0.3 < orders.cage < 0.45
    assert orders.outer_race / size.ball_count == pytest.approx(0.4, abs=0.04)


def test_the_contact_angle_brings_the_races_together() -> None:
    flat, tilted = (race_orders(BEARINGS[0], contact_angle_deg=a) for a in (0.0, 40.0))
    assert flat.outer_race < tilted.outer_race < tilted.inner_race < flat.inner_race


@pytest.mark.parametrize("text", ["6205", " 6205-2RS", "6205ZZ", "6205 C3", "6205/C3", "6205-2rs c3"])
def test_suffixes_do_not_matter(text: str) -> None:
    assert find_bearing(text).designation == "6205"


def test_unknown_sizes_are_refused_and_cost_a_search_when_not_given() -> None:
    with pytest.raises(UnknownCode) as caught:
        find_bearing("7205", field="machine.bearings.rear")
    assert caught.value.field == "machine.bearings.rear"
    both = Machine(layout="front_belt", front_bearing="6206", rear_bearing="6205")
    assert bearings_to_search(both) == (
        (("rear", find_bearing("6205")), ("front", find_bearing("6206"))),
        True,
    )
    unknown, named = bearings_to_search(Machine(layout="front_belt"))
    assert not named
    assert len(unknown) == len(BEARINGS) + len(rule_of_thumb_bearings())


def test_every_layout_has_its_entry() -> None:
    layouts = LAYOUTS
    assert set(layouts) == set(LAYOUT_CODES)
    for layout in layouts.values():
        assert layout.critical_rpm[0] < layout.critical_rpm[1] < layout.spin_rpm[1]
        assert (layout.pulley_ratio == (1.0, 1.0)) == (layout.drive == "direct")


@pytest.mark.parametrize(
    ("facts", "field"),
    [
        ({"max_spin_rpm": 9000.0}, "machine.max_spin_rpm"),
        ({"pulley_ratio": 0.0}, "machine.pulley_ratio"),
        ({"age_years": -1.0}, "machine.age_years"),
        ({"spider_arms": 1}, "machine.spider_arms"),
        ({"mains_hz": 55}, "machine.mains_hz"),
    ],
)
def test_impossible_plates_are_refused_by_field(facts: dict[str, float], field: str) -> None:
    with pytest.raises(BadField) as caught:
        Machine(layout="front_belt", **facts)  # type: ignore[arg-type]
    assert caught.value.field == field


def test_recordings_of_one_run_share_their_key() -> None:
    first = RecordingFacts(name="a", kind="audio", test="spin", run="2", load="empty")
    second = RecordingFacts(name="b", kind="acceleration", test="spin", run="2", load="full")
    assert first.run_key == second.run_key
    loose = [RecordingFacts(name="c", kind="audio", test="spin", load=load) for load in ("empty", "full", None)]
    assert len({f.run_key for f in loose}) == 3


@pytest.mark.parametrize(
    "error",
    [
        UnknownCode(field="f", value="v", known=("a", "b")),
        BadField(field="f", reason="bad."),
        NotMeasurable(quantity="q", reason="r"),
        UnreadableFile(file="a.wav", reason="is empty."),
        FileTooLarge(file="a.wav", reason="is too large."),
        NotFound(kind="job", key="3"),
    ],
)
def test_errors_survive_a_process_border(error: CoreError) -> None:
    again = pickle.loads(pickle.dumps(error))
    assert type(again) is type(error)
    assert again.facts() == error.facts()
    assert str(again) == error.sentence()
    assert again.code


def test_file_problems_are_bad_input() -> None:
    assert issubclass(UnreadableFile, InputError)


@given(st.floats(0.0, 5000.0))
def test_speed_units_are_each_others_inverse(speed_rpm: float) -> None:
    assert hz_to_rpm(rpm_to_hz(speed_rpm)) == pytest.approx(speed_rpm)


@given(st.floats(0.0, 1.0))
def test_decibans_stay_finite(probability: float) -> None:
    assert abs(odds_to_decibans(probability)) <= 60.0 + 1e-6
