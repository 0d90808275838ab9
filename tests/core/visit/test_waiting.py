"""What a visit waits for, and the words by which it is found."""

from __future__ import annotations

from datetime import date
from typing import Any

import pytest

from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.visit import Visit, fold_visit, part_due, waits_for, words_of
from tests.core.visit.test_fold import entry

OFFER = {"path": ["coupler_new"], "total": 9000, "currency": "EUR"}
STEP = {"step": "top_coupler/pump_off", "state": "done"}
OFFERED, AGREED = ("offered", {"options": [OFFER]}), ("decided", {"option": 0, "answer": "yes"})
OFF, ON = ("step", {**STEP, "way": "off"}), ("step", {**STEP, "way": "on"})
CLOSED, DUE = ("closed", {"outcome": "declined"}), ("follow_up", {"due": "2027-01-02", "what": "Call"})
BRIDGED = ("bridged", {"where": "lid lock"})


def visit(knowledge: Knowledge, *said: tuple[str, dict[str, Any]]) -> Visit:
    return fold_visit([entry(k, kind, body) for k, (kind, body) in enumerate(said)], knowledge=knowledge)


@pytest.mark.parametrize(
    ("said", "advice", "waits"),
    [
        ([], None, "evidence"),
        ([], "check_more", "evidence"),
        ([], "record_again", "evidence"),
        ([], "commit", "decision"),
        ([], "no_teardown", "decision"),
        ([OFFERED], "commit", "customer"),
        ([OFFERED, ("decided", {"option": 0, "answer": "wait"})], "commit", "customer"),
        ([OFFERED, ("decided", {"option": 0, "answer": "no"})], "commit", "decision"),
        ([OFFERED, AGREED], "commit", "bench"),
        ([OFF], "check_more", "bench"),
        ([OFFERED, AGREED, OFF, ON], "commit", "proof"),
        ([OFFERED, AGREED, ("proved", {"test": "p_load", "passed": True})], "commit", "proof"),
        ([OFF, ON, ("proved", {"test": "p_load", "passed": False})], "commit", "evidence"),
        ([CLOSED, DUE], "commit", "follow_up"),
        ([CLOSED], "check_more", "nothing"),
        ([CLOSED, DUE, BRIDGED], "commit", "restoring"),
    ],
)
def test_one_thing_comes_next(
    knowledge: Knowledge, said: list[tuple[str, dict[str, Any]]], advice: str | None, waits: str
) -> None:
    assert waits_for(visit(knowledge, *said), advice=advice) == waits


def test_the_last_part_tells_the_day_until_the_machine_is_open(knowledge: Knowledge) -> None:
    def priced(part: str, day: str | None) -> tuple[str, dict[str, Any]]:
        more = {"available_on": day} if day else {}
        return "priced", {"part": part, "amount": 1, "currency": "EUR", **more}

    parts = [priced("coupler", "2026-12-03"), priced("motor", "2026-12-09"), priced("belt", None)]
    assert part_due(visit(knowledge, *parts)) == date(2026, 12, 9)
    assert part_due(visit(knowledge, *parts, OFF)) is None
    assert part_due(visit(knowledge)) is None


def test_words_are_those_that_people_say(knowledge: Knowledge) -> None:
    found = words_of(
        visit(
            knowledge,
            ("machine", {"layout": "top_coupler", "place": "Osier-bed 4, cellar"}),
            ("contact", {"name": "Arne Sluys"}),
            ("told", {"symptom": "shakes", "present": True}),
            ("told", {"symptom": "walks", "present": False}),
            ("note", {"text": "Key at the weir (left)."}),
            OFFERED,
            AGREED,
        ),
        headline="Motor coupler broken, 99 %.",
        knowledge=knowledge,
    )
    for word in ("Osier", "bed", "cellar", "Sluys", "weir", "left", "Motor", "coupler", "agitator"):
        assert f" {word}" in found, word
    assert knowledge.symptoms["walks"].name not in found
    assert not set(found) & set("(),.%-")
    assert len(words_of(visit(knowledge, ("note", {"text": "word " * 1900})), headline="", knowledge=knowledge)) <= 8000
