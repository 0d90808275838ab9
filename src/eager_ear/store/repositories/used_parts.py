"""Used parts that were kept, and where they went."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import ColumnElement, delete, select, update
from sqlalchemy.orm import Session, aliased

from eager_ear.store.records import UsedPartRecord
from eager_ear.store.tables import JobRow, UsedPartRow


class UsedParts:
    def __init__(self, session: Session) -> None:
        self._session = session

    def keep(self, job_id: int, parts: Sequence[UsedPartRecord]) -> None:
        """What one machine gave, as its diary now says; where a part went stays as it was."""
        named = [part.entry for part in parts]
        self._session.execute(delete(UsedPartRow).where(UsedPartRow.job_id == job_id, UsedPartRow.entry.not_in(named)))
        for part in parts:
            row = self._session.get(UsedPartRow, part.entry)
            if row is None:
                row = UsedPartRow(entry=part.entry, job_id=job_id)
                self._session.add(row)
            row.layout, row.sheet, row.part = part.layout, part.sheet, part.part
            row.condition, row.shelf, row.hours, row.kept_at = part.condition, part.shelf, part.hours, part.kept_at
        self._session.flush()

    def fit(self, job_id: int, entries: Sequence[str]) -> None:
        """Which used parts went into the machine of a job; others that were said to are back on the shelf."""
        self._session.execute(
            update(UsedPartRow)
            .where(UsedPartRow.fitted_in == job_id, UsedPartRow.entry.not_in(entries))
            .values(fitted_in=None)
        )
        self._session.execute(
            update(UsedPartRow)
            .where(UsedPartRow.entry.in_(entries), UsedPartRow.fitted_in.is_(None))
            .values(fitted_in=job_id)
        )

    def find(self, entry: str) -> UsedPartRecord | None:
        found = self._read(UsedPartRow.entry == entry, limit=1)
        return found[0] if found else None

    def on_the_shelf(self, *, limit: int, layout: str | None = None) -> list[UsedPartRecord]:
        """What is there, newest first; of one layout, or of all."""
        wanted: list[ColumnElement[bool]] = [UsedPartRow.fitted_in.is_(None)]
        if layout is not None:
            wanted.append(UsedPartRow.layout == layout)
        return self._read(*wanted, limit=limit)

    def _read(self, *wanted: ColumnElement[bool], limit: int) -> list[UsedPartRecord]:
        into = aliased(JobRow)
        rows = self._session.execute(
            select(UsedPartRow, JobRow.uuid, JobRow.place, into.uuid)
            .join(JobRow, JobRow.id == UsedPartRow.job_id)
            .outerjoin(into, into.id == UsedPartRow.fitted_in)
            .where(*wanted)
            .order_by(UsedPartRow.kept_at.desc(), UsedPartRow.entry)
            .limit(limit)
        )
        return [
            UsedPartRecord(
                entry=row.entry,
                job=job,
                place=place,
                layout=row.layout,
                sheet=row.sheet,
                part=row.part,
                condition=row.condition,
                shelf=row.shelf,
                hours=row.hours,
                kept_at=row.kept_at,
                fitted_in=fitted,
            )
            for row, job, place, fitted in rows
        ]
