"""What a visit waits for, from the machine that is not judged yet to the day when somebody comes back to it."""

from __future__ import annotations

import re
from collections.abc import Iterator
from datetime import date
from typing import Any, Literal, get_args

from eager_ear.core.diagnosis.knowledge import Knowledge
from eager_ear.core.machine import LAYOUTS
from eager_ear.core.visit.visit import Visit

WaitsFor = Literal["restoring", "evidence", "decision", "customer", "bench", "proof", "follow_up", "nothing"]
WAITS: tuple[str, ...] = get_args(WaitsFor)
ENDED: WaitsFor = "nothing"
# Advice that asks for more before anybody can decide.
UNSURE = ("check_more", "record_again")
MOST_WORDS = 8_000


def waits_for(visit: Visit, *, advice: str | None) -> WaitsFor:
    """What has to come next. advice : of the newest call, None where there is none.

    A bridged interlock goes before everything. What was agreed to waits for hands until the machine is being closed
    up, then for its proof; what is closed waits for the day of its follow-up, if there is one.
    """
    if visit.any_time.bridged:
        return "restoring"
    if visit.any_time.closed is not None:
        return "follow_up" if visit.proof.next_due is not None else "nothing"
    if visit.proof_failed:
        return "evidence"
    if visit.cost.chosen_paths or any(s.state == "done" for s in visit.strip.steps):
        return "proof" if visit.repair_from is not None or visit.proof.proved else "bench"
    if visit.cost.offered and (visit.cost.decided is None or visit.cost.decided["answer"] == "wait"):
        return "customer"
    return "evidence" if advice is None or advice in UNSURE else "decision"


def part_due(visit: Visit) -> date | None:
    """When the last part that was said to come later comes; None where nothing was said or the machine is open."""
    if any(s.state == "done" for s in visit.strip.steps):
        return None
    days = [p["available_on"] for p in visit.cost.priced if p.get("available_on")]
    return date.fromisoformat(max(days)) if days else None


def words_of(visit: Visit, *, headline: str, knowledge: Knowledge) -> str:
    """All by which a visit may be looked for: place, machine, people, symptoms, call, parts, notes.

    Words alone, each with a space before it.
    """
    told = " ".join(dict.fromkeys(w for w in _words(visit, headline, knowledge) if w))
    return (" " + " ".join(re.findall(r"\w+", told)))[:MOST_WORDS]


def _words(visit: Visit, headline: str, knowledge: Knowledge) -> Iterator[str]:
    facts = visit.story.facts
    yield visit.story.place
    if facts.get("layout") in LAYOUTS:
        yield LAYOUTS[facts["layout"]].name
    yield str(facts.get("serial_note") or "")
    for value in visit.story.contact.values():
        yield str(value)
    yield headline
    for told in visit.story.told:
        if told.present and told.symptom in knowledge.symptoms:
            yield knowledge.symptoms[told.symptom].name
    for shown in visit.story.codes_shown:
        yield shown.text
    for path in visit.cost.chosen_paths:
        if path in knowledge.repair.paths:
            yield knowledge.repair.paths[path].name
            yield from (knowledge.repair.parts[p].name for p in knowledge.repair.paths[path].parts)
    yield from _found(visit.proof.found or {}, knowledge)
    for note in visit.any_time.notes:
        yield note.text


def _found(found: Any, knowledge: Knowledge) -> Iterator[str]:
    for fault in found.get("faults", ()):
        if fault in knowledge.faults:
            yield knowledge.faults[fault].name
