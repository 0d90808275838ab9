"""Bytes: taken piece by piece, kept once for each content, read back a stretch at a time and held against checksums."""

from __future__ import annotations

import hashlib
import zlib
from collections.abc import Iterator
from datetime import datetime
from typing import IO

from sqlalchemy import delete, func, insert, select
from sqlalchemy.orm import Session

from eager_ear.store.errors import Damaged, NotFound
from eager_ear.store.records import FileRecord
from eager_ear.store.tables import AttachmentRow, ChunkRow, FileRow

CHUNK_BYTES = 1 << 20


class Files:
    def __init__(self, session: Session) -> None:
        self._session = session

    def begin(self, *, now: datetime) -> int:
        """A file whose bytes are still to come; returns its id."""
        row = FileRow(sha256=None, size_bytes=0, begun_at=now)
        self._session.add(row)
        self._session.flush()
        return row.id

    def append(self, file_id: int, content: bytes) -> int:
        """Add bytes to a file that is still arriving; returns its size then."""
        row = self._row(file_id)
        for first in range(0, len(content), CHUNK_BYTES):
            chunk = content[first : first + CHUNK_BYTES]
            self._session.execute(
                insert(ChunkRow).values(
                    file_id=file_id, start=row.size_bytes + first, crc32=zlib.crc32(chunk), content=chunk
                )
            )
        row.size_bytes += len(content)
        self._session.flush()
        return row.size_bytes

    def finish(self, file_id: int) -> FileRecord:
        """All bytes are there. Where the same content is kept already, that is handed out and these bytes go."""
        digest = hashlib.sha256()
        for block in self.read(file_id):
            digest.update(block)
        row = self._row(file_id)
        known = self._session.scalar(select(FileRow).where(FileRow.sha256 == digest.hexdigest()))
        if known is not None:
            self._session.execute(
                AttachmentRow.__table__.update()  # type: ignore[attr-defined]
                .where(AttachmentRow.file_id == file_id)
                .values(file_id=known.id)
            )
            self._session.expire_all()
            self.forget(file_id)
            return _record(known)
        row.sha256 = digest.hexdigest()
        self._session.flush()
        return _record(row)

    def keep(self, source: IO[bytes], *, now: datetime) -> FileRecord:
        """Keep everything that can be read from `source`."""
        file_id = self.begin(now=now)
        while block := source.read(CHUNK_BYTES):
            self.append(file_id, block)
        return self.finish(file_id)

    def get(self, file_id: int) -> FileRecord:
        """Raises NotFound, also for one that is still arriving."""
        row = self._row(file_id)
        if row.sha256 is None:
            raise NotFound(kind="complete file", key=str(file_id))
        return _record(row)

    def by_content(self, sha256: str) -> FileRecord:
        """Raises NotFound."""
        row = self._session.scalar(select(FileRow).where(FileRow.sha256 == sha256))
        if row is None:
            raise NotFound(kind="file with the checksum", key=sha256)
        return _record(row)

    def size(self, file_id: int) -> int:
        return self._row(file_id).size_bytes

    def forget(self, file_id: int) -> None:
        self._session.execute(delete(ChunkRow).where(ChunkRow.file_id == file_id))
        self._session.execute(delete(FileRow).where(FileRow.id == file_id))

    def forget_unused(self, file_id: int) -> None:
        """Take the bytes out unless something still stands for them."""
        used = select(func.count()).where((AttachmentRow.file_id == file_id) | (AttachmentRow.small_file_id == file_id))
        if not self._session.scalar(used):
            self.forget(file_id)

    def chunk_at(self, file_id: int, position: int) -> tuple[int, bytes] | None:
        """The chunk that holds a position and where it starts; None behind the end. Raises Damaged."""
        row = self._session.execute(
            select(ChunkRow.start, ChunkRow.crc32, ChunkRow.content)
            .where(ChunkRow.file_id == file_id, ChunkRow.start <= position)
            .order_by(ChunkRow.start.desc())
            .limit(1)
        ).first()
        if row is None or position >= row.start + len(row.content):
            return None
        if zlib.crc32(row.content) != row.crc32:
            raise Damaged(file_id=file_id)
        return row.start, row.content

    def read(self, file_id: int, *, first: int = 0, last: int | None = None) -> Iterator[bytes]:
        """The bytes from `first` to `last`, a chunk at a time. Raises Damaged."""
        position = first
        while last is None or position <= last:
            found = self.chunk_at(file_id, position)
            if found is None:
                return
            start, content = found
            stop = len(content) if last is None else min(len(content), last + 1 - start)
            yield content[position - start : stop]
            position = start + stop

    def copy_to(self, file_id: int, sink: IO[bytes]) -> None:
        """Write all bytes to `sink`. Raises Damaged."""
        for block in self.read(file_id):
            sink.write(block)

    def _row(self, file_id: int) -> FileRow:
        row = self._session.get(FileRow, file_id)
        if row is None:
            raise NotFound(kind="file", key=str(file_id))
        return row


def _record(row: FileRow) -> FileRecord:
    return FileRecord(id=row.id, sha256=row.sha256 or "", size_bytes=row.size_bytes)
