"""Recordings and photos as devices send them: under an id of their own, complete or still arriving."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime
from typing import Any, TypeVar

from sqlalchemy import Select, delete, select
from sqlalchemy.orm import Session

from eager_ear.store.errors import NotFound
from eager_ear.store.records import AttachmentRecord
from eager_ear.store.tables import AttachmentRow, FileRow, may_be_id

T = TypeVar("T")


class Attachments:
    def __init__(self, session: Session) -> None:
        self._session = session

    def add(
        self,
        *,
        uuid: str,
        job_id: int,
        purpose: str,
        name: str,
        total_bytes: int,
        file_id: int,
        now: datetime,
        facts: Mapping[str, Any] | None = None,
    ) -> AttachmentRecord:
        """Raises Conflict when the id is taken."""
        self._session.add(
            AttachmentRow(
                id=uuid,
                job_id=job_id,
                purpose=purpose,
                name=name,
                total_bytes=total_bytes,
                file_id=file_id,
                facts=dict(facts) if facts is not None else None,
                created_at=now,
            )
        )
        self._session.flush()
        return self.get(uuid)

    def find(self, uuid: str) -> AttachmentRecord | None:
        if not may_be_id(uuid):
            return None
        found = self._session.execute(_with_file().where(AttachmentRow.id == uuid)).first()
        return _record(found[0], found[1]) if found is not None else None

    def get(self, uuid: str, *, job_id: int | None = None) -> AttachmentRecord:
        """Raises NotFound, also where it belongs to another job."""
        found = self.find(uuid)
        if found is None or job_id not in (None, found.job_id):
            raise NotFound(kind="recording or photo", key=uuid)
        return found

    def of_job(self, job_id: int) -> dict[str, AttachmentRecord]:
        # Two reads: joined, the database may begin at the files and read all that stands for one of them.
        rows = self._fresh(select(AttachmentRow).where(AttachmentRow.job_id == job_id))
        files = {
            file.id: file for file in self._fresh(select(FileRow).where(FileRow.id.in_({r.file_id for r in rows})))
        }
        return {row.id: _record(row, files[row.file_id]) for row in rows}

    def _fresh(self, wanted: Select[T]) -> list[T]:
        return list(self._session.scalars(wanted.execution_options(populate_existing=True)))

    def never_came(self, *, before: datetime, limit: int = 100) -> list[AttachmentRecord]:
        """Those whose bytes did not arrive whole and that were begun before then, the oldest first."""
        rows = self._session.execute(
            _with_file()
            .where(FileRow.sha256.is_(None), AttachmentRow.created_at < before)
            .order_by(AttachmentRow.created_at)
            .limit(limit)
        )
        return [_record(row, file) for row, file in rows]

    def checked(self, uuid: str, *, facts: Mapping[str, Any], small_file_id: int | None = None) -> None:
        """What was read off the bytes, now that they are complete."""
        row = self._session.get(AttachmentRow, uuid)
        if row is None:
            raise NotFound(kind="recording or photo", key=uuid)
        row.facts, row.small_file_id = dict(facts), small_file_id
        self._session.flush()

    def points_to(self, uuid: str, file_id: int) -> None:
        """Let it stand for another file."""
        row = self._session.get(AttachmentRow, uuid)
        if row is None:
            raise NotFound(kind="recording or photo", key=uuid)
        row.file_id = file_id
        self._session.flush()

    def forget(self, uuid: str) -> None:
        self._session.execute(delete(AttachmentRow).where(AttachmentRow.id == uuid))


def _with_file() -> Select[AttachmentRow, FileRow]:
    return (
        select(AttachmentRow, FileRow)
        .join(FileRow, FileRow.id == AttachmentRow.file_id)
        .execution_options(populate_existing=True)
    )


def _record(row: AttachmentRow, file: FileRow) -> AttachmentRecord:
    return AttachmentRecord(
        id=row.id,
        job_id=row.job_id,
        purpose=row.purpose,
        name=row.name,
        total_bytes=row.total_bytes,
        received_bytes=file.size_bytes,
        file_id=row.file_id,
        sha256=file.sha256,
        small_file_id=row.small_file_id,
        facts=row.facts,
        created_at=row.created_at,
    )
