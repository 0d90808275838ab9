"""The shop's record: what became of each job, what that teaches, and with which knowledge a job is weighed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.diagnosis.counts import Counts
from eager_ear.core.record import (
    Outcome,
    Standing,
    WrongCost,
    cost_of_wrong,
    counts_of,
    found_in,
    opened_first,
    standing_of,
    taught,
)
from eager_ear.core.visit import Entry, Visit, fold_machine, fold_visit
from eager_ear.core.weigh import Weighed, weigh
from eager_ear.store import Database, UnitOfWork, in_unit
from eager_ear.use_cases.clock import now_utc
from eager_ear.use_cases.shop.shop import shop_of
from eager_ear.use_cases.visits.folding import FoldedJob
from eager_ear.use_cases.visits.shown import shown_of

# Jobs beyond the newest so many count no more: machines change, and so does who repairs them.
MOST_COUNTED = 5000


def knowledge_of_shop(work: UnitOfWork, *, knowledge: Knowledge) -> Knowledge:
    """The knowledge as the shop's own record has sharpened it, or as it is where the shop does not want that."""
    record = _Record(work)
    if record.is_empty or not shop_of(work, repair=knowledge.repair).learns:
        return knowledge
    return _taught(record, knowledge)


class _Record:
    """The record as a key of what was computed from it: the same jobs and last change, in the same database."""

    def __init__(self, work: UnitOfWork) -> None:
        self._work = work
        self._state = work.outcomes.state(limit=MOST_COUNTED)
        self._key = (work.place, self._state)

    @property
    def is_empty(self) -> bool:
        return self._state[0] == 0

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Record) and other._key == self._key

    def __hash__(self) -> int:
        return hash(self._key)

    def read(self) -> list[Outcome]:
        outcomes = self._work.outcomes.newest(limit=MOST_COUNTED)
        # What is kept of this for the next one to ask is no open session.
        del self._work
        return outcomes


@lru_cache(maxsize=8)
def _taught(record: _Record, knowledge: Knowledge) -> Knowledge:
    outcomes = record.read()
    counted = sum(o.left_out is None for o in outcomes)
    return replace(taught(knowledge, outcomes), version=f"{knowledge.version}~{counted}")


def note_outcome(work: UnitOfWork, found: FoldedJob, *, knowledge: Knowledge) -> None:
    """Keep what became of a job that is closed, and forget what became of one that is open again."""
    job, visit = found.job, found.visit
    layout = visit.story.facts.get("layout")
    if visit.any_time.closed is None or layout is None or job.practice:
        work.outcomes.forget(job.id)
        return
    before, call_of = _before_opening(work, found, knowledge=knowledge)
    if call_of is None:
        work.outcomes.forget(job.id)
        return
    closed = max((e.counts_at for e in found.entries if e.kind == "closed"), default=job.created_at)
    called = visit.call.called
    outcome = Outcome(
        job=job.uuid,
        layout=str(layout),
        day=closed.date(),
        outcome=visit.any_time.closed,
        faults=found_in(visit),
        called={s.fault: s.probability for s in call_of.call.suspects},
        advice=call_of.call.advice,
        opened=_was_opened(visit),
        own_view=called.faults if called is not None else (),
        levels={
            reading.finding.code: reading.level_likelihood / np.sum(reading.level_likelihood)
            for reading in call_of.call.readings
            if reading.source != "story"
        },
        minutes=_minutes(before),
        by=next((e.by for e in reversed(found.entries) if e.by), None),
    )
    work.outcomes.put(job.id, job.machine_id, outcome, proof_failed=visit.proof_failed, now=now_utc())


def _before_opening(
    work: UnitOfWork, found: FoldedJob, *, knowledge: Knowledge
) -> tuple[Sequence[Entry], Weighed | None]:
    """The entries of a job before anybody knew better, and what they were weighed to by what the shop knew by then."""
    until = opened_first(found.entries)
    before = [e for e in found.entries if until is None or e.counts_at < until]
    job = found.job
    others = work.entries.about_machine(job.machine_id, but_job=job.id)
    known = fold_machine([e for e in others if e.counts_at < job.created_at], knowledge=knowledge)
    visit: Visit = fold_visit(before, knowledge=knowledge, known=known)
    case = visit.case(found.case_id)
    if case is None:
        return before, None
    weighed = weigh(
        case,
        shown=shown_of(work, job.id, after=False),
        knowledge=knowledge,
        set_aside=[s.finding for s in visit.call.set_aside],
        shop=shop_of(work, repair=knowledge.repair),
    )
    return before, weighed


def _was_opened(visit: Visit) -> bool:
    """Taken apart step by step, looked into, or agreed to and not taken back."""
    stepped = any(s.way == "off" and s.state == "done" for s in visit.strip.steps)
    agreed = visit.cost.decided is not None and visit.cost.decided["answer"] == "yes"
    ended = visit.any_time.closed in ("mended", "workaround", "no_fault")
    return stepped or bool(visit.strip.seen) or (agreed and ended)


def _minutes(before: Sequence[Entry]) -> float | None:
    """From the first entry to the last one before the machine was opened."""
    moments = [e.counts_at for e in before]
    return (max(moments) - min(moments)).total_seconds() / 60.0 if len(moments) > 1 else None


@dataclass(frozen=True, kw_only=True)
class ShopRecord:
    """What a shop's record amounts to. outcomes : the newest first; now : the knowledge as it was sharpened."""

    outcomes: Sequence[Outcome]
    standing: Standing
    wrong: WrongCost
    counts: Counts
    now: Knowledge
    learns: bool


def record_of(work: UnitOfWork, *, knowledge: Knowledge) -> ShopRecord:
    """The shop's record, with what it teaches whether the shop wants to be taught or not."""
    shop = shop_of(work, repair=knowledge.repair)
    outcomes, standing, counts, now = _counted(_Record(work), knowledge)
    return ShopRecord(
        outcomes=outcomes,
        standing=standing,
        wrong=cost_of_wrong(standing, shop),
        counts=counts,
        now=now,
        learns=shop.learns,
    )


@lru_cache(maxsize=2)
def _counted(record: _Record, knowledge: Knowledge) -> tuple[Sequence[Outcome], Standing, Counts, Knowledge]:
    """The outcomes and what follows from them, counted once until one of them changes."""
    outcomes = record.read()
    return outcomes, standing_of(outcomes), counts_of(outcomes), taught(knowledge, outcomes)


def leave_out(database: Database, *, job_uuid: str, why: str | None) -> None:
    """Count an ended job no more, or again. Raises NotFound."""
    in_unit(database, lambda work: work.outcomes.leave_out(job_uuid, why, now=now_utc()))
