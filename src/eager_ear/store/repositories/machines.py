"""The register: every machine once, with what is known of it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Any

from sqlalchemy import delete, func, or_, select, true
from sqlalchemy.orm import Session, aliased

from eager_ear.store.errors import NotFound
from eager_ear.store.records import MachineRecord
from eager_ear.store.tables import MachineRow, may_be_id

SHORTEST_WORD = 3


class Machines:
    def __init__(self, session: Session) -> None:
        self._session = session

    def add(self, *, uuid: str, now: datetime) -> MachineRecord:
        row = MachineRow(uuid=uuid, place="", layout=None, facts={}, changed_at=now)
        self._session.add(row)
        self._session.flush()
        return _record(row)

    def get(self, uuid: str) -> MachineRecord:
        """Raises NotFound."""
        row = self._session.scalar(select(MachineRow).where(MachineRow.uuid == uuid)) if may_be_id(uuid) else None
        if row is None:
            raise NotFound(kind="machine", key=uuid)
        return _record(row)

    def by_ids(self, machine_ids: Sequence[int]) -> list[MachineRecord]:
        """Those of these machines that there are, in their order."""
        rows = self._session.scalars(select(MachineRow).where(MachineRow.id.in_(machine_ids)))
        found = {row.id: _record(row) for row in rows}
        return [found[machine_id] for machine_id in machine_ids if machine_id in found]

    def by_id(self, machine_id: int) -> MachineRecord:
        """Raises NotFound."""
        row = self._session.get(MachineRow, machine_id)
        if row is None:
            raise NotFound(kind="machine", key=str(machine_id))
        return _record(row)

    def know(self, machine_id: int, facts: Mapping[str, Any], *, now: datetime) -> None:
        """What is known of it from now on, by the case format's keys and `place`."""
        row = self._session.get(MachineRow, machine_id)
        if row is None:
            raise NotFound(kind="machine", key=str(machine_id))
        row.place = str(facts.get("place") or "")
        row.layout = facts.get("layout")
        row.facts = {key: value for key, value in facts.items() if key != "place"}
        row.column_with = facts.get("column_with")
        row.changed_at = now
        self._session.flush()

    def in_columns(self, owns: Sequence[MachineRecord]) -> dict[int, MachineRecord]:
        """The other machine of the column of each of these that stands in one, whichever of the two it was said of."""
        told = [uuid for own in owns if (uuid := own.facts.get("column_with")) is not None]
        either = or_(MachineRow.uuid.in_(told), MachineRow.column_with.in_([own.uuid for own in owns]))
        others = [*self._session.scalars(select(MachineRow).where(either).order_by(MachineRow.changed_at.desc()))]
        found: dict[int, MachineRecord] = {}
        for own in owns:
            for row in others:
                if row.id != own.id and (row.uuid == own.facts.get("column_with") or row.column_with == own.uuid):
                    found[own.id] = _record(row)
                    break
        return found

    def forget(self, machine_id: int) -> None:
        """Take one out to which no visit is left."""
        self._session.execute(delete(MachineRow).where(MachineRow.id == machine_id))

    def newest(self, *, limit: int) -> list[MachineRecord]:
        rows = self._session.scalars(select(MachineRow).order_by(MachineRow.changed_at.desc()).limit(limit))
        return [_record(row) for row in rows]

    def alike(
        self, own: MachineRecord, *, layout: str, max_spin_rpm: float | None, among: int, knows: Sequence[str]
    ) -> list[MachineRecord]:
        """Others by the same service sheet or with that plate speed, of the last `among` entered of the layout, of
        which any of the facts `knows` is known."""
        last = select(MachineRow).where(MachineRow.layout == layout, MachineRow.id != own.id)
        found = aliased(MachineRow, last.order_by(MachineRow.id.desc()).limit(among).subquery())
        same = [found.sheet == own.sheet] if own.sheet is not None else []
        if max_spin_rpm is not None:
            same.append(func.json_value(found.facts, "$.max_spin_rpm") == max_spin_rpm)
        if not same:
            return []
        known = [func.json_exists(found.facts, f"$.{fact}") == true() for fact in knows]
        rows = self._session.scalars(select(found).where(or_(*same), or_(*known)).order_by(found.id.desc()))
        return [_record(row) for row in rows]

    def like(self, place: str, *, limit: int) -> list[MachineRecord]:
        """Machines whose place shares a word with this one's, most shared words first."""
        words = [word for word in place.casefold().split() if len(word) >= SHORTEST_WORD]
        if not words:
            return []
        wanted = [MachineRow.place.contains(word, autoescape=True) for word in words[:8]]
        rows = self._session.scalars(
            select(MachineRow).where(or_(*wanted)).order_by(MachineRow.changed_at.desc()).limit(10 * limit)
        )
        ranked = sorted(rows, key=lambda row: -sum(word in row.place.casefold() for word in words))
        return [_record(row) for row in ranked[:limit]]


def _record(row: MachineRow) -> MachineRecord:
    return MachineRecord(
        id=row.id,
        uuid=row.uuid,
        place=row.place,
        layout=row.layout,
        facts=row.facts,
        sheet=row.sheet,
        changed_at=row.changed_at,
    )
