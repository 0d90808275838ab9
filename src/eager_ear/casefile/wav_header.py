"""WAV files whose header does not know how long they are: recorders that were cut off leave zero, or all ones.

The sizes are mended as the file is read; the file itself is never touched.
"""

from __future__ import annotations

import io
import struct
from pathlib import Path

MOST_CHUNKS = 200
HEADER_WITHIN = 1 << 16
LARGEST = 0xFFFFFFFE


class _Mended(io.RawIOBase):
    """A file whose first bytes are read from elsewhere."""

    def __init__(self, path: Path, head: bytes) -> None:
        super().__init__()
        self._file = path.open("rb")
        self._head = head

    def readable(self) -> bool:
        return True

    def seekable(self) -> bool:
        return True

    def seek(self, offset: int, whence: int = io.SEEK_SET) -> int:
        return self._file.seek(offset, whence)

    def tell(self) -> int:
        return self._file.tell()

    def readinto(self, buffer: bytearray | memoryview) -> int:  # type: ignore[override]
        position = self._file.tell()
        block = bytearray(self._file.read(len(buffer)))
        mended = self._head[position : position + len(block)]
        block[: len(mended)] = mended
        buffer[: len(block)] = block
        return len(block)

    def close(self) -> None:
        self._file.close()
        super().close()


def repaired(path: Path) -> Path | io.RawIOBase:
    """The file itself, or where its header announces nothing or more than there is, one that says what there is."""
    size = path.stat().st_size
    with path.open("rb") as file:
        head = bytearray(file.read(HEADER_WITHIN))
    if head[:4] != b"RIFF" or head[8:12] != b"WAVE":
        return path
    position = 12
    for _ in range(MOST_CHUNKS):
        if position + 8 > len(head):
            return path
        kind, length = struct.unpack_from("<4sI", head, position)
        if kind == b"data":
            there = size - position - 8
            if 0 < length <= there or there <= 0:
                return path
            struct.pack_into("<I", head, position + 4, min(there, LARGEST))
            struct.pack_into("<I", head, 4, min(size - 8, LARGEST))
            return _Mended(path, bytes(head))
        position += 8 + length + (length & 1)
    return path
