"""A machine without a customer: how it came, how it was looked over; used parts kept from one and fitted again."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from eager_ear.core.diagnosis.knowledge import Knowledge
from eager_ear.core.fields import Code, Id, Number, Record, Text
from eager_ear.core.visit.cost import MOST_MONEY
from eager_ear.core.visit.said import Body, Kind, Said, Statement, of

CUSTOMERS = "customers"
HOW = (CUSTOMERS, "bought", "given", "traded_in", "left_behind", "own")
RESULTS = ("good", "bad", "not_tried")
# More than a laundry's machine runs in thirty years.
MOST_HOURS = 200_000
CONDITIONS = ("tested", "looks_sound")


@dataclass(frozen=True, kw_only=True)
class KeptPart:
    """A used part that came off this machine and lies on a shelf.

    hours : that it has run, None where nobody said; entry : by which another visit names it, the first that told of it
    entries : all that tell of it
    """

    part: str
    condition: str
    shelf: str
    hours: int | None
    entry: str
    entries: tuple[str, ...]
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
                    "hours": Number(low=0, high=MOST_HOURS, whole=True),
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
        kept=tuple(_kept(said, s) for s in said.newest("kept_part").values()),
        fitted=tuple(said.newest("fitted_used")),
    )


def _kept(said: Said, newest: Statement) -> KeptPart:
    """One part on the shelf: as it was told last, under the name that it got first."""
    told = [*(earlier.entry.id for earlier in said.earlier("kept_part", newest.subject)), newest.entry.id]
    return KeptPart(
        part=newest.value["part"],
        condition=newest.value["condition"],
        shelf=str(newest.value.get("shelf") or ""),
        hours=newest.value.get("hours"),
        entry=told[0],
        entries=tuple(told),
        at=newest.entry.counts_at,
    )
