"""Hands: checks that were made, the latest values of each, and what it said before."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from eager_ear.core.diagnosis.knowledge import Knowledge
from eager_ear.core.errors import BadField
from eager_ear.core.fields import AnyValues, Code, Record
from eager_ear.core.hands import validate_values
from eager_ear.core.visit.said import Body, Kind, Said


@dataclass(frozen=True, kw_only=True)
class CheckMade:
    """One check with its latest values; `before` holds earlier ones, oldest first. `entry` is its id in the diary."""

    check: str
    values: Mapping[str, Any]
    entry: str
    at: datetime
    before: tuple[Mapping[str, Any], ...]


@dataclass(frozen=True, kw_only=True)
class Hands:
    checks: tuple[CheckMade, ...]


def _says(body: Body) -> dict[str, Any]:
    """The same check at the same corner is one subject."""
    corner = body["values"].get("corner")
    return {f"{body['check']}.{corner}" if corner else str(body["check"]): dict(body["values"])}


def kinds(knowledge: Knowledge) -> tuple[Kind, ...]:
    """What may be entered at this station."""

    def read(body: Body) -> dict[str, Any]:
        known = {spec.name for spec in knowledge.checks[body["check"]].values}
        unknown = sorted(set(body["values"]) - known)
        if unknown:
            raise BadField(field=f"values.{unknown[0][:80]}", reason=f"is no value of {body['check']}.")
        values = validate_values(body["check"], body["values"], knowledge=knowledge)
        if not values:
            raise BadField(field="values", reason="nothing was measured.")
        return {"check": body["check"], "values": values}

    check = Code(choices=tuple(knowledge.checks))
    record = Record(keys={"check": check, "values": AnyValues()}, needs=("check", "values"))
    return (Kind(code="check", station="hands", says=_says, body=record, read=read),)


def fold(said: Said) -> Hands:
    """The checks in the order in which they were first made."""
    return Hands(
        checks=tuple(
            CheckMade(
                check=(s.entry.body or {})["check"],
                values=s.value,
                entry=s.entry.id,
                at=s.entry.counts_at,
                before=tuple(b.value for b in said.earlier("check", subject)),
            )
            for subject, s in said.newest("check").items()
        )
    )
