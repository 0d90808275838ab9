"""A job out of the store, as the interface sees it."""

from __future__ import annotations

from dataclasses import replace

from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.visit import Visit
from eager_ear.store import JobRecord, UnitOfWork
from eager_ear.use_cases.diagnosis.weighing import measuring_of
from eager_ear.use_cases.visits.folding import folded
from eager_ear.web.schemas.visits.jobs import JobOut


def job_out(work: UnitOfWork, job: JobRecord, *, knowledge: Knowledge, visit: Visit | None = None) -> JobOut:
    """The job with everything that its diary says."""
    visit = visit if visit is not None else folded(work, job, knowledge=knowledge).visit
    # The state stands in the job's own row, written together with its call: read apart from it, a measurement could
    # be said to be done beside the call that was made without it.
    told = measuring_of(work.measurements.of_job(job.id).values())
    stage = told.stage if told.state is job.measuring else None
    return JobOut.of(
        job,
        visit,
        sent=work.attachments.of_job(job.id),
        measuring=replace(told, state=job.measuring, stage=stage),
        machine=work.machines.by_id(job.machine_id),
        versions=work.calls.versions(job.call.id) if job.call is not None else ("", ""),
    )
