"""Diaries folded: any order of arrival, corrections, withdrawals, disagreements, and what each station says."""

from __future__ import annotations

import random
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.errors import BadField, UnknownCode
from eager_ear.core.visit import (
    STATIONS,
    Entry,
    NotNow,
    Visit,
    fold_machine,
    fold_visit,
    in_force,
    kinds_of,
    read_draft,
    require_admissible,
)
from tests.diaries import check, machine, new_id
from tests.diaries import entry as written

NOON = datetime(2026, 3, 4, 12, 0, 0, tzinfo=UTC)


def entry(minute: float, kind: str, body: Any, **more: Any) -> Entry:
    return Entry(
        id=more.pop("id", None) or new_id(),
        kind=kind,
        made_at=NOON + timedelta(minutes=minute),
        received_at=more.pop("received_at", NOON),
        seq=1,
        body=body,
        device=more.pop("device", "phone"),
        **more,
    )


def rock(minute: float, gap: float, **more: Any) -> Entry:
    return entry(minute, "check", {"check": "rock", "values": {"gap_mm": [gap, 0, 0, 0]}}, **more)


def gaps(visit: Visit) -> list[float]:
    return [c.values["gap_mm"][0] for c in visit.hands.checks]


def a_whole_diary() -> list[Entry]:
    """Something of everything, with corrections, withdrawals and two devices."""
    first = rock(1, 5)
    bridged = entry(3, "bridged", {"where": "lid lock"})
    timer = entry(4, "timer", {"for": "dwell", "minutes": 20, "about": "staged_fill"})
    sound = new_id()
    return [
        entry(0, "machine", {"layout": "front_belt", "place": "Weir house", "bearings": {"front": "6206"}}),
        entry(0.1, "machine", {"bearings": {"rear": "6205"}, "age_years": 7}, device="tablet"),
        entry(0.2, "told", {"symptom": "shakes", "present": True, "phase": "ramp"}),
        entry(0.3, "told", {"symptom": "walks", "present": True}),
        entry(0.4, "told", {"symptom": "walks", "present": False}),
        entry(0.5, "code_shown", {"text": "E 42", "means": "suds_code"}),
        first,
        rock(2, 1, replaces=first.id),
        rock(2.5, 2, device="tablet"),
        bridged,
        entry(3.5, "restored", {"restored": bridged.id}),
        timer,
        entry(5, "timer_end", {"timer": timer.id, "how": "rang"}),
        entry(6, "recording", {"recording": sound, "kind": "audio", "file": "a.wav", "test": "spin"}),
        entry(7, "recording_removed", {"recording": sound}),
        entry(8, "set_aside", {"finding": "rock_gap", "why": "uneven tiles"}),
        entry(9, "called", {"faults": ["spider"], "advice": "commit"}),
        entry(10, "priced", {"part": "spider_kit", "amount": 12345, "currency": "EUR"}),
        entry(11, "counted", {"step": "front_belt:belt_off", "group": "rear_panel", "out": 6}),
        entry(12, "counted", {"step": "front_belt:belt_off", "group": "rear_panel", "in": 5}),
        entry(13, "found", {"faults": ["spider"], "sure": True}),
        entry(14, "made_safe", {"unplugged": True, "taps_shut": True}),
        entry(15, "power_back", {"why": "spin"}),
        entry(16, "closed", {"outcome": "mended"}),
    ]


def test_each_station_says_what_was_entered(knowledge: Knowledge) -> None:
    visit = fold_visit(a_whole_diary(), knowledge=knowledge)
    assert visit.story.place == "Weir house"
    assert visit.story.facts == {"layout": "front_belt", "bearings": {"front": "6206", "rear": "6205"}, "age_years": 7}
    assert visit.story.symptoms == ("shakes", "suds_code")
    assert [(t.symptom, t.present) for t in visit.story.told] == [("shakes", True), ("walks", False)]
    assert gaps(visit) == [2]
    assert [b["gap_mm"][0] for b in visit.hands.checks[0].before] == [1]
    assert visit.spin.recordings == ()
    assert visit.any_time.bridged == ()
    assert visit.any_time.timers == ()
    assert [s.finding for s in visit.call.set_aside] == ["rock_gap"]
    assert visit.call.called is not None
    assert visit.call.called.faults == ("spider",)
    assert visit.cost.priced[0]["amount"] == 12345
    [counted] = visit.strip.counted
    assert (counted.out, counted.into) == (6, 5)
    assert visit.proof.found == {"faults": ["spider"], "sure": True}
    # The power is back: unplugged no longer, the taps are still shut.
    assert visit.any_time.safe == ("taps_shut",)
    assert visit.any_time.closed == "mended"
    case = visit.case("weir")
    assert case is not None
    assert case.machine.rear_bearing == "6205"


@settings(max_examples=30, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(order=st.randoms(use_true_random=False), lost=st.integers(0, 5))
def test_any_order_of_arrival_gives_the_same_fold(knowledge: Knowledge, order: random.Random, lost: int) -> None:
    diary = a_whole_diary()[lost:]
    expected = fold_visit(diary, knowledge=knowledge)
    order.shuffle(diary)
    assert fold_visit(diary, knowledge=knowledge) == expected


def test_what_was_made_without_a_signal_falls_where_it_belongs(knowledge: Knowledge) -> None:
    late = rock(1, 5, received_at=NOON + timedelta(hours=3))
    assert gaps(fold_visit([rock(2, 1), late], knowledge=knowledge)) == [1]
    # Unless the clock that says so cannot be believed.
    off = rock(1, 5, received_at=NOON + timedelta(hours=3), clock_off=True)
    assert gaps(fold_visit([rock(2, 1), off], knowledge=knowledge)) == [5]


def test_a_chain_of_corrections_is_walked_back_one_by_one(knowledge: Knowledge) -> None:
    chain = [rock(0, 0)]
    for k in range(1, 2000):
        chain.append(rock(k / 100, k % 7, replaces=chain[-1].id))
    assert [e.id for e in in_force(chain)] == [chain[-1].id]
    back = entry(30, "check", None, replaces=chain[-1].id)
    assert [e.id for e in in_force([*chain, back])] == [chain[-2].id]
    again = entry(31, "check", None, replaces=back.id)
    assert [e.id for e in in_force([*chain, back, again])] == [chain[-1].id]


def test_a_ring_of_corrections_is_survived() -> None:
    one, other = new_id(), new_id()
    ring = [rock(1, 1, id=one, replaces=other), rock(2, 2, id=other, replaces=one)]
    assert in_force([*ring, rock(3, 3)])[-1].body == rock(3, 3).body
    nulls = [entry(1, "check", None, id=one, replaces=other), entry(2, "check", None, id=other, replaces=one)]
    assert in_force(nulls) == []


def test_devices_disagree_only_when_both_mean_the_same_at_the_same_time(knowledge: Knowledge) -> None:
    def said(*entries: Entry) -> int:
        return len(fold_visit(entries, knowledge=knowledge).disagreements)

    assert said(rock(0, 1), rock(9, 2, device="tablet")) == 1
    assert said(rock(0, 1), rock(11, 2, device="tablet")) == 0
    assert said(rock(0, 1), rock(9, 1, device="tablet")) == 0
    assert said(rock(0, 1), rock(9, 2)) == 0
    first = rock(0, 1)
    assert said(first, rock(9, 2, device="tablet", replaces=first.id)) == 0
    facts = [entry(0, "machine", {"age_years": 5}), entry(1, "machine", {"age_years": 9}, device="tablet")]
    assert said(*facts) == 1
    assert said(facts[0], entry(1, "machine", {"mains_hz": 50}, device="tablet")) == 0


def test_a_later_visit_knows_what_earlier_ones_learnt(knowledge: Knowledge) -> None:
    earlier = [entry(0, "machine", {"layout": "top_splined", "place": "Ferry", "bearings": {"front": "6206"}})]
    known = fold_machine(earlier, knowledge=knowledge)
    today = fold_visit([entry(90, "machine", {"bearings": {"rear": "6205"}})], knowledge=knowledge, known=known)
    assert today.story.facts["bearings"] == {"front": "6206", "rear": "6205"}
    assert (today.story.place, today.story.learnt_here) == ("Ferry", ("bearings.rear",))
    taken = fold_visit([entry(90, "machine", {"layout": None})], knowledge=knowledge, known=known)
    assert taken.story.machine is None


def test_every_kind_belongs_to_a_station(knowledge: Knowledge) -> None:
    assert {kind.station for kind in kinds_of(knowledge).values()} == {*STATIONS, "any"}


@pytest.mark.parametrize(
    ("kind", "body", "field"),
    [
        ("counted", {"step": "a", "group": "b"}, "body.out"),
        ("counted", {"step": "a", "group": "b", "out": 1, "in": 1}, "body.out"),
        ("counted", {"step": "a", "group": "b", "out": 1.5}, "body.out"),
        ("made_safe", {"unplugged": False}, "body.unplugged"),
        ("priced", {"amount": 1.25, "currency": "EUR"}, "body.amount"),
        ("follow_up", {"due": "soon", "what": "call"}, "body.due"),
        ("follow_up", {"due": "2026-03-04T10:00:00", "what": "call"}, "body.due"),
        ("machine", {"mains_hz": 55}, "machine.mains_hz"),
        ("machine", {"bearings": {"rear": "9999"}}, "machine.bearings.rear"),
        ("machine", {"place": "   "}, "body.place"),
        ("note", {"text": "x" * 10_001}, "body.text"),
        ("note", {"text": 5}, "body.text"),
        ("recording", {"recording": "x", "kind": "audio", "file": "a", "test": "spin"}, "body.recording"),
        ("photo", {"photo": "0" * 32}, "body.photo"),
        ("told", [], "body"),
        ("proved", {"test": "p_hand", "passed": True, "values": {"a": float("nan")}}, "body.values.a"),
        ("priced", {"amount": 10**400, "currency": "EUR"}, "body.amount"),
    ],
)
def test_a_body_that_does_not_fit_names_its_field(knowledge: Knowledge, kind: str, body: Any, field: str) -> None:
    with pytest.raises((BadField, UnknownCode)) as caught:
        read_draft(written(kind, body), knowledge=knowledge)
    assert caught.value.field == field or caught.value.field == f"body.{field}"


def test_what_an_entry_refers_to_has_to_be_there(knowledge: Knowledge) -> None:
    visit = fold_visit([], knowledge=knowledge)
    kept = entry(0, "check", {"check": "rock", "values": {"gap_mm": [0, 0, 0, 0]}})
    replacing = read_draft({**check("rock", gap_mm=[1, 0, 0, 0]), "replaces": kept.id}, knowledge=knowledge)
    require_admissible(replacing, visit=lambda: visit, by_id={kept.id: kept})
    with pytest.raises(NotNow, match="no such entry"):
        require_admissible(replacing, visit=lambda: visit, by_id={})
    other = read_draft({**machine(), "replaces": kept.id}, knowledge=knowledge)
    with pytest.raises(NotNow, match="kind “check”"):
        require_admissible(other, visit=lambda: visit, by_id={kept.id: kept})
