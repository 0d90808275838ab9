"""One look at the database for all who wait for changes: how often each job that somebody has open was changed."""

from __future__ import annotations

import asyncio
import contextlib
import logging
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager

from fastapi.concurrency import run_in_threadpool

from eager_ear.store import Database, StoreError, UnitOfWork

LOOK_S = 0.4
logger = logging.getLogger("eager_ear.watch")

Revisions = asyncio.Queue[int]


class Watch:
    """Looks only while somebody waits. Begun and ended by the application."""

    def __init__(self, database: Database) -> None:
        self._database = database
        self._waiting: dict[str, set[Revisions]] = {}
        self._seen: dict[str, int] = {}
        self._task: asyncio.Task[None] | None = None

    @asynccontextmanager
    async def following(self, job_uuid: str) -> AsyncIterator[Revisions]:
        """A queue that gets the job's revision now and after each change."""
        queue: Revisions = asyncio.Queue()
        self._waiting.setdefault(job_uuid, set()).add(queue)
        # Whoever comes new is told what is so now.
        self._seen.pop(job_uuid, None)
        if self._task is None or self._task.done():
            self._task = asyncio.create_task(self._look())
        try:
            yield queue
        finally:
            self._waiting[job_uuid].discard(queue)
            if not self._waiting[job_uuid]:
                del self._waiting[job_uuid]
                self._seen.pop(job_uuid, None)

    async def close(self) -> None:
        if self._task is not None:
            self._task.cancel()
            with contextlib.suppress(asyncio.CancelledError):
                await self._task

    async def _look(self) -> None:
        while self._waiting:
            try:
                found = await run_in_threadpool(self._revisions, list(self._waiting))
            except StoreError as exc:
                logger.warning("%s", exc.sentence())
                found = {}
            for uuid, revision in found.items():
                if self._seen.get(uuid) != revision:
                    self._seen[uuid] = revision
                    for queue in self._waiting.get(uuid, ()):
                        queue.put_nowait(revision)
            await asyncio.sleep(LOOK_S)

    def _revisions(self, uuids: list[str]) -> dict[str, int]:
        with UnitOfWork(self._database) as work:
            return work.jobs.revisions(uuids)
