"""The shop's record, as the interface draws it."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date
from typing import Annotated

import numpy as np
from pydantic import BaseModel, StringConstraints

from eager_ear.core.cost import Money
from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.machine import LAYOUTS
from eager_ear.core.record import Of, Outcome, Part, Standing
from eager_ear.use_cases.shop.record import ShopRecord
from eager_ear.web.schemas.base import Strict

# So many jobs are listed; all are counted.
LISTED = 200


class LeaveOutIn(Strict):
    """why : of leaving it out; None counts it again."""

    why: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=500)] | None


class HitsOut(BaseModel):
    hits: int
    of: int
    share: float | None
    low: float
    high: float

    @classmethod
    def told(cls, part: Part) -> HitsOut:
        return cls(hits=part.hits, of=part.of, share=part.share, low=part.low, high=part.high)


class BinOut(BaseModel):
    low: float
    high: float
    said: float
    right: HitsOut


class TakenOut(BaseModel):
    """What was called where `found` was there."""

    found: str
    called: str
    count: int


class ThresholdOut(BaseModel):
    chance: float
    opened: HitsOut


class OfOut(BaseModel):
    name: str
    right: HitsOut
    in_vain: HitsOut
    again: HitsOut
    minutes: float | None

    @classmethod
    def told(cls, of: Of, *, name: str) -> OfOut:
        parts = {key: HitsOut.told(getattr(of, key)) for key in ("right", "in_vain", "again")}
        return cls(name=name, minutes=of.minutes, **parts)


class OddsOut(BaseModel):
    """One fault of a layout: its share of the visits as brought along, as counted, and now."""

    fault: str
    name: str
    built_in: float
    counted: float
    now: float


class LayoutOddsOut(BaseModel):
    layout: str
    name: str
    visits: float
    odds: list[OddsOut]


class ColumnOut(BaseModel):
    """How often a finding falls on each level with a fault: as brought along, as counted, and now."""

    finding: str
    name: str
    fault: str
    fault_name: str
    levels: list[str]
    built_in: list[float]
    counted: list[float]
    now: list[float]


class EndedOut(BaseModel):
    """One ended job. called : what was named first, with its chance; found : None where nobody is sure."""

    job: str
    day: date
    layout: str
    called: str
    chance: float
    found: list[str] | None
    right: bool | None
    outcome: str
    left_out: str | None


class RecordOut(BaseModel):
    learns: bool
    ended: int
    known: int
    left_out: int
    right: HitsOut
    own_right: HitsOut
    in_vain: HitsOut
    in_vain_cost: Money
    again: HitsOut
    again_cost: Money
    minutes: float | None
    bins: list[BinOut]
    taken: list[TakenOut]
    thresholds: list[ThresholdOut]
    by_layout: list[OfOut]
    by_person: list[OfOut]
    odds: list[LayoutOddsOut]
    columns: list[ColumnOut]
    jobs: list[EndedOut]

    @classmethod
    def of(cls, record: ShopRecord, *, knowledge: Knowledge, sees_names: bool) -> RecordOut:
        standing: Standing = record.standing
        names = {code: fault.short for code, fault in knowledge.faults.items()}

        def named(code: str) -> str:
            return names.get(code, code)

        return cls(
            learns=record.learns,
            ended=standing.ended,
            known=standing.known,
            left_out=standing.left_out,
            right=HitsOut.told(standing.right),
            own_right=HitsOut.told(standing.own_right),
            in_vain=HitsOut.told(standing.in_vain),
            in_vain_cost=record.wrong.in_vain,
            again=HitsOut.told(standing.again),
            again_cost=record.wrong.again,
            minutes=standing.minutes,
            bins=[BinOut(low=b.low, high=b.high, said=b.said, right=HitsOut.told(b.right)) for b in standing.bins],
            taken=[TakenOut(found=named(t.found), called=named(t.called), count=t.count) for t in standing.taken],
            thresholds=[ThresholdOut(chance=t.chance, opened=HitsOut.told(t.opened)) for t in standing.thresholds],
            by_layout=[OfOut.told(o, name=LAYOUTS[o.name].name) for o in standing.by_layout],
            by_person=[OfOut.told(o, name=o.name) for o in standing.by_person if sees_names],
            odds=list(_odds(record, knowledge)),
            columns=list(_columns(record, knowledge)),
            jobs=[_ended(outcome, names) for outcome in record.outcomes[:LISTED]],
        )


def _odds(record: ShopRecord, knowledge: Knowledge) -> Iterator[LayoutOddsOut]:
    for layout, counted in sorted(record.counts.found.items()):
        before, now = knowledge.odds_of(layout), record.now.odds_of(layout)
        rows = [
            OddsOut(
                fault=fault,
                name=knowledge.faults[fault].short,
                built_in=before[fault] / sum(before.values()),
                counted=counted.get(fault, 0.0),
                now=now[fault] / sum(now.values()),
            )
            for fault in before
        ]
        rows.sort(key=lambda r: -r.now)
        yield LayoutOddsOut(layout=layout, name=LAYOUTS[layout].name, visits=sum(counted.values()), odds=rows)


def _columns(record: ShopRecord, knowledge: Knowledge) -> Iterator[ColumnOut]:
    """Columns with counts, the most counted first."""
    seen = [(n, f, c) for f, by_fault in record.counts.levels.items() for c, n in by_fault.items()]
    for counted, code, fault in sorted(seen, key=lambda item: (-float(item[0].sum()), item[1], item[2])):
        before, now = knowledge.findings.get(code), record.now.findings.get(code)
        if before is None or now is None or (fault != "none" and fault not in before.given):
            continue
        column = (before.calm, now.calm) if fault == "none" else (before.given[fault], now.given[fault])
        yield ColumnOut(
            finding=code,
            name=before.name,
            fault=fault,
            fault_name=knowledge.faults[fault].short,
            levels=list(before.levels),
            built_in=[float(v) for v in column[0]],
            counted=[float(v) for v in np.round(counted, 2)],
            now=[float(v) for v in column[1]],
        )


def _ended(outcome: Outcome, names: dict[str, str]) -> EndedOut:
    return EndedOut(
        job=outcome.job,
        day=outcome.day,
        layout=outcome.layout,
        called=names.get(outcome.first, outcome.first),
        chance=outcome.called[outcome.first],
        found=[names.get(f, f) for f in outcome.faults] if outcome.faults is not None else None,
        right=outcome.first_right,
        outcome=outcome.outcome,
        left_out=outcome.left_out,
    )
