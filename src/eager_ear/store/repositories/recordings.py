"""Recordings: facts in one row, bytes in chunks with a checksum over all."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from datetime import datetime
from typing import IO

from sqlalchemy import delete, insert, select
from sqlalchemy.orm import Session

from eager_ear.core.case import RecordingFacts
from eager_ear.store.errors import NotFound, StoreError
from eager_ear.store.records import RecordingRecord
from eager_ear.store.tables import ChunkRow, RecordingRow

CHUNK_BYTES = 1 << 20
FACTS = ("name", "kind", "test", "run", "position", "load", "start_s", "power_cut_s")


class Recordings:
    def __init__(self, session: Session) -> None:
        self._session = session

    def add(
        self,
        *,
        job_id: int,
        facts: RecordingFacts,
        pa_per_fs: float | None,
        source: IO[bytes],
        duration_s: float,
        rate_hz: float | None,
        now: datetime,
    ) -> RecordingRecord:
        """Store a recording; one of the same name in the job is replaced."""
        self._session.execute(
            delete(RecordingRow).where(RecordingRow.job_id == job_id, RecordingRow.name == facts.name)
        )
        row = RecordingRow(
            job_id=job_id,
            **{name: getattr(facts, name) for name in FACTS},
            pa_per_fs=pa_per_fs,
            size_bytes=0,
            sha256="",
            duration_s=duration_s,
            rate_hz=rate_hz,
            created_at=now,
        )
        self._session.add(row)
        self._session.flush()
        digest = hashlib.sha256()
        size = 0
        number = 0
        while block := source.read(CHUNK_BYTES):
            self._session.execute(insert(ChunkRow).values(recording_id=row.id, number=number, content=block))
            digest.update(block)
            size += len(block)
            number += 1
        row.size_bytes = size
        row.sha256 = digest.hexdigest()
        self._session.flush()
        return _record(row)

    def get(self, recording_id: int) -> RecordingRecord:
        """Raises NotFound."""
        row = self._session.get(RecordingRow, recording_id)
        if row is None:
            raise NotFound(kind="recording", key=str(recording_id))
        return _record(row)

    def of_job(self, job_id: int) -> list[RecordingRecord]:
        rows = self._session.scalars(
            select(RecordingRow).where(RecordingRow.job_id == job_id).order_by(RecordingRow.id)
        )
        return [_record(row) for row in rows]

    def remove(self, recording_id: int) -> RecordingRecord:
        """Raises NotFound."""
        record = self.get(recording_id)
        self._session.execute(delete(RecordingRow).where(RecordingRow.id == recording_id))
        return record

    def chunks(self, recording_id: int, *, first: int = 0) -> Iterator[bytes]:
        """The bytes from that chunk on, one chunk at a time."""
        number = first
        while True:
            content = self._session.scalar(
                select(ChunkRow.content).where(ChunkRow.recording_id == recording_id, ChunkRow.number == number)
            )
            if content is None:
                return
            yield content
            number += 1

    def copy_to(self, record: RecordingRecord, sink: IO[bytes]) -> None:
        """Write all bytes to `sink`, checked against the checksum. Raises StoreError."""
        digest = hashlib.sha256()
        for block in self.chunks(record.id):
            digest.update(block)
            sink.write(block)
        if digest.hexdigest() != record.sha256:
            raise StoreError(message=f"The stored recording {record.facts.name} does not match its checksum.")


def _record(row: RecordingRow) -> RecordingRecord:
    return RecordingRecord(
        id=row.id,
        job_id=row.job_id,
        facts=RecordingFacts(**{name: getattr(row, name) for name in FACTS}),
        pa_per_fs=row.pa_per_fs,
        size_bytes=row.size_bytes,
        sha256=row.sha256,
        duration_s=row.duration_s,
        rate_hz=row.rate_hz,
        created_at=row.created_at,
    )
