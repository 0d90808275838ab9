"""Diaries: entries are added and read, never changed."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import timedelta, timezone

from sqlalchemy import func, or_, select
from sqlalchemy.orm import Session

from eager_ear.core.visit import Entry, in_force
from eager_ear.store.tables import EntryRow, JobRow


class Entries:
    def __init__(self, session: Session) -> None:
        self._session = session

    def add(self, job_id: int, entry: Entry) -> None:
        """Raises Conflict when its id is taken."""
        offset = entry.made_at.utcoffset() or timedelta(0)
        self._session.add(
            EntryRow(
                id=entry.id,
                job_id=job_id,
                seq=entry.seq,
                kind=entry.kind,
                made_at=entry.made_at,
                zone_minutes=round(offset.total_seconds() / 60.0),
                received_at=entry.received_at,
                clock_off=entry.clock_off,
                by=entry.by,
                device=entry.device,
                body=dict(entry.body) if entry.body is not None else None,
                replaces=entry.replaces,
            )
        )
        self._session.flush()

    def of_job(self, job_id: int, *, after: int = 0, limit: int | None = None) -> list[Entry]:
        """The diary by number, from the one after `after` on."""
        wanted = select(EntryRow).where(EntryRow.job_id == job_id, EntryRow.seq > after).order_by(EntryRow.seq)
        if limit is not None:
            wanted = wanted.limit(limit)
        return [_entry(row) for row in self._session.scalars(wanted)]

    def find(self, ids: Sequence[str]) -> dict[str, tuple[int, Entry]]:
        """Those of these entries that are kept, each with the job that it belongs to."""
        rows = self._session.scalars(select(EntryRow).where(EntryRow.id.in_(ids)))
        return {row.id: (row.job_id, _entry(row)) for row in rows}

    def about_machine(self, machine_id: int, *, but_job: int | None = None) -> list[Entry]:
        """What all visits to a machine say of it; without those of one job."""
        wanted = (
            select(EntryRow)
            .join(JobRow, JobRow.id == EntryRow.job_id)
            .where(JobRow.machine_id == machine_id, EntryRow.kind == "machine")
        )
        if but_job is not None:
            wanted = wanted.where(EntryRow.job_id != but_job)
        return [_entry(row) for row in self._session.scalars(wanted)]

    def notes_about(self, job_ids: Sequence[int], *, about: str) -> list[tuple[int, str]]:
        """Notes of these jobs about one thing, each with its job, oldest first."""
        # What replaces a note may be about something else.
        told = or_(func.json_value(EntryRow.body, "$.about") == about, EntryRow.replaces.is_not(None))
        rows = self._session.scalars(
            select(EntryRow)
            .where(EntryRow.job_id.in_(job_ids), EntryRow.kind == "note", told)
            .order_by(EntryRow.made_at)
        )
        kept = {row.id: (row.job_id, _entry(row)) for row in rows}
        counting = in_force(entry for _, entry in kept.values())
        return [(kept[e.id][0], str((e.body or {})["text"])) for e in counting if (e.body or {}).get("about") == about]


def _entry(row: EntryRow) -> Entry:
    return Entry(
        id=row.id,
        kind=row.kind,
        made_at=row.made_at.astimezone(timezone(timedelta(minutes=row.zone_minutes))),
        received_at=row.received_at,
        seq=row.seq,
        body=row.body,
        by=row.by,
        device=row.device,
        replaces=row.replaces,
        clock_off=row.clock_off,
    )
