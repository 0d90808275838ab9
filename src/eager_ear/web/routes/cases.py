"""Whole cases in the open case format, in and out."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from typing import IO, Annotated
from urllib.parse import quote

from fastapi import APIRouter, Query, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import StreamingResponse

from eager_ear.store import UnitOfWork
from eager_ear.use_cases.cases import export_case, import_case
from eager_ear.web.jobs_out import job_out
from eager_ear.web.schemas.jobs import JobOut
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
    responses={200: {"content": {"application/zip": {"schema": {"type": "string", "format": "binary"}}}}},
)
def export(job_id: str, state: State, contact: bool = False) -> StreamingResponse:
    """The job as a zipped case with its diary; who the customer is stays here unless `contact` asks for it."""
    scratch = tempfile.TemporaryFile(prefix="eager-ear-export-")  # noqa: SIM115  closed by _blocks
    try:
        name = export_case(
            state.database, job_uuid=job_id, sink=scratch, knowledge=state.knowledge, with_contact=contact
        )
    except BaseException:
        scratch.close()
        raise
    size = scratch.tell()
    scratch.seek(0)
    headers = {"Content-Disposition": f"attachment; filename*=UTF-8''{quote(name)}", "Content-Length": str(size)}
    return StreamingResponse(_blocks(scratch), media_type="application/zip", headers=headers)


def _blocks(file: IO[bytes]) -> Iterator[bytes]:
    with file:
        while block := file.read(1 << 20):
            yield block
