"""Calls: the newest of a job, and those that somebody stands by."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime
from typing import Any

from sqlalchemy import select, update
from sqlalchemy.orm import Session, undefer

from eager_ear.store.errors import NotFound
from eager_ear.store.records import CallRecord
from eager_ear.store.tables import CallRow


class Calls:
    def __init__(self, session: Session) -> None:
        self._session = session

    def put(
        self,
        job_id: int,
        *,
        newest_id: int | None,
        seq: int,
        code_version: str,
        knowledge_version: str,
        result: Mapping[str, Any],
        now: datetime,
    ) -> int:
        """Keep a call in the place of the job's newest, or beside it where somebody stands by that one."""
        row = self._session.get(CallRow, newest_id) if newest_id is not None else None
        if row is None or row.stood_by:
            row = CallRow(job_id=job_id, stood_by=False)
            self._session.add(row)
        row.seq, row.code_version, row.knowledge_version = seq, code_version, knowledge_version
        row.result, row.curves, row.weighed_at = dict(result), None, now
        self._session.flush()
        return row.id

    def get(self, call_id: int) -> CallRecord:
        """Raises NotFound."""
        row = self._session.get(CallRow, call_id, options=[undefer(CallRow.result), undefer(CallRow.curves)])
        if row is None:
            raise NotFound(kind="call", key=str(call_id))
        return CallRecord(
            id=row.id,
            job_id=row.job_id,
            seq=row.seq,
            code_version=row.code_version,
            knowledge_version=row.knowledge_version,
            result=row.result,
            curves=row.curves,
            weighed_at=row.weighed_at,
        )

    def versions(self, call_id: int) -> tuple[str, str]:
        """Code and knowledge that a call was weighed with."""
        found = self._session.execute(
            select(CallRow.code_version, CallRow.knowledge_version).where(CallRow.id == call_id)
        ).first()
        return (found[0], found[1]) if found is not None else ("", "")

    def stand_by(self, job_id: int, call_id: int) -> None:
        """This call stays as it is, whatever is entered later."""
        self._session.execute(
            update(CallRow).where(CallRow.job_id == job_id, CallRow.id == call_id).values(stood_by=True)
        )
        self._session.expire_all()
