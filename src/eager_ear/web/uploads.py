"""Request bodies streamed to a temporary file, counted as they come, never held whole in memory."""

from __future__ import annotations

import tempfile
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path

from anyio import open_file
from fastapi import Request

from eager_ear.casefile import FileTooLarge


@asynccontextmanager
async def streamed_body(request: Request, *, name: str, limit_bytes: int) -> AsyncIterator[Path]:
    """The body as a file that is removed afterwards.

    Raises
    ------
    FileTooLarge
        More than the limit, announced or sent.
    """
    too_large = FileTooLarge(file=name, reason=f"is larger than the limit of {limit_bytes // 1_000_000} MB.")
    announced = request.headers.get("content-length", "")
    if announced.isdigit() and int(announced) > limit_bytes:
        raise too_large
    with tempfile.TemporaryDirectory(prefix="eager-ear-upload-") as scratch:
        path = Path(scratch) / "body"
        received = 0
        async with await open_file(path, "wb") as sink:
            async for block in request.stream():
                received += len(block)
                if received > limit_bytes:
                    raise too_large
                await sink.write(block)
        yield path
