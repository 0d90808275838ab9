"""A machine without a customer: how it came, how it was looked over; used parts kept from one and fitted again."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from eager_ear.core.diagnosis.knowledge import Knowledge
from eager_ear.core.fields import Code, Id, Number, Record, Text
from eager_ear.core.visit.cost import MOST_MONEY
from eager_ear.core.visit.said import Body, Kind, Said, of

CUSTOMERS = "customers"
HOW = (CUSTOMERS, "bought", "given", "traded_in", "left_behind", "own")
RESULTS = ("good", "bad", "not_tried")
CONDITIONS = ("tested", "looks_sound")


@dataclass(frozen=True, kw_only=True)
class KeptPart:
    """A used part that came off this machine and lies on a shelf. entry : by which another visit names it."""

    part: str
    condition: str
    shelf: str
    entry: str
    at: datetime


@dataclass(frozen=True, kw_only=True)
class Stock:
    """taken_in : how it came, None where it is a customer's; intake : the latest result of each look

    kept : used parts taken off this machine; fitted : entries of the used parts that went into it
    """

    taken_in: Mapping[str, Any] | None
    intake: Mapping[str, str]
    kept: tuple[KeptPart, ...]
    fitted: tuple[str, ...]


def kinds(knowledge: Knowledge) -> tuple[Kind, ...]:
    """What may be entered about it, at any station. `paid` in the currency's smallest unit."""
    rows = tuple(row.code for row in knowledge.repair.stock.intake)
    return (
        Kind(
            code="taken_in",
            station="any",
            says=of(),
            body=Record(
                keys={
                    "how": Code(choices=HOW),
                    "paid": Number(low=0, high=MOST_MONEY, whole=True),
                    "currency": Text(longest=3, shortest=3),
                    "history": Text(longest=2000),
                },
                needs=("how",),
            ),
        ),
        Kind(
            code="intake",
            station="any",
            says=of("row"),
            body=Record(keys={"row": Code(choices=rows), "result": Code(choices=RESULTS)}, needs=("row", "result")),
        ),
        Kind(
            code="kept_part",
            station="any",
            says=_says_kept,
            body=Record(
                keys={
                    "part": Code(choices=tuple(knowledge.repair.parts)),
                    "condition": Code(choices=CONDITIONS),
                    "shelf": Text(longest=100),
                },
                needs=("part", "condition"),
            ),
        ),
        Kind(
            code="fitted_used",
            station="any",
            says=of("kept"),
            body=Record(
                keys={"kept": Id(), "part": Code(choices=tuple(knowledge.repair.parts))}, needs=("kept", "part")
            ),
        ),
    )


def _says_kept(body: Body) -> dict[str, Any]:
    return {str(body["part"]): dict(body)}


def fold(said: Said) -> Stock:
    """How it came, what was looked at, which parts left it or came into it."""
    taken = said.last("taken_in")
    return Stock(
        taken_in=None if taken is None or (taken.body or {})["how"] == CUSTOMERS else dict(taken.body or {}),
        intake={row: s.value["result"] for row, s in said.newest("intake").items()},
        kept=tuple(
            KeptPart(
                part=part,
                condition=s.value["condition"],
                shelf=str(s.value.get("shelf") or ""),
                entry=s.entry.id,
                at=s.entry.counts_at,
            )
            for part, s in said.newest("kept_part").items()
        ),
        fitted=tuple(said.newest("fitted_used")),
    )
