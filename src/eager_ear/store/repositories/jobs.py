"""Jobs and their machines."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from eager_ear.core.case import HandCheck
from eager_ear.core.machine import Machine
from eager_ear.store.errors import NotFound
from eager_ear.store.records import JobRecord
from eager_ear.store.tables import JobRow, MachineRow

MACHINE_FIELDS = (
    "layout",
    "mains_hz",
    "max_spin_rpm",
    "pulley_ratio",
    "front_bearing",
    "rear_bearing",
    "spider_arms",
    "age_years",
    "stacked",
)


class Jobs:
    def __init__(self, session: Session) -> None:
        self._session = session

    def add(
        self,
        *,
        place: str,
        machine: Machine,
        case_id: str,
        symptoms: Sequence[str],
        note: str,
        checks: Sequence[HandCheck],
        now: datetime,
    ) -> JobRecord:
        machine_row = MachineRow(place=place, **{name: getattr(machine, name) for name in MACHINE_FIELDS})
        row = JobRow(
            machine=machine_row,
            case_id=case_id,
            symptoms=list(symptoms),
            note=note,
            checks=_checks_to_json(checks),
            created_at=now,
            changed_at=now,
        )
        self._session.add(row)
        self._session.flush()
        return _record(row)

    def get(self, job_id: int) -> JobRecord:
        """Raises NotFound."""
        return _record(self._row(job_id))

    def newest(self, *, limit: int) -> list[JobRecord]:
        rows = self._session.scalars(select(JobRow).order_by(JobRow.changed_at.desc(), JobRow.id.desc()).limit(limit))
        return [_record(row) for row in rows]

    def of_layout(self, layout: str, *, limit: int) -> list[JobRecord]:
        """Jobs at machines of one layout, newest first."""
        jobs = select(JobRow).join(MachineRow).where(MachineRow.layout == layout)
        rows = self._session.scalars(jobs.order_by(JobRow.created_at.desc(), JobRow.id.desc()).limit(limit))
        return [_record(row) for row in rows]

    def count(self) -> int:
        return int(self._session.scalar(select(func.count()).select_from(JobRow)) or 0)

    def change(
        self,
        job_id: int,
        *,
        now: datetime,
        place: str | None = None,
        machine: Machine | None = None,
        symptoms: Sequence[str] | None = None,
        note: str | None = None,
        checks: Sequence[HandCheck] | None = None,
    ) -> JobRecord:
        """Change what is given, leave the rest. Raises NotFound."""
        row = self._row(job_id)
        if place is not None:
            row.machine.place = place
        if machine is not None:
            for name in MACHINE_FIELDS:
                setattr(row.machine, name, getattr(machine, name))
        if symptoms is not None:
            row.symptoms = list(symptoms)
        if note is not None:
            row.note = note
        if checks is not None:
            row.checks = _checks_to_json(checks)
        row.changed_at = now
        self._session.flush()
        return _record(row)

    def hold(self, job_id: int) -> None:
        """Lock the job until the unit ends, so that those who change what belongs to it take turns. Raises NotFound."""
        if self._session.scalar(select(JobRow.id).where(JobRow.id == job_id).with_for_update()) is None:
            raise NotFound(kind="job", key=str(job_id))

    def touch(self, job_id: int, *, now: datetime) -> None:
        self._row(job_id).changed_at = now
        self._session.flush()

    def _row(self, job_id: int) -> JobRow:
        row = self._session.get(JobRow, job_id)
        if row is None:
            raise NotFound(kind="job", key=str(job_id))
        return row


def _checks_to_json(checks: Sequence[HandCheck]) -> list[dict[str, object]]:
    return [{"check": c.check, "values": dict(c.values)} for c in checks]


def _record(row: JobRow) -> JobRecord:
    return JobRecord(
        id=row.id,
        machine_id=row.machine.id,
        place=row.machine.place,
        machine=Machine(**{name: getattr(row.machine, name) for name in MACHINE_FIELDS}),
        case_id=row.case_id,
        symptoms=tuple(row.symptoms),
        note=row.note,
        checks=tuple(HandCheck(check=c["check"], values=c["values"]) for c in row.checks),
        created_at=row.created_at,
        changed_at=row.changed_at,
    )
