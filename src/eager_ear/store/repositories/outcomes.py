"""What became of the jobs that ended."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime, timedelta

import numpy as np
from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from eager_ear.core.record import Outcome
from eager_ear.store.errors import NotFound
from eager_ear.store.tables import JobRow, OutcomeRow, may_be_id

# A machine that is back within this time came back.
BACK_WITHIN = timedelta(days=90)


class Outcomes:
    def __init__(self, session: Session) -> None:
        self._session = session

    def put(self, job_id: int, machine_id: int, outcome: Outcome, *, proof_failed: bool, now: datetime) -> None:
        """Keep what became of a job. Whether it was left out by hand stays as it was."""
        row = self._session.get(OutcomeRow, job_id)
        if row is None:
            row = OutcomeRow(job_id=job_id)
            self._session.add(row)
        row.machine_id, row.layout, row.day, row.outcome = machine_id, outcome.layout, outcome.day, outcome.outcome
        row.faults = list(outcome.faults) if outcome.faults is not None else None
        row.called, row.advice, row.opened = dict(outcome.called), outcome.advice, outcome.opened
        row.own_view, row.by = list(outcome.own_view), outcome.by
        row.levels = {finding: [round(float(v), 4) for v in levels] for finding, levels in outcome.levels.items()}
        row.minutes, row.proof_failed, row.changed_at = outcome.minutes, proof_failed, now
        self._session.flush()

    def forget(self, job_id: int) -> None:
        """The job is open again."""
        self._session.execute(delete(OutcomeRow).where(OutcomeRow.job_id == job_id))

    def leave_out(self, job_uuid: str, why: str | None, *, now: datetime) -> None:
        """Count a job no more, and why; with None, count it again. Raises NotFound."""
        ended = select(OutcomeRow).join(JobRow, JobRow.id == OutcomeRow.job_id).where(JobRow.uuid == job_uuid)
        row = self._session.scalar(ended) if may_be_id(job_uuid) else None
        if row is None:
            raise NotFound(kind="ended job", key=job_uuid)
        row.left_out, row.changed_at = why, now
        self._session.flush()

    def of_job(self, job_id: int) -> Outcome | None:
        """What became of a job; None as long as it is open."""
        row = self._session.get(OutcomeRow, job_id)
        return None if row is None else _outcome(row, "", again=row.proof_failed)

    def found_at(self, job_ids: Sequence[int]) -> dict[int, tuple[str, ...]]:
        """What was surely found at each of these jobs, of those that ended so."""
        rows = self._session.execute(select(OutcomeRow.job_id, OutcomeRow.faults).where(OutcomeRow.job_id.in_(job_ids)))
        return {job_id: tuple(faults) for job_id, faults in rows if faults is not None}

    def newest(self, *, limit: int) -> list[Outcome]:
        """The jobs that ended last, the newest first."""
        found = self._session.execute(
            select(OutcomeRow, JobRow.uuid)
            .join(JobRow, JobRow.id == OutcomeRow.job_id)
            .order_by(OutcomeRow.day.desc(), OutcomeRow.job_id.desc())
            .limit(limit)
        ).all()
        rows = [row for row, _ in found]
        back = _came_back(rows)
        return [_outcome(row, uuid, again=row.proof_failed or row.job_id in back) for row, uuid in found]

    def state(self, *, limit: int) -> tuple[int, int, datetime | None]:
        """How many the newest are, which, and when one of them changed last: as long as it is the same, so are they."""
        newest = (
            select(OutcomeRow.job_id, OutcomeRow.changed_at)
            .order_by(OutcomeRow.day.desc(), OutcomeRow.job_id.desc())
            .limit(limit)
            .subquery()
        )
        told = select(func.count(newest.c.job_id), func.sum(newest.c.job_id), func.max(newest.c.changed_at))
        count, which, changed = self._session.execute(told).one()
        return int(count), int(which or 0), changed


def _came_back(rows: Sequence[OutcomeRow]) -> set[int]:
    """Jobs whose machine was seen again soon after."""
    back: set[int] = set()
    later: dict[int, OutcomeRow] = {}
    for row in rows:
        following = later.get(row.machine_id)
        if following is not None and following.day - row.day <= BACK_WITHIN:
            back.add(row.job_id)
        later[row.machine_id] = row
    return back


def _outcome(row: OutcomeRow, uuid: str, *, again: bool) -> Outcome:
    return Outcome(
        job=uuid,
        layout=row.layout,
        day=row.day,
        outcome=row.outcome,
        faults=tuple(row.faults) if row.faults is not None else None,
        called=row.called,
        advice=row.advice,
        opened=row.opened,
        own_view=tuple(row.own_view),
        levels={finding: np.array(levels, dtype=float) for finding, levels in row.levels.items()},
        minutes=row.minutes,
        again=again,
        by=row.by,
        left_out=row.left_out,
    )
