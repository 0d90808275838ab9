"""Jobs: the board, one job, its diary, its measuring and its call."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Annotated, get_args

from fastapi import APIRouter, Query, Response

from eager_ear.core.errors import BadField, UnknownCode
from eager_ear.core.machine import LAYOUT_CODES
from eager_ear.core.visit import WaitsFor, in_force
from eager_ear.store import NotFound, UnitOfWork
from eager_ear.use_cases.diagnosis.measuring import measure_again, stop_measuring
from eager_ear.use_cases.visits.diary import Written, open_job, write_entries
from eager_ear.use_cases.visits.pen import Sender
from eager_ear.web.actor import Acting
from eager_ear.web.jobs_out import job_out
from eager_ear.web.schemas.diagnosis.results import CallOut, CurvesOut, ResultOut
from eager_ear.web.schemas.visits.entries import EntriesIn, EntryOut, HistoryOut, JobIn, WrittenOut
from eager_ear.web.schemas.visits.jobs import BoardOut, JobOut, JobShortOut
from eager_ear.web.state import AppState, State

router = APIRouter(prefix="/api", tags=["jobs"])


@router.get("/jobs")
def board(
    state: State,
    limit: Annotated[int, Query(ge=1, le=500)] = 100,
    after: Annotated[str, Query(max_length=60, description="as the page before named it")] = "",
    q: Annotated[str, Query(max_length=200, description="words that a job holds, or their beginnings")] = "",
    waits_for: WaitsFor | None = None,
    layout: Annotated[str | None, Query(max_length=32)] = None,
) -> BoardOut:
    """Jobs, last changed first, a page at a time."""
    if layout is not None and layout not in LAYOUT_CODES:
        raise UnknownCode(field="layout", value=layout, known=LAYOUT_CODES)
    with UnitOfWork(state.database) as work:
        found = work.jobs.newest(limit=limit + 1, before=_page(after), looked_for=q, waits_for=waits_for, layout=layout)
        # What waits in all is told with the board itself, not with every page and word that is looked for.
        counts = work.jobs.waiting() if not (after or q or waits_for or layout) else None
    jobs, last = found[:limit], found[limit - 1] if len(found) > limit else None
    return BoardOut(
        jobs=[JobShortOut.of(job) for job in jobs],
        waiting=None if counts is None else {wait: counts.get(wait, 0) for wait in get_args(WaitsFor)},
        after=f"{last.changed_at.isoformat()}/{last.id}" if last is not None else None,
    )


def _page(after: str) -> tuple[datetime, int] | None:
    """Raises BadField for what no page named."""
    if after == "":
        return None
    moment, _, number = after.rpartition("/")
    try:
        return datetime.fromisoformat(moment).astimezone(UTC), int(number)
    except (ValueError, OverflowError):
        raise BadField(field="after", reason="is not what a page named.") from None


@router.post("/jobs")
def open_(body: JobIn, state: State, acting: Acting) -> WrittenOut:
    """Open a job under the id that its device gave it. The same id again: the same job.

    A trainee's is always a practice job; others may open one, for themselves or for a trainee.
    """
    sender = Sender(by=acting.name, sent_at=body.sent_at)
    written = open_job(
        state.database,
        uuid=body.id,
        entries=body.entries,
        sender=sender,
        knowledge=state.knowledge,
        practice=body.practice or acting.role == "trainee",
    )
    return _written(state, written)


@router.get("/jobs/{job_id}")
def one_job(job_id: str, state: State) -> JobOut:
    with UnitOfWork(state.database) as work:
        return job_out(work, work.jobs.get(job_id), knowledge=state.knowledge)


@router.post("/jobs/{job_id}/entries")
def write_(job_id: str, body: EntriesIn, state: State, acting: Acting) -> WrittenOut:
    """Write entries into the diary: each stands for itself, a refused one does not stop the others."""
    sender = Sender(by=acting.name, sent_at=body.sent_at)
    written = write_entries(
        state.database, job_uuid=job_id, entries=body.entries, sender=sender, knowledge=state.knowledge
    )
    return _written(state, written)


@router.get("/jobs/{job_id}/entries")
def history(job_id: str, state: State, after: int = Query(default=0, ge=0)) -> HistoryOut:
    """The diary by number, from the one after `after` on."""
    with UnitOfWork(state.database) as work:
        entries = work.entries.of_job(work.jobs.get(job_id).id)
    counting = {entry.id for entry in in_force(entries)}
    return HistoryOut(entries=[EntryOut.of(e, counts=e.id in counting) for e in entries if e.seq > after])


@router.post("/jobs/{job_id}/measuring", status_code=202)
def measure_again_(job_id: str, state: State) -> JobOut:
    """Measure the job's recordings afresh."""
    measure_again(state.database, job_uuid=job_id)
    return one_job(job_id, state)


@router.delete("/jobs/{job_id}/measuring")
def stop_measuring_(job_id: str, state: State) -> JobOut:
    """Stop what waits or runs."""
    stop_measuring(state.database, job_uuid=job_id)
    return one_job(job_id, state)


@router.get("/jobs/{job_id}/call")
def call(job_id: str, state: State, response: Response) -> CallOut:
    """The newest call, and what the pictures are drawn from."""
    response.headers["Cache-Control"] = "no-cache"
    with UnitOfWork(state.database) as work:
        job = work.jobs.get(job_id)
        if job.call is None:
            raise NotFound(kind="call of job", key=job_id)
        record = work.calls.get(job.call.id)
        curves = record.curves if record.curves is not None else work.measurements.curves(job.id)
    return CallOut(
        call_id=record.id,
        knowledge_version=record.knowledge_version,
        code_version=record.code_version,
        weighed_at=record.weighed_at,
        result=ResultOut.model_validate(record.result),
        curves=CurvesOut.model_validate(curves),
    )


def _written(state: AppState, written: Written) -> WrittenOut:
    found = written.found
    with UnitOfWork(state.database) as work:
        job = job_out(work, found.job, knowledge=state.knowledge, visit=found.visit)
    return WrittenOut.of(written, job)
