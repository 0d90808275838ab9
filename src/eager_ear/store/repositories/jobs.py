"""Jobs: visits, and what lists show of them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict
from datetime import datetime

from sqlalchemy import delete, false, func, or_, select, true, update
from sqlalchemy.orm import Session

from eager_ear.core.visit.waiting import ENDED, WAITS
from eager_ear.store.errors import NotFound
from eager_ear.store.records import CallSummary, JobRecord, JobSummary, MeasuringState
from eager_ear.store.repositories.job_words import kept_words, with_words, words_of
from eager_ear.store.tables import JobRow, may_be_id


class Jobs:
    def __init__(self, session: Session) -> None:
        self._session = session

    def add(self, *, uuid: str, machine_id: int, case_id: str, now: datetime, practice: bool = False) -> JobRecord:
        """Raises Conflict when there is one with this uuid."""
        row = JobRow(
            uuid=uuid,
            machine_id=machine_id,
            case_id=case_id,
            created_at=now,
            changed_at=now,
            last_seq=0,
            revision=0,
            practice=practice,
            place="",
            check_count=0,
            recording_count=0,
            bridged=False,
            ours=False,
            waits_for="evidence",
            words="",
            measuring=MeasuringState.NONE.value,
        )
        self._session.add(row)
        self._session.flush()
        return _record(row)

    def get(self, uuid: str) -> JobRecord:
        """Raises NotFound."""
        found = self.find(uuid)
        if found is None:
            raise NotFound(kind="job", key=uuid)
        return found

    def has_case(self, case_id: str) -> bool:
        """Whether a job was opened under that name of a case."""
        return self._session.scalar(select(JobRow.id).where(JobRow.case_id == case_id).limit(1)) is not None

    def find(self, uuid: str) -> JobRecord | None:
        row = self._session.scalar(select(JobRow).where(JobRow.uuid == uuid)) if may_be_id(uuid) else None
        return _record(row) if row is not None else None

    def by_id(self, job_id: int) -> JobRecord:
        """Raises NotFound."""
        return _record(self._row(job_id))

    def hold(self, job_id: int) -> JobRecord:
        """Lock the job until the unit ends, so that those who change what belongs to it take turns. Raises NotFound."""
        row = self._session.scalar(
            select(JobRow).where(JobRow.id == job_id).with_for_update().execution_options(populate_existing=True)
        )
        if row is None:
            raise NotFound(kind="job", key=str(job_id))
        return _record(row)

    def newest(
        self,
        *,
        limit: int,
        before: tuple[datetime, int] | None = None,
        looked_for: str = "",
        waits_for: str | None = None,
        layout: str | None = None,
    ) -> list[JobRecord]:
        """Last changed first. before : the moment and number of the job after which a page goes on."""
        asked = select(JobRow).order_by(JobRow.changed_at.desc(), JobRow.id.desc())
        if before is not None:
            moment, number = before
            # Written out: MariaDB finds its way through an index by `<=`, not by comparing pairs.
            asked = asked.where(JobRow.changed_at <= moment)
            asked = asked.where(or_(JobRow.changed_at < moment, JobRow.id < number))
        if waits_for is not None:
            asked = asked.where(JobRow.waits_for == waits_for)
        if layout is not None:
            asked = asked.where(JobRow.layout == layout)
        words = words_of(looked_for)
        if not words:
            return [_record(row) for row in self._session.scalars(asked.limit(limit))]
        ids = [job_id for job_id, _ in with_words(self._session, words, asked, limit=limit)]
        rows = {row.id: row for row in self._session.scalars(select(JobRow).where(JobRow.id.in_(ids)))}
        return [_record(rows[job_id]) for job_id in ids]

    def machines_visited(self, looked_for: str, *, limit: int) -> list[int]:
        """Ids of machines whose visits hold all these words, as `newest` looks for them; last visited first."""
        words = words_of(looked_for)
        if not words:
            return []
        newest_first = select(JobRow).order_by(JobRow.changed_at.desc(), JobRow.id.desc())
        found = with_words(self._session, words, newest_first, limit=limit)
        return list(dict.fromkeys(machine_id for _, machine_id in found))

    def waiting(self) -> dict[str, int]:
        """How many jobs wait for what. Those that have ended are not counted: in the end that is nearly all."""
        open_ones = [wait for wait in WAITS if wait != ENDED]
        asked = select(JobRow.waits_for, func.count()).where(JobRow.waits_for.in_(open_ones))
        asked = asked.group_by(JobRow.waits_for)
        rows = self._session.execute(asked)
        return {str(row[0]): int(row[1]) for row in rows}

    def due(self, *, limit: int) -> list[JobRecord]:
        """Jobs that somebody comes back to, the next due first."""
        rows = self._session.scalars(
            select(JobRow)
            .where(JobRow.due_on.is_not(None), JobRow.practice == false())
            .order_by(JobRow.due_on, JobRow.id)
            .limit(limit)
        )
        return [_record(row) for row in rows]

    def ours(self, *, limit: int) -> list[JobRecord]:
        """Visits to machines that were taken in and are still here, last changed first."""
        # Compared by `=`: MariaDB finds nothing by an index that is asked whether something `IS true`.
        rows = self._session.scalars(
            select(JobRow)
            .where(JobRow.ours == true(), JobRow.practice == false(), JobRow.closed.is_distinct_from("scrapped"))
            .order_by(JobRow.changed_at.desc(), JobRow.id.desc())
            .limit(limit)
        )
        return [_record(row) for row in rows]

    def of_layout(self, layout: str, *, limit: int) -> list[JobRecord]:
        """Jobs at machines of one layout, newest first."""
        rows = self._session.scalars(
            select(JobRow)
            .where(JobRow.layout == layout, JobRow.practice == false())
            .order_by(JobRow.created_at.desc(), JobRow.id.desc())
            .limit(limit)
        )
        return [_record(row) for row in rows]

    def of_machine(self, machine_id: int) -> list[JobRecord]:
        """All visits to a machine, newest first."""
        return self.of_machines([machine_id])[machine_id]

    def of_machines(self, machine_ids: Sequence[int]) -> dict[int, list[JobRecord]]:
        """All visits to each of these machines, newest first."""
        rows = self._session.scalars(
            select(JobRow)
            .where(JobRow.machine_id.in_(machine_ids))
            .order_by(JobRow.created_at.desc(), JobRow.id.desc())
        )
        found: dict[int, list[JobRecord]] = {machine_id: [] for machine_id in machine_ids}
        for row in rows:
            found[row.machine_id].append(_record(row))
        return found

    def only_practised(self, machine_ids: Sequence[int]) -> set[int]:
        """Those of these machines that stand in practice jobs alone."""
        practised = (
            select(JobRow.machine_id)
            .where(JobRow.machine_id.in_(machine_ids))
            .group_by(JobRow.machine_id)
            .having(func.min(JobRow.practice) == 1)
        )
        return set(self._session.scalars(practised)) if machine_ids else set()

    def ids(self) -> list[int]:
        return list(self._session.scalars(select(JobRow.id).order_by(JobRow.id)))

    def asked_to_measure(self, *, limit: int) -> list[int]:
        """Jobs of which it is not known yet what there is to measure."""
        asked = select(JobRow.id).where(JobRow.measuring == MeasuringState.ASKED.value).order_by(JobRow.id).limit(limit)
        return list(self._session.scalars(asked))

    def count(self) -> int:
        return int(self._session.scalar(select(func.count()).select_from(JobRow)) or 0)

    def revisions(self, uuids: Sequence[str]) -> dict[str, int]:
        """How often each job has changed."""
        rows = self._session.execute(select(JobRow.uuid, JobRow.revision).where(JobRow.uuid.in_(uuids)))
        return {row.uuid: row.revision for row in rows}

    def visit(self, job_id: int, *, machine_id: int) -> None:
        """Say which machine of the register this is a visit to."""
        self._row(job_id).machine_id = machine_id
        self._session.flush()

    def wrote(self, job_id: int, *, last_seq: int, now: datetime) -> None:
        row = self._row(job_id)
        row.last_seq, row.changed_at = last_seq, now
        self._session.flush()

    def show(self, job_id: int, summary: JobSummary, *, words: str) -> None:
        """What lists show of it from now on, and the words by which it is found, each with a space before it."""
        row = self._row(job_id)
        row.words = kept_words(words)
        for name, value in asdict(summary).items():
            setattr(row, name, value)
        row.revision += 1
        self._session.flush()

    def called(self, job_id: int, call: CallSummary | None) -> None:
        row = self._row(job_id)
        row.call_id = call.id if call is not None else None
        row.headline = call.headline if call is not None else None
        row.advice = call.advice if call is not None else None
        row.leader = call.leader if call is not None else None
        row.leader_probability = call.leader_probability if call is not None else None
        row.revision += 1
        self._session.flush()

    def measuring(self, job_id: int, state: MeasuringState) -> None:
        self._session.execute(
            update(JobRow).where(JobRow.id == job_id).values(measuring=state.value, revision=JobRow.revision + 1)
        )

    def forget(self, job_id: int) -> None:
        """Take a job out with its diary, calls and outcome; its bytes were taken out before."""
        self._session.execute(delete(JobRow).where(JobRow.id == job_id))

    def _row(self, job_id: int) -> JobRow:
        row = self._session.get(JobRow, job_id)
        if row is None:
            raise NotFound(kind="job", key=str(job_id))
        return row


def _record(row: JobRow) -> JobRecord:
    call = None
    if row.call_id is not None:
        call = CallSummary(
            id=row.call_id,
            headline=row.headline or "",
            advice=row.advice or "",
            leader=row.leader or "",
            leader_probability=row.leader_probability or 0.0,
        )
    return JobRecord(
        id=row.id,
        uuid=row.uuid,
        machine_id=row.machine_id,
        case_id=row.case_id,
        created_at=row.created_at,
        changed_at=row.changed_at,
        last_seq=row.last_seq,
        revision=row.revision,
        practice=row.practice,
        measuring=MeasuringState(row.measuring),
        summary=JobSummary(
            place=row.place,
            layout=row.layout,
            check_count=row.check_count,
            recording_count=row.recording_count,
            bridged=row.bridged,
            closed=row.closed,
            rings_at=row.rings_at,
            due_on=row.due_on,
            waits_for=row.waits_for,
            part_on=row.part_on,
            ours=row.ours,
        ),
        call=call,
    )
