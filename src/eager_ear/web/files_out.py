"""Files that are made when they are asked for, sent as they are read and closed after."""

from __future__ import annotations

from collections.abc import Iterator
from typing import IO, Any
from urllib.parse import quote

from fastapi.responses import StreamingResponse

ZIP: dict[int | str, dict[str, Any]] = {
    200: {"content": {"application/zip": {"schema": {"type": "string", "format": "binary"}}}}
}


def zip_answer(file: IO[bytes], *, name: str) -> StreamingResponse:
    """The whole file, written up to where it stands; it is closed once it was sent."""
    size = file.tell()
    file.seek(0)
    headers = {"Content-Disposition": f"attachment; filename*=UTF-8''{quote(name)}", "Content-Length": str(size)}
    return StreamingResponse(_blocks(file), media_type="application/zip", headers=headers)


def _blocks(file: IO[bytes]) -> Iterator[bytes]:
    with file:
        while block := file.read(1 << 20):
            yield block
