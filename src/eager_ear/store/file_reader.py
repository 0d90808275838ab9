"""A stored file as a seekable stream: only chunks that are read are fetched, no connection is held meanwhile."""

from __future__ import annotations

import io

from eager_ear.store.database import Database
from eager_ear.store.unit_of_work import UnitOfWork


class FileReader(io.RawIOBase):
    """Reads a complete file from the store, a chunk at a time. Raises Damaged where bytes were changed."""

    def __init__(self, database: Database, file_id: int, *, size_bytes: int) -> None:
        super().__init__()
        self._database = database
        self._file_id = file_id
        self._size = size_bytes
        self._position = 0
        self._start = 0
        self._chunk = b""

    def readable(self) -> bool:
        return True

    def seekable(self) -> bool:
        return True

    def tell(self) -> int:
        return self._position

    def seek(self, offset: int, whence: int = io.SEEK_SET) -> int:
        base = {io.SEEK_SET: 0, io.SEEK_CUR: self._position, io.SEEK_END: self._size}[whence]
        self._position = max(0, base + offset)
        return self._position

    def readinto(self, buffer: bytearray | memoryview) -> int:  # type: ignore[override]
        """Fill the buffer, over as many chunks as it takes: who decodes sound takes a short read for the end."""
        filled = 0
        while filled < len(buffer):
            piece = self._piece(len(buffer) - filled)
            if not piece:
                break
            buffer[filled : filled + len(piece)] = piece
            filled += len(piece)
            self._position += len(piece)
        return filled

    def _piece(self, most: int) -> bytes:
        """What the present chunk holds from here on; nothing behind the end."""
        if not self._start <= self._position < self._start + len(self._chunk):
            with UnitOfWork(self._database) as work:
                found = work.files.chunk_at(self._file_id, self._position)
            if found is None:
                return b""
            self._start, self._chunk = found
        return self._chunk[self._position - self._start :][:most]
