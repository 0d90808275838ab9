"""Whole cases in the open case format, in and out."""

from __future__ import annotations

import tempfile
from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import StreamingResponse

from eager_ear.store import UnitOfWork
from eager_ear.use_cases.shop.machine_data import note_export
from eager_ear.use_cases.visits.cases import export_case, import_case
from eager_ear.web.actor import Acting
from eager_ear.web.files_out import ZIP, zip_answer
from eager_ear.web.jobs_out import job_out
from eager_ear.web.schemas.visits.jobs import JobOut
from eager_ear.web.state import AppState, State
from eager_ear.web.uploads import streamed_body

router = APIRouter(prefix="/api", tags=["cases"])
BODY = {"requestBody": {"content": {"application/zip": {"schema": {"type": "string", "format": "binary"}}}}}


@router.post("/cases", status_code=201, openapi_extra=BODY)
async def import_(
    request: Request,
    state: State,
    place: Annotated[str, Query(max_length=200)] = "",
    name: Annotated[str, Query(max_length=200)] = "case.zip",
) -> JobOut:
    """Import a zipped case as a job: all of it, or nothing. One with a diary is the job that it was."""
    announced = request.headers.get("content-length", "")
    state.room.require(int(announced) if announced.isdigit() else state.upload_limit_bytes)
    async with streamed_body(request, name=name, limit_bytes=state.upload_limit_bytes) as path:
        archive = path.rename(path.with_name("case.zip"))
        async with state.looking:
            job = await run_in_threadpool(
                lambda: import_case(state.database, archive=archive, place=place.strip(), knowledge=state.knowledge)
            )
    return await run_in_threadpool(lambda: _job(state, job.uuid))


def _job(state: AppState, job_uuid: str) -> JobOut:
    with UnitOfWork(state.database) as work:
        return job_out(work, work.jobs.get(job_uuid), knowledge=state.knowledge)


@router.get(
    "/jobs/{job_id}/case.zip",
    response_class=StreamingResponse,
    responses=ZIP,
)
def export(job_id: str, state: State, acting: Acting, contact: bool = False) -> StreamingResponse:
    """The job as a zipped case with its diary; who the customer is stays here unless `contact` asks for it."""
    scratch = tempfile.TemporaryFile(prefix="eager-ear-export-")  # noqa: SIM115  closed by _blocks
    try:
        name = export_case(
            state.database, job_uuid=job_id, sink=scratch, knowledge=state.knowledge, with_contact=contact
        )
        note_export(state.database, job_uuid=job_id, with_contact=contact, who=acting.name or "")
    except BaseException:
        scratch.close()
        raise
    return zip_answer(scratch, name=name)
