"""Whole cases in the open case format, in and out."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from typing import IO
from urllib.parse import quote

from fastapi import APIRouter, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import StreamingResponse

from eager_ear.service import export_case, import_case
from eager_ear.store import UnitOfWork
from eager_ear.web.schemas.jobs import JobOut
from eager_ear.web.state import State
from eager_ear.web.uploads import streamed_body

router = APIRouter(prefix="/api", tags=["cases"])
BODY = {"requestBody": {"content": {"application/zip": {"schema": {"type": "string", "format": "binary"}}}}}


@router.post("/cases", status_code=201, openapi_extra=BODY)
async def import_(request: Request, state: State, place: str = "", name: str = "case.zip") -> JobOut:
    """Import a zipped case as a new job: all of it, or nothing."""
    async with streamed_body(request, name=name, limit_bytes=state.upload_limit_bytes) as path:
        archive = path.rename(path.with_name("case.zip"))
        job = await run_in_threadpool(
            lambda: import_case(state.database, archive=archive, place=place.strip(), knowledge=state.knowledge)
        )
    return await run_in_threadpool(lambda: _job(state, job.id))


def _job(state: State, job_id: int) -> JobOut:
    with UnitOfWork(state.database) as work:
        job = work.jobs.get(job_id)
        return JobOut.of(job, work.recordings.of_job(job_id), work.analyses.newest(job_id), None)


@router.get("/jobs/{job_id}/case.zip", response_class=StreamingResponse)
def export(job_id: int, state: State) -> StreamingResponse:
    """The job as a zipped case; recordings byte for byte."""
    scratch = tempfile.TemporaryFile(prefix="eager-ear-export-")  # noqa: SIM115  closed by _blocks
    try:
        name = export_case(state.database, job_id=job_id, sink=scratch)
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
