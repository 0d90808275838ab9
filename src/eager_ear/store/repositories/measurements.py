"""Measurements: queued, claimed under a lease, finished. A claim whose lease has run out is free again."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import and_, delete, func, or_, select, text, update
from sqlalchemy.orm import Session

from eager_ear.store.errors import NotFound
from eager_ear.store.records import MeasurementRecord, MeasuringState
from eager_ear.store.tables import JobMeasurementRow, JobRow, MeasurementRow

LEASE_S = 8
# By the database's clock, which all workers share.
NOW_SQL = "UTC_TIMESTAMP(6)"
NOW = text(NOW_SQL)
UNTIL = text(f"{NOW_SQL} + INTERVAL {LEASE_S} SECOND")
TOO_LATE = text(f"{NOW_SQL} + INTERVAL {2 * LEASE_S} SECOND")
MOST_ATTEMPTS = 3
UNFINISHED = (MeasuringState.QUEUED.value, MeasuringState.RUNNING.value)


@dataclass(frozen=True, kw_only=True)
class Need:
    """A run of recordings that is to be measured: how the job names it, and what it holds."""

    run: str
    content: str
    request: Mapping[str, Any]


class Measurements:
    def __init__(self, session: Session) -> None:
        self._session = session

    def need(self, job_id: int, needs: Sequence[Need], *, code_version: str, now: datetime) -> None:
        """Say what a job's recordings want measured. What was measured of the same content, by whichever version,
        counts; what nobody measured is queued; what is no longer wanted and not begun is taken off the queue."""
        before = dict(self._of_job(job_id))
        wanted = {need.run: need for need in needs}
        for run, found in before.items():
            if run not in wanted or found.content != wanted[run].content:
                self._session.execute(
                    delete(JobMeasurementRow).where(JobMeasurementRow.job_id == job_id, JobMeasurementRow.run == run)
                )
                self._drop_if_unwanted(found)
        for run, need in wanted.items():
            if run in before and before[run].content == need.content:
                continue
            row = self._known(need.content, code_version) or self._queue(need, code_version, now)
            self._session.add(JobMeasurementRow(job_id=job_id, run=run, measurement_id=row.id, is_lead=False))
        self._session.flush()

    def again(self, job_id: int, *, code_version: str, now: datetime) -> None:
        """Measure all of a job's runs afresh, by the present version."""
        for run, found in self._of_job(job_id):
            row = self._session.scalar(
                select(MeasurementRow).where(
                    MeasurementRow.content == found.content, MeasurementRow.code_version == code_version
                )
            )
            if row is None:
                row = self._queue(Need(run=run, content=found.content, request=found.request), code_version, now)
                self._session.execute(
                    update(JobMeasurementRow)
                    .where(JobMeasurementRow.job_id == job_id, JobMeasurementRow.run == run)
                    .values(measurement_id=row.id)
                )
            elif row.state not in UNFINISHED:
                row.state, row.attempts, row.error, row.stage = MeasuringState.QUEUED.value, 0, None, None
                row.queued_at = now
        self._session.flush()

    def cancel(self, job_id: int, *, now: datetime) -> None:
        """Stop what waits or runs for this job."""
        mine = select(JobMeasurementRow.measurement_id).where(JobMeasurementRow.job_id == job_id)
        self._session.execute(
            update(MeasurementRow)
            .where(MeasurementRow.id.in_(mine), MeasurementRow.state.in_(UNFINISHED))
            .values(state=MeasuringState.CANCELLED.value, finished_at=now)
        )
        self._session.expire_all()

    def _of_job(self, job_id: int) -> list[tuple[str, MeasurementRow]]:
        rows = self._session.execute(
            select(JobMeasurementRow.run, MeasurementRow)
            .join(MeasurementRow, MeasurementRow.id == JobMeasurementRow.measurement_id)
            .where(JobMeasurementRow.job_id == job_id)
            .order_by(JobMeasurementRow.run)
        )
        return [(run, row) for run, row in rows]

    def _known(self, content: str, code_version: str) -> MeasurementRow | None:
        """Finished by any version, this one's first; or waiting for this one."""
        rows = list(self._session.scalars(select(MeasurementRow).where(MeasurementRow.content == content)))
        rows.sort(key=lambda row: (row.code_version != code_version, row.state != MeasuringState.DONE.value, -row.id))
        return next((r for r in rows if r.code_version == code_version or r.state == MeasuringState.DONE.value), None)

    def _queue(self, need: Need, code_version: str, now: datetime) -> MeasurementRow:
        row = MeasurementRow(
            content=need.content,
            code_version=code_version,
            state=MeasuringState.QUEUED.value,
            attempts=0,
            request=dict(need.request),
            queued_at=now,
        )
        self._session.add(row)
        self._session.flush()
        return row

    def _drop_if_unwanted(self, row: MeasurementRow) -> None:
        wanted = self._session.scalar(
            select(func.count()).select_from(JobMeasurementRow).where(JobMeasurementRow.measurement_id == row.id)
        )
        if not wanted and row.state in UNFINISHED:
            self._session.delete(row)
            self._session.flush()

    def claim(self, *, owner: str) -> MeasurementRecord | None:
        """Take the oldest that waits, or one whose owner let its lease run out, by the database's clock.

        A lease that ends later than any can tells of a clock that was set back.
        """
        over = or_(MeasurementRow.lease_until < NOW, MeasurementRow.lease_until > TOO_LATE)
        waiting = or_(
            MeasurementRow.state == MeasuringState.QUEUED.value,
            and_(MeasurementRow.state == MeasuringState.RUNNING.value, over),
        )
        row = self._session.scalar(
            select(MeasurementRow).where(waiting).order_by(MeasurementRow.id).limit(1).with_for_update(skip_locked=True)
        )
        if row is None:
            return None
        row.state, row.owner, row.stage = MeasuringState.RUNNING.value, owner, None
        self._session.flush()
        self._session.execute(
            update(MeasurementRow).where(MeasurementRow.id == row.id).values({MeasurementRow.lease_until: UNTIL})
        )
        return _record(row)

    def keep(self, measurement_id: int, *, owner: str | None, stage: str | None) -> bool:
        """Renew the owner's lease and tell the stage; False when it was cancelled, or is another's by now."""
        mine = (
            MeasurementRow.id == measurement_id,
            MeasurementRow.state == MeasuringState.RUNNING.value,
            MeasurementRow.owner == owner,
        )
        values: dict[str, Any] = {"lease_until": UNTIL}
        if stage is not None:
            values["stage"] = stage
        self._session.execute(update(MeasurementRow).where(*mine).values(**values))
        if stage is not None:
            jobs = select(JobMeasurementRow.job_id).where(JobMeasurementRow.measurement_id == measurement_id)
            self._session.execute(update(JobRow).where(JobRow.id.in_(jobs)).values(revision=JobRow.revision + 1))
        return self._session.scalar(select(MeasurementRow.id).where(*mine)) is not None

    def release(self, measurement_id: int, *, owner: str | None) -> bool:
        """Back into the queue, since it was ended from outside."""
        return self._end(measurement_id, owner, MeasuringState.QUEUED)

    def crashed(self, measurement_id: int, *, owner: str | None, now: datetime) -> bool:
        """Count that it ended by itself: back into the queue, or given up after three times."""
        row = self._session.get(MeasurementRow, measurement_id, with_for_update=True)
        if row is None:
            return False
        attempts = row.attempts + 1
        if attempts < MOST_ATTEMPTS:
            return self._end(measurement_id, owner, MeasuringState.QUEUED, attempts=attempts)
        error = "The measuring stopped three times without a result. The recordings are kept."
        state = MeasuringState.FAILED
        return self._end(measurement_id, owner, state, attempts=attempts, error=error, finished_at=now)

    def try_again(self) -> list[int]:
        """Queue what was given up after crashes; returns what that was."""
        given_up = and_(MeasurementRow.state == MeasuringState.FAILED.value, MeasurementRow.attempts >= MOST_ATTEMPTS)
        rows = list(self._session.scalars(select(MeasurementRow).where(given_up).with_for_update()))
        for row in rows:
            row.state, row.attempts, row.error, row.finished_at = MeasuringState.QUEUED.value, 0, None, None
        self._session.flush()
        return [row.id for row in rows]

    def finish(
        self,
        measurement_id: int,
        *,
        owner: str | None,
        shown: Mapping[str, Any],
        curves: Mapping[str, Any],
        profile: Mapping[str, Any] | None,
        now: datetime,
    ) -> bool:
        """Keep the result; False when it was cancelled meanwhile, or is another's."""
        return self._end(
            measurement_id,
            owner,
            MeasuringState.DONE,
            finished_at=now,
            shown=dict(shown),
            curves=dict(curves),
            profile=dict(profile) if profile is not None else None,
        )

    def fail(self, measurement_id: int, *, owner: str | None, error: str, now: datetime) -> bool:
        return self._end(measurement_id, owner, MeasuringState.FAILED, finished_at=now, error=error)

    def _end(self, measurement_id: int, owner: str | None, state: MeasuringState, **values: Any) -> bool:
        row = self._session.get(MeasurementRow, measurement_id, with_for_update=True)
        if row is None or row.state != MeasuringState.RUNNING.value or row.owner != owner:
            return False
        row.state, row.lease_until, row.owner = state.value, None, None
        for name, value in values.items():
            setattr(row, name, value)
        self._session.flush()
        return True

    def of_job(self, job_id: int) -> dict[str, MeasurementRecord]:
        """What a job's runs were or are to be measured as, by run."""
        return {run: _record(row) for run, row in self._of_job(job_id)}

    def wanted_by(self, measurement_id: int) -> list[int]:
        """The jobs that wait for it, or use it."""
        return list(
            self._session.scalars(
                select(JobMeasurementRow.job_id)
                .where(JobMeasurementRow.measurement_id == measurement_id)
                .order_by(JobMeasurementRow.job_id)
            )
        )

    def shown(self, job_id: int) -> dict[str, Mapping[str, Any]]:
        """What the finished measurements of a job show, by run."""
        rows = self._session.execute(
            select(JobMeasurementRow.run, MeasurementRow.shown)
            .join(JobMeasurementRow, JobMeasurementRow.measurement_id == MeasurementRow.id)
            .where(JobMeasurementRow.job_id == job_id, MeasurementRow.state == MeasuringState.DONE.value)
            .order_by(JobMeasurementRow.run)
        )
        return {run: shown for run, shown in rows if shown is not None}

    def profiles_of(self, job_id: int) -> dict[str, Mapping[str, Any]]:
        """The profiles of a job's finished spins, by run."""
        rows = self._session.execute(
            select(JobMeasurementRow.run, MeasurementRow.profile)
            .join(MeasurementRow, JobMeasurementRow.measurement_id == MeasurementRow.id)
            .where(JobMeasurementRow.job_id == job_id, MeasurementRow.state == MeasuringState.DONE.value)
        )
        return {run: profile for run, profile in rows if profile is not None}

    def lead(self, job_id: int, run: str | None) -> None:
        """Which run's curves stand for the job."""
        self._session.execute(
            update(JobMeasurementRow)
            .where(JobMeasurementRow.job_id == job_id)
            .values(is_lead=JobMeasurementRow.run == (run or ""))
        )

    def curves(self, job_id: int, *, run: str | None = None) -> Mapping[str, Any]:
        """The curves of a run, the leading one where none is named; empty without one."""
        wanted = JobMeasurementRow.is_lead if run is None else JobMeasurementRow.run == run
        found = self._session.scalar(
            select(MeasurementRow.curves)
            .join(JobMeasurementRow, JobMeasurementRow.measurement_id == MeasurementRow.id)
            .where(JobMeasurementRow.job_id == job_id, wanted)
        )
        return found or {}

    def profiles(self, job_ids: Sequence[int]) -> dict[int, Mapping[str, Any]]:
        """The leading spin's profile of each job that has one."""
        rows = self._session.execute(
            select(JobMeasurementRow.job_id, MeasurementRow.profile)
            .join(MeasurementRow, JobMeasurementRow.measurement_id == MeasurementRow.id)
            .where(JobMeasurementRow.job_id.in_(job_ids), JobMeasurementRow.is_lead)
        )
        return {job_id: profile for job_id, profile in rows if profile is not None}

    def with_profile(self, job_ids: Sequence[int]) -> set[int]:
        """Which of those jobs have a leading spin with a profile."""
        rows = self._session.scalars(
            select(JobMeasurementRow.job_id)
            .join(MeasurementRow, JobMeasurementRow.measurement_id == MeasurementRow.id)
            .where(
                JobMeasurementRow.job_id.in_(job_ids), JobMeasurementRow.is_lead, MeasurementRow.profile.is_not(None)
            )
        )
        return set(rows)

    def forget_unused(self) -> None:
        """Take out what no job's recordings showed any more."""
        used = select(JobMeasurementRow.measurement_id)
        self._session.execute(delete(MeasurementRow).where(MeasurementRow.id.not_in(used)))

    def unfinished(self) -> int:
        """How many are queued or running."""
        count = select(func.count()).select_from(MeasurementRow).where(MeasurementRow.state.in_(UNFINISHED))
        return int(self._session.scalar(count) or 0)

    def get(self, measurement_id: int) -> MeasurementRecord:
        """Raises NotFound."""
        row = self._session.get(MeasurementRow, measurement_id)
        if row is None:
            raise NotFound(kind="measurement", key=str(measurement_id))
        return _record(row)


def _record(row: MeasurementRow) -> MeasurementRecord:
    return MeasurementRecord(
        id=row.id,
        content=row.content,
        code_version=row.code_version,
        state=MeasuringState(row.state),
        stage=row.stage,
        error=row.error,
        owner=row.owner,
        request=row.request,
        queued_at=row.queued_at,
        finished_at=row.finished_at,
    )
