"""Proof: tests that were run after the repair, what was really found, what is due later."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any

from eager_ear.core.diagnosis.knowledge import Knowledge
from eager_ear.core.fields import AnyValues, Code, Day, Flag, Id, Items, Record, Text
from eager_ear.core.visit.entry import Entry
from eager_ear.core.visit.said import Kind, Said, of

# The test that is looked at again and again: every look counts, not only the last.
MARKS = "p_witness"


@dataclass(frozen=True, kw_only=True)
class Proved:
    """The latest word on one test; `recording` where one tells it."""

    test: str
    passed: bool
    values: Mapping[str, Any]
    recording: str | None
    entry: str
    at: datetime


@dataclass(frozen=True, kw_only=True)
class Proof:
    """The latest of every test; what was found and what is due as it was entered.

    marks : every look at painted marks, oldest first
    """

    proved: tuple[Proved, ...]
    marks: tuple[Proved, ...]
    found: Mapping[str, Any] | None
    follow_ups: tuple[Mapping[str, Any], ...]

    @property
    def next_due(self) -> date | None:
        """The next day on which somebody comes back to it."""
        return min((date.fromisoformat(f["due"]) for f in self.follow_ups if not f.get("done")), default=None)


def kinds(knowledge: Knowledge) -> tuple[Kind, ...]:
    """What may be entered at this station."""
    faults = Items(of=Code(choices=tuple(knowledge.faults)))
    return (
        Kind(
            code="proved",
            station="proof",
            says=of("test"),
            body=Record(
                keys={"test": Code(), "passed": Flag(), "values": AnyValues(), "recording": Id()},
                needs=("test", "passed"),
            ),
        ),
        Kind(
            code="found",
            station="proof",
            says=of(),
            body=Record(keys={"faults": faults, "not_there": faults, "sure": Flag()}, needs=("faults",)),
        ),
        Kind(
            code="follow_up",
            station="proof",
            says=of("due", "what"),
            body=Record(
                keys={"due": Day(), "what": Text(longest=300, shortest=1), "done": Flag()}, needs=("due", "what")
            ),
        ),
    )


def fold(said: Said) -> Proof:
    """Tests by code, what was found, follow-ups by date and purpose."""
    found = said.last("found")
    return Proof(
        proved=tuple(_proved(s.entry) for s in said.newest("proved").values()),
        marks=tuple(_proved(e) for e in said.all("proved") if (e.body or {}).get("test") == MARKS),
        found=None if found is None else dict(found.body or {}),
        follow_ups=tuple(s.value for s in said.newest("follow_up").values()),
    )


def _proved(entry: Entry) -> Proved:
    body = entry.body or {}
    return Proved(
        test=body["test"],
        passed=body["passed"],
        values=body.get("values") or {},
        recording=body.get("recording"),
        entry=entry.id,
        at=entry.counts_at,
    )
