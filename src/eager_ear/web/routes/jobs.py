"""Jobs: the board, one job, its analysis and its call."""

from __future__ import annotations

from fastapi import APIRouter, Query

from eager_ear.core.case import HandCheck, require_code
from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.hands import validate_values
from eager_ear.service import now_utc, queue_analysis
from eager_ear.store import NotFound, UnitOfWork, in_unit
from eager_ear.web.schemas.jobs import AnalysisOut, BoardOut, CheckIn, JobChange, JobIn, JobOut
from eager_ear.web.schemas.results import CallOut, CurvesOut, ResultOut
from eager_ear.web.state import State

router = APIRouter(prefix="/api", tags=["jobs"])


@router.get("/jobs")
def board(state: State, limit: int = Query(default=100, ge=1, le=500)) -> BoardOut:
    """Jobs, last changed first."""
    with UnitOfWork(state.database) as work:
        jobs = work.jobs.newest(limit=limit)
        ids = [job.id for job in jobs]
        newest = work.analyses.newest_of_jobs(ids)
        done = work.analyses.newest_of_jobs(ids, done=True)
        return BoardOut(
            jobs=[JobOut.of(job, work.recordings.of_job(job.id), newest.get(job.id), done.get(job.id)) for job in jobs]
        )


@router.post("/jobs", status_code=201)
def new_job(body: JobIn, state: State) -> JobOut:
    """Open a job. A complaint alone already gives odds, so it is analysed at once."""
    machine = body.machine.to_core()
    symptoms = _symptoms(body.symptoms, state.knowledge)
    with UnitOfWork(state.database) as work:
        job = work.jobs.add(
            place=body.place.strip(),
            machine=machine,
            case_id="",
            symptoms=symptoms,
            note=body.note,
            checks=(),
            now=now_utc(),
        )
        queue_analysis(work, job.id, knowledge=state.knowledge)
        return _job_out(work, job.id)


@router.get("/jobs/{job_id}")
def one_job(job_id: int, state: State) -> JobOut:
    with UnitOfWork(state.database) as work:
        return _job_out(work, job_id)


@router.patch("/jobs/{job_id}")
def change_job(job_id: int, body: JobChange, state: State) -> JobOut:
    """Change what is given; a change of evidence is analysed at once."""
    machine = body.machine.to_core() if body.machine is not None else None
    symptoms = _symptoms(body.symptoms, state.knowledge) if body.symptoms is not None else None
    checks = [_check(c, state.knowledge) for c in body.checks] if body.checks is not None else None

    def changed(work: UnitOfWork) -> JobOut:
        work.jobs.hold(job_id)
        work.jobs.change(
            job_id, now=now_utc(), place=body.place, machine=machine, symptoms=symptoms, note=body.note, checks=checks
        )
        if machine is not None or symptoms is not None or checks is not None:
            queue_analysis(work, job_id, knowledge=state.knowledge)
        return _job_out(work, job_id)

    return in_unit(state.database, changed)


@router.post("/jobs/{job_id}/analyses", status_code=202)
def analyse_again(job_id: int, state: State) -> JobOut:
    """Queue a fresh analysis."""

    def queued(work: UnitOfWork) -> JobOut:
        work.jobs.hold(job_id)
        queue_analysis(work, job_id, knowledge=state.knowledge)
        return _job_out(work, job_id)

    return in_unit(state.database, queued)


@router.post("/analyses/{analysis_id}/cancel")
def cancel(analysis_id: int, state: State) -> AnalysisOut:
    """Stop an analysis that waits or runs."""

    def cancelled(work: UnitOfWork) -> AnalysisOut:
        work.analyses.get(analysis_id)
        work.analyses.cancel(analysis_id, now=now_utc())
        work.session.expire_all()
        return AnalysisOut.of(work.analyses.get(analysis_id))

    return in_unit(state.database, cancelled)


@router.get("/jobs/{job_id}/call")
def call(job_id: int, state: State) -> CallOut:
    """The newest finished analysis."""
    with UnitOfWork(state.database) as work:
        work.jobs.get(job_id)
        record = work.analyses.newest_done(job_id)
    if record is None or record.result is None:
        raise NotFound(kind="finished analysis of job", key=str(job_id))
    return CallOut(
        analysis_id=record.summary.id,
        result=ResultOut.model_validate(record.result),
        curves=CurvesOut.model_validate(record.curves or {}),
    )


def _job_out(work: UnitOfWork, job_id: int) -> JobOut:
    job = work.jobs.get(job_id)
    newest = work.analyses.newest(job_id)
    done = work.analyses.newest_of_jobs([job_id], done=True).get(job_id)
    return JobOut.of(job, work.recordings.of_job(job_id), newest, done)


def _symptoms(codes: list[str], knowledge: Knowledge) -> tuple[str, ...]:
    known = tuple(knowledge.symptoms)
    return tuple(dict.fromkeys(require_code(c, field_name="symptoms", known=known) for c in codes))


def _check(check: CheckIn, knowledge: Knowledge) -> HandCheck:
    return HandCheck(check=check.check, values=validate_values(check.check, check.values, knowledge=knowledge))
