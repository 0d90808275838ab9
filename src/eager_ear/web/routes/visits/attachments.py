"""Recordings and photos: in pieces that can be resumed, out in ranges.

A PUT carries the whole, or with `Content-Range: bytes first-last/total` a piece; 202 says how much has arrived, 200
that all has. For devices that resume by themselves, HEAD and PATCH speak the open protocol of resumable uploads (tus):
`Upload-Offset` tells how much has arrived, a piece begins there.
"""

from __future__ import annotations

import contextlib
import hashlib
import re
from collections.abc import Iterator
from typing import Annotated, Literal
from urllib.parse import quote

from fastapi import APIRouter, Header, Query, Request, Response
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import StreamingResponse

from eager_ear.casefile import FileProblem, FileTooLarge
from eager_ear.core.errors import BadField
from eager_ear.store import CHUNK_BYTES, AttachmentRecord, Conflict, Database, NotFound, UnitOfWork
from eager_ear.use_cases.visits.bytes_in import (
    MOST_PHOTO_BYTES,
    NotThere,
    Parcel,
    begin,
    is_the_same,
    look_over,
    take_piece,
)
from eager_ear.web.ranges import NoSuchRange, wanted_range
from eager_ear.web.schemas.visits.attachments import ArrivedOut
from eager_ear.web.state import AppState, State

router = APIRouter(prefix="/api", tags=["recordings"])
TYPES = {
    ".wav": "audio/wav",
    ".flac": "audio/flac",
    ".ogg": "audio/ogg",
    ".mp3": "audio/mpeg",
    ".csv": "text/csv; charset=utf-8",
    ".png": "image/png",
    ".webp": "image/webp",
    ".jpg": "image/jpeg",
    ".jpeg": "image/jpeg",
}
BODY = {"requestBody": {"content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}}}}
PIECE = re.compile(r"bytes (\d{1,15})-(\d{1,15})/(\d{1,15})")
PURPOSE_OF = {"recordings": "recording", "photos": "photo"}
TUS = {"Tus-Resumable": "1.0.0"}

What = Literal["recordings", "photos"]
Name = Annotated[str, Query(max_length=200)]


@router.put("/jobs/{job_id}/{what}/{attachment_id}", openapi_extra=BODY, responses={202: {"model": ArrivedOut}})
async def put(
    job_id: str,
    what: What,
    attachment_id: str,
    request: Request,
    response: Response,
    state: State,
    name: Name,
    content_range: Annotated[str | None, Header()] = None,
    content_length: Annotated[int | None, Header()] = None,
) -> ArrivedOut:
    """Bring bytes: the whole, or a piece. The same again changes nothing."""
    first, total = _piece(content_range, content_length)
    parcel = _parcel(state, job_id, what, attachment_id, name, total)
    found = await run_in_threadpool(lambda: begin(state.database, parcel, afresh=content_range is None))
    if found.is_here:
        await _require_the_same(request, found, whole=content_range is None)
        return ArrivedOut.of(found)
    return await _receive(request, response, state, parcel, offset=first)


@router.patch("/jobs/{job_id}/{what}/{attachment_id}", openapi_extra=BODY, status_code=204)
async def patch(
    job_id: str,
    what: What,
    attachment_id: str,
    request: Request,
    response: Response,
    state: State,
    name: Name,
    upload_length: Annotated[int, Header()],
    upload_offset: Annotated[int, Header()],
) -> None:
    """Bring the piece from `Upload-Offset` on, of `Upload-Length` bytes in all."""
    parcel = _parcel(state, job_id, what, attachment_id, name, upload_length)
    found = await run_in_threadpool(lambda: begin(state.database, parcel, afresh=False))
    if not found.is_here:
        await _receive(request, response, state, parcel, offset=upload_offset)
        found = await run_in_threadpool(lambda: begin(state.database, parcel, afresh=False))
    response.headers.update({**TUS, "Upload-Offset": str(found.received_bytes if not found.is_here else upload_length)})
    response.status_code = 204


@router.head("/jobs/{job_id}/{what}/{attachment_id}")
async def head(
    job_id: str,
    what: What,
    attachment_id: str,
    state: State,
    upload_length: Annotated[int | None, Header()] = None,
) -> Response:
    """How much has arrived, in `Upload-Offset`."""

    def so_far() -> AttachmentRecord | None:
        with UnitOfWork(state.database) as work:
            job = work.jobs.get(job_id)
            found = work.attachments.find(attachment_id)
        if found is not None and (found.job_id, found.purpose) != (job.id, PURPOSE_OF[what]):
            raise Conflict(message="This id belongs to something else.")
        return found

    found = await run_in_threadpool(so_far)
    if found is not None and not found.is_here and found.received_bytes == found.total_bytes:
        # It came whole, and nobody was left to look it over: what is of no use comes again, to be told so.
        async with state.looking:
            with contextlib.suppress(FileProblem, NotFound):
                await run_in_threadpool(look_over, state.database, attachment_id)
        found = await run_in_threadpool(so_far)
    total = found.total_bytes if found is not None else (upload_length or 0)
    offset = 0 if found is None else total if found.is_here else found.received_bytes
    headers = {**TUS, "Upload-Offset": str(offset), "Upload-Length": str(total), "Cache-Control": "no-store"}
    return Response(status_code=200, headers=headers)


@router.get("/jobs/{job_id}/{what}/{attachment_id}", response_class=StreamingResponse, responses={206: {}, 416: {}})
def get(
    job_id: str,
    what: What,
    attachment_id: str,
    state: State,
    small: bool = False,
    range_: Annotated[str | None, Header(alias="Range")] = None,
) -> Response:
    """The bytes, whole or the range asked for; of a photo the small copy where that is wanted."""
    with UnitOfWork(state.database) as work:
        found = work.attachments.get(attachment_id, job_id=work.jobs.get(job_id).id)
        if found.purpose != PURPOSE_OF[what]:
            raise NotFound(kind=PURPOSE_OF[what], key=attachment_id)
        file_id = found.small_file_id if small and found.small_file_id is not None else found.file_id
        file = work.files.get(file_id)
    headers = {
        "Accept-Ranges": "bytes",
        "Content-Disposition": f"inline; filename*=UTF-8''{quote(found.name)}",
        "ETag": f'"{file.sha256}"',
        "Cache-Control": "private, max-age=31536000, immutable",
    }
    try:
        span = wanted_range(range_, size=file.size_bytes)
    except NoSuchRange:
        return Response(status_code=416, headers={"Content-Range": f"bytes */{file.size_bytes}"})
    first, last = span if span is not None else (0, file.size_bytes - 1)
    headers["Content-Length"] = str(last - first + 1)
    if span is not None:
        headers["Content-Range"] = f"bytes {first}-{last}/{file.size_bytes}"
    suffix = "." + found.name.rsplit(".", 1)[-1].lower()
    return StreamingResponse(
        _bytes(state.database, file_id, first, last),
        status_code=206 if span is not None else 200,
        media_type=TYPES.get(suffix, "application/octet-stream"),
        headers=headers,
    )


def _bytes(database: Database, file_id: int, first: int, last: int) -> Iterator[bytes]:
    """A stretch of a file; a connection is held for one chunk at a time, however slowly it is read."""
    position = first
    while position <= last:
        with UnitOfWork(database) as work:
            found = work.files.chunk_at(file_id, position)
        if found is None:
            return
        start, content = found
        stop = min(len(content), last + 1 - start)
        yield content[position - start : stop]
        position = start + stop


def _parcel(state: AppState, job_id: str, what: str, attachment_id: str, name: str, total: int) -> Parcel:
    limit = state.upload_limit_bytes if what == "recordings" else min(MOST_PHOTO_BYTES, state.upload_limit_bytes)
    if total > limit:
        raise FileTooLarge(file=name, reason=f"is larger than the limit of {limit // 1_000_000} MB.")
    if total <= 0:
        raise BadField(field=name[:80] or "file", reason="is empty.")
    state.room.require(total)
    return Parcel(job_uuid=job_id, uuid=attachment_id, purpose=PURPOSE_OF[what], name=name, total_bytes=total)


def _piece(content_range: str | None, content_length: int | None) -> tuple[int, int]:
    """Where a piece begins and how much there is in all. Raises BadField."""
    if content_range is None:
        if content_length is None:
            raise BadField(field="Content-Length", reason="has to say how much is coming.")
        return 0, content_length
    match = PIECE.fullmatch(content_range)
    if match is None:
        raise BadField(field="Content-Range", reason=f"“{content_range[:60]}” is not “bytes first-last/total”.")
    first, last, total = (int(group) for group in match.groups())
    if not first <= last < total or (content_length is not None and content_length != last - first + 1):
        raise BadField(field="Content-Range", reason="does not fit what is coming.")
    return first, total


async def _require_the_same(request: Request, found: AttachmentRecord, *, whole: bool) -> None:
    """What comes again is read to its end; where it is whole and something else, that is said. Raises Conflict."""
    digest = hashlib.sha256()
    received = 0
    async for block in request.stream():
        received += len(block)
        if received > found.total_bytes:
            raise Conflict(message="Other bytes were sent under this id before.")
        digest.update(block)
    if whole and not is_the_same(found, digest.hexdigest()):
        raise Conflict(message="Other bytes were sent under this id before.")


async def _receive(request: Request, response: Response, state: AppState, parcel: Parcel, *, offset: int) -> ArrivedOut:
    """Keep what comes, chunk by chunk; look it over when it is whole."""
    with UnitOfWork(state.database) as work:
        arrived = work.attachments.get(parcel.uuid).received_bytes
    if arrived != offset:
        raise NotThere(received_bytes=arrived)
    waiting = bytearray()
    async for block in request.stream():
        waiting += block
        if offset + len(waiting) > parcel.total_bytes:
            raise BadField(field="size", reason=f"more than the {parcel.total_bytes} bytes announced have come.")
        while len(waiting) >= CHUNK_BYTES:
            chunk, waiting = bytes(waiting[:CHUNK_BYTES]), waiting[CHUNK_BYTES:]
            offset = await run_in_threadpool(take_piece, state.database, parcel.uuid, offset=offset, content=chunk)
    if waiting:
        offset = await run_in_threadpool(take_piece, state.database, parcel.uuid, offset=offset, content=bytes(waiting))
    if offset < parcel.total_bytes:
        response.status_code = 202
        with UnitOfWork(state.database) as work:
            return ArrivedOut.of(work.attachments.get(parcel.uuid))
    # Reading a file through takes memory and time: the others wait their turn.
    async with state.looking:
        return ArrivedOut.of(await run_in_threadpool(look_over, state.database, parcel.uuid))
