"""Recordings: streamed in, stored byte for byte, streamed out in ranges."""

from __future__ import annotations

import re
from collections.abc import Iterator
from urllib.parse import quote

from fastapi import APIRouter, Header, Query, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import StreamingResponse

from eager_ear.casefile import RecordingEntry
from eager_ear.core.case import RecordingFacts
from eager_ear.service import add_recording, remove_recording
from eager_ear.store import Database, RecordingRecord, UnitOfWork
from eager_ear.store.repositories.recordings import CHUNK_BYTES
from eager_ear.web.schemas.jobs import RecordingOut
from eager_ear.web.state import State
from eager_ear.web.uploads import streamed_body

router = APIRouter(prefix="/api", tags=["recordings"])
TYPES = {".wav": "audio/wav", ".flac": "audio/flac", ".csv": "text/csv; charset=utf-8"}
BODY = {"requestBody": {"content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}}}}


@router.post("/jobs/{job_id}/recordings", status_code=201, openapi_extra=BODY)
async def add(
    job_id: int,
    request: Request,
    state: State,
    name: str = Query(min_length=1, max_length=150),
    kind: str = Query(),
    test: str = "spin",
    run: str | None = None,
    position: str | None = None,
    load: str | None = None,
    start_s: float = 0.0,
    power_cut_s: float | None = None,
) -> RecordingOut:
    """Add a recording; the body is the file itself. It is checked before anything is stored."""
    facts = RecordingFacts(
        name=name, kind=kind, test=test, run=run, position=position, load=load, start_s=start_s, power_cut_s=power_cut_s
    )
    await run_in_threadpool(_require_job, state.database, job_id)
    async with streamed_body(request, name=name, limit_bytes=state.upload_limit_bytes) as path:
        record = await run_in_threadpool(
            lambda: add_recording(
                state.database,
                job_id=job_id,
                path=path,
                entry=RecordingEntry(facts=facts, file=name),
                knowledge=state.knowledge,
            )
        )
    return RecordingOut.of(record)


def _require_job(database: Database, job_id: int) -> None:
    with UnitOfWork(database) as work:
        work.jobs.get(job_id)


@router.delete("/recordings/{recording_id}", status_code=204)
def remove(recording_id: int, state: State) -> None:
    """Remove a recording and analyse what remains."""
    remove_recording(state.database, recording_id=recording_id, knowledge=state.knowledge)


@router.get("/recordings/{recording_id}/file", response_class=StreamingResponse)
def download(
    recording_id: int, state: State, range_: str | None = Header(default=None, alias="Range")
) -> StreamingResponse:
    """The file as it was recorded, whole or the range asked for."""
    with UnitOfWork(state.database) as work:
        record = work.recordings.get(recording_id)
    first, last = _range(range_, record.size_bytes)
    headers = {
        "Accept-Ranges": "bytes",
        "Content-Length": str(last - first + 1),
        "Content-Disposition": f"inline; filename*=UTF-8''{quote(record.facts.name)}",
        "ETag": f'"{record.sha256}"',
        "X-Content-Type-Options": "nosniff",
    }
    partial = range_ is not None
    if partial:
        headers["Content-Range"] = f"bytes {first}-{last}/{record.size_bytes}"
    suffix = "." + record.facts.name.rsplit(".", 1)[-1].lower()
    return StreamingResponse(
        _bytes(state.database, record, first, last),
        status_code=206 if partial else 200,
        media_type=TYPES.get(suffix, "application/octet-stream"),
        headers=headers,
    )


def _range(header: str | None, size: int) -> tuple[int, int]:
    """First and last byte of a single range; anything odd means the whole file."""
    match = re.fullmatch(r"bytes=(\d*)-(\d*)", header or "")
    if match is None or size == 0:
        return 0, size - 1
    start, end = match.groups()
    if not start:
        return max(0, size - int(end or 0)), size - 1
    first = min(int(start), size - 1)
    return first, max(first, min(int(end), size - 1) if end else size - 1)


def _bytes(database: Database, record: RecordingRecord, first: int, last: int) -> Iterator[bytes]:
    with UnitOfWork(database) as work:
        position = first // CHUNK_BYTES * CHUNK_BYTES
        for block in work.recordings.chunks(record.id, first=first // CHUNK_BYTES):
            begin, end = max(0, first - position), min(len(block), last + 1 - position)
            if begin < end:
                yield block[begin:end]
            position += len(block)
            if position > last:
                return
