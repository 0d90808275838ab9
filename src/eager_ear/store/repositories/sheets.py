"""Service sheets, and which of them a machine goes by."""

from __future__ import annotations

from sqlalchemy import delete, select, update
from sqlalchemy.orm import Session

from eager_ear.store.errors import NotFound
from eager_ear.store.records import SheetRecord
from eager_ear.store.tables import MachineRow, SheetRow, may_be_id


class Sheets:
    def __init__(self, session: Session) -> None:
        self._session = session

    def of_layout(self, layout: str) -> list[SheetRecord]:
        rows = self._session.scalars(select(SheetRow).where(SheetRow.layout == layout).order_by(SheetRow.name))
        return [_record(row) for row in rows]

    def names(self) -> dict[str, str]:
        """Names of all sheets by their ids."""
        return {row.id: row.name for row in self._session.execute(select(SheetRow.id, SheetRow.name))}

    def get(self, uuid: str) -> SheetRecord:
        """Raises NotFound."""
        row = self._session.get(SheetRow, uuid) if may_be_id(uuid) else None
        if row is None:
            raise NotFound(kind="service sheet", key=uuid)
        return _record(row)

    def keep(self, sheet: SheetRecord) -> None:
        """Keep it, in place of an earlier reading of the same sheet."""
        row = self._session.get(SheetRow, sheet.uuid)
        if row is None:
            row = SheetRow(id=sheet.uuid)
            self._session.add(row)
        row.layout, row.name, row.slots = sheet.layout, sheet.name, dict(sheet.slots)
        row.photo_job, row.changed_by, row.changed_at = sheet.photo_job, sheet.changed_by, sheet.changed_at
        self._session.flush()

    def forget_photographed_at(self, job_uuid: str) -> None:
        """Take out those whose photograph belongs to a visit: without it none is kept."""
        sheets = select(SheetRow.id).where(SheetRow.photo_job == job_uuid)
        gone = list(self._session.scalars(sheets))
        self._session.execute(update(MachineRow).where(MachineRow.sheet.in_(gone)).values(sheet=None))
        self._session.execute(delete(SheetRow).where(SheetRow.id.in_(gone)))

    def of_machine(self, machine_id: int) -> str | None:
        """Id of the sheet that a machine goes by."""
        return self._session.scalar(select(MachineRow.sheet).where(MachineRow.id == machine_id))

    def choose(self, machine_id: int, uuid: str | None) -> None:
        """Raises NotFound."""
        row = self._session.get(MachineRow, machine_id)
        if row is None:
            raise NotFound(kind="machine", key=str(machine_id))
        row.sheet = uuid
        self._session.flush()


def _record(row: SheetRow) -> SheetRecord:
    return SheetRecord(
        uuid=row.id,
        layout=row.layout,
        name=row.name,
        slots=row.slots,
        photo_job=row.photo_job,
        changed_by=row.changed_by,
        changed_at=row.changed_at,
    )
