"""Call: findings that the technician does not believe, and what was called."""

from __future__ import annotations

from dataclasses import dataclass

from eager_ear.core.diagnosis.knowledge import Knowledge
from eager_ear.core.fields import Code, Items, Record, Text
from eager_ear.core.visit.said import Kind, Said, of

ADVICE = ("commit", "check_more", "no_teardown", "record_again")


@dataclass(frozen=True, kw_only=True)
class SetAside:
    finding: str
    why: str
    entry: str


@dataclass(frozen=True, kw_only=True)
class Called:
    """What was called, by which analysis; `own_view` where the person departs from it."""

    faults: tuple[str, ...]
    advice: str | None
    analysis: str | None
    own_view: str | None


@dataclass(frozen=True, kw_only=True)
class CallStation:
    set_aside: tuple[SetAside, ...]
    called: Called | None


def kinds(knowledge: Knowledge) -> tuple[Kind, ...]:
    """What may be entered at this station."""
    symptoms = tuple(f"symptom_{code}" for code in knowledge.symptoms)
    finding = Code(choices=(*knowledge.findings, *symptoms))
    faults = Items(of=Code(choices=tuple(knowledge.faults)), fewest=1)
    return (
        Kind(
            code="set_aside",
            station="call",
            says=of("finding"),
            body=Record(keys={"finding": finding, "why": Text(longest=500)}, needs=("finding", "why")),
        ),
        Kind(
            code="called",
            station="call",
            says=of(),
            body=Record(
                keys={
                    "faults": faults,
                    "advice": Code(choices=ADVICE),
                    "analysis": Text(longest=40),
                    "own_view": Text(longest=2000),
                },
                needs=("faults",),
            ),
        ),
    )


def fold(said: Said) -> CallStation:
    """What was set aside, and the latest call."""
    last = said.last("called")
    body = (last.body or {}) if last is not None else None
    return CallStation(
        set_aside=tuple(
            SetAside(finding=finding, why=s.value["why"], entry=s.entry.id)
            for finding, s in said.newest("set_aside").items()
        ),
        called=None
        if body is None
        else Called(
            faults=tuple(body["faults"]),
            advice=body.get("advice"),
            analysis=body.get("analysis"),
            own_view=body.get("own_view"),
        ),
    )
