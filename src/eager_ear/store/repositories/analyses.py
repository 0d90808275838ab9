"""Analyses: queued, claimed under a lease, finished. A claim whose lease has run out is free again."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime, timedelta
from typing import Any

from sqlalchemy import and_, func, or_, select, update
from sqlalchemy.orm import Session, undefer

from eager_ear.store.errors import NotFound
from eager_ear.store.records import AnalysisRecord, AnalysisState, AnalysisSummary
from eager_ear.store.tables import AnalysisRow

LEASE = timedelta(seconds=8)
MOST_ATTEMPTS = 3


class Analyses:
    def __init__(self, session: Session) -> None:
        self._session = session

    def queue(self, job_id: int, *, code_version: str, knowledge_version: str, now: datetime) -> AnalysisSummary:
        """Queue an analysis of the job's present evidence; older unfinished ones of the job are cancelled."""
        self._session.execute(
            update(AnalysisRow)
            .where(AnalysisRow.job_id == job_id, AnalysisRow.state.in_(("queued", "running")))
            .values(state=AnalysisState.CANCELLED.value, finished_at=now)
        )
        row = AnalysisRow(
            job_id=job_id,
            state=AnalysisState.QUEUED.value,
            attempts=0,
            code_version=code_version,
            knowledge_version=knowledge_version,
            queued_at=now,
        )
        self._session.add(row)
        self._session.flush()
        return _summary(row)

    def claim(self, *, now: datetime) -> AnalysisSummary | None:
        """Take the oldest waiting analysis, or one whose worker died; gives up on one that killed three workers."""
        waiting = or_(
            AnalysisRow.state == AnalysisState.QUEUED.value,
            and_(AnalysisRow.state == AnalysisState.RUNNING.value, AnalysisRow.lease_until < now),
        )
        row = self._session.scalar(
            select(AnalysisRow).where(waiting).order_by(AnalysisRow.id).limit(1).with_for_update(skip_locked=True)
        )
        if row is None:
            return None
        if row.attempts >= MOST_ATTEMPTS:
            row.state = AnalysisState.FAILED.value
            row.error = "The analysis stopped three times without a result. The recordings are kept."
            row.finished_at = now
            self._session.flush()
            return None
        row.state = AnalysisState.RUNNING.value
        row.attempts += 1
        row.stage = None
        row.lease_until = now + LEASE
        self._session.flush()
        return _summary(row)

    def keep(self, analysis_id: int, *, stage: str | None, now: datetime) -> bool:
        """Renew the lease and tell the stage; False when the analysis was cancelled meanwhile."""
        values: dict[str, Any] = {"lease_until": now + LEASE}
        if stage is not None:
            values["stage"] = stage
        self._session.execute(
            update(AnalysisRow)
            .where(AnalysisRow.id == analysis_id, AnalysisRow.state == AnalysisState.RUNNING.value)
            .values(**values)
        )
        state = self._session.scalar(select(AnalysisRow.state).where(AnalysisRow.id == analysis_id))
        return state == AnalysisState.RUNNING.value

    def finish(self, analysis_id: int, *, result: dict[str, Any], curves: dict[str, Any], now: datetime) -> None:
        """Store the result unless the analysis was cancelled meanwhile."""
        leader = result["suspects"][0]
        self._end(
            analysis_id,
            state=AnalysisState.DONE,
            now=now,
            result=result,
            curves=curves,
            headline=result["headline"],
            advice=result["advice"],
            leader=leader["fault"],
            leader_probability=leader["probability"],
        )

    def fail(self, analysis_id: int, *, error: str, now: datetime) -> None:
        self._end(analysis_id, state=AnalysisState.FAILED, now=now, error=error)

    def cancel(self, analysis_id: int, *, now: datetime) -> None:
        self._session.execute(
            update(AnalysisRow)
            .where(AnalysisRow.id == analysis_id, AnalysisRow.state.in_(("queued", "running")))
            .values(state=AnalysisState.CANCELLED.value, finished_at=now)
        )

    def _end(self, analysis_id: int, *, state: AnalysisState, now: datetime, **values: Any) -> None:
        row = self._session.get(AnalysisRow, analysis_id, with_for_update=True)
        if row is None or row.state != AnalysisState.RUNNING.value:
            return
        row.state, row.finished_at, row.lease_until = state.value, now, None
        for name, value in values.items():
            setattr(row, name, value)
        self._session.flush()

    def get(self, analysis_id: int) -> AnalysisSummary:
        """Raises NotFound."""
        row = self._session.get(AnalysisRow, analysis_id)
        if row is None:
            raise NotFound(kind="analysis", key=str(analysis_id))
        return _summary(row)

    def newest(self, job_id: int) -> AnalysisSummary | None:
        row = self._session.scalar(_of_job(job_id).limit(1))
        return _summary(row) if row is not None else None

    def newest_done(self, job_id: int) -> AnalysisRecord | None:
        """The newest finished analysis with its result."""
        row = self._session.scalar(
            _of_job(job_id)
            .where(AnalysisRow.state == AnalysisState.DONE.value)
            .limit(1)
            .options(undefer(AnalysisRow.result), undefer(AnalysisRow.curves))
        )
        return AnalysisRecord(summary=_summary(row), result=row.result, curves=row.curves) if row is not None else None

    def newest_of_jobs(self, job_ids: Sequence[int], *, done: bool = False) -> dict[int, AnalysisSummary]:
        """Newest (finished) analysis of each job."""
        newest = select(func.max(AnalysisRow.id)).where(AnalysisRow.job_id.in_(job_ids)).group_by(AnalysisRow.job_id)
        if done:
            newest = newest.where(AnalysisRow.state == AnalysisState.DONE.value)
        rows = self._session.scalars(select(AnalysisRow).where(AnalysisRow.id.in_(newest)))
        return {row.job_id: _summary(row) for row in rows}

    def curves(self, analysis_ids: Sequence[int]) -> dict[int, Mapping[str, Any]]:
        """The stored curves of finished analyses, by the analysis."""
        rows = self._session.execute(select(AnalysisRow.id, AnalysisRow.curves).where(AnalysisRow.id.in_(analysis_ids)))
        return {found: curves for found, curves in rows if curves is not None}

    def unfinished(self) -> int:
        """How many are queued or running."""
        count = select(func.count()).select_from(AnalysisRow).where(AnalysisRow.state.in_(("queued", "running")))
        return int(self._session.scalar(count) or 0)


def _of_job(job_id: int) -> Any:
    return select(AnalysisRow).where(AnalysisRow.job_id == job_id).order_by(AnalysisRow.id.desc())


def _summary(row: AnalysisRow) -> AnalysisSummary:
    return AnalysisSummary(
        id=row.id,
        job_id=row.job_id,
        state=AnalysisState(row.state),
        stage=row.stage,
        error=row.error,
        headline=row.headline,
        advice=row.advice,
        leader=row.leader,
        leader_probability=row.leader_probability,
        code_version=row.code_version,
        knowledge_version=row.knowledge_version,
        queued_at=row.queued_at,
        finished_at=row.finished_at,
    )
