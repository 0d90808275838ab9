"""Word of changes: whoever has a job open is told when it changed, on whichever device."""

from __future__ import annotations

import asyncio
import json
from collections.abc import AsyncIterator
from typing import Any

from fastapi import APIRouter, Request
from fastapi.concurrency import run_in_threadpool
from sse_starlette import EventSourceResponse

from eager_ear.use_cases.diagnosis.measuring import require_job
from eager_ear.web.state import State
from eager_ear.web.watch import Watch

router = APIRouter(prefix="/api", tags=["jobs"])
STREAM: dict[int | str, dict[str, Any]] = {200: {"content": {"text/event-stream": {"schema": {"type": "string"}}}}}


@router.get("/jobs/{job_id}/changes", response_class=EventSourceResponse, responses=STREAM)
async def changes(job_id: str, request: Request, state: State) -> EventSourceResponse:
    """Server-sent events: the job's revision now, and again each time it rises."""
    await run_in_threadpool(require_job, state.database, job_id)
    return EventSourceResponse(_revisions(state.watch, job_id, request), ping=15)


async def _revisions(watch: Watch, job_id: str, request: Request) -> AsyncIterator[dict[str, str]]:
    async with watch.following(job_id) as changed:
        while not await request.is_disconnected():
            try:
                revision = await asyncio.wait_for(changed.get(), timeout=5.0)
            except TimeoutError:
                continue
            yield {"event": "changed", "data": json.dumps({"revision": revision})}
