"""The service mode of a job's machine: the sheets of its layout, the one it goes by, and what its own test shows."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any

from eager_ear.core.errors import BadField
from eager_ear.core.proof import Beat, ServiceSheet, Turn, beat, check_sheet
from eager_ear.core.repair import Aside, Repair, TestRow
from eager_ear.store import Database, JobRecord, SheetRecord, UnitOfWork, in_unit
from eager_ear.use_cases.clock import now_utc
from eager_ear.use_cases.shop.people import NotAllowed


@dataclass(frozen=True, kw_only=True)
class KeptSheet:
    """A sheet with the beat of its way in, and whose reading it is."""

    uuid: str
    sheet: ServiceSheet
    beat: Beat
    photo_job: str
    changed_by: str


@dataclass(frozen=True, kw_only=True)
class ServiceMode:
    """sheets : of this layout; chosen : the one this machine goes by; rows, asides : of its own test."""

    layout: str | None
    sheets: tuple[KeptSheet, ...]
    chosen: str | None
    rows: tuple[TestRow, ...]
    asides: tuple[Aside, ...]


def service_mode_of(work: UnitOfWork, job: JobRecord, *, repair: Repair) -> ServiceMode:
    """What is known of the service mode of that machine."""
    layout = work.machines.by_id(job.machine_id).layout
    sheets = tuple(_kept(record) for record in work.sheets.of_layout(layout)) if layout else ()
    chosen = work.sheets.of_machine(job.machine_id)
    return ServiceMode(
        layout=layout,
        sheets=sheets,
        chosen=chosen if chosen in {s.uuid for s in sheets} else None,
        rows=tuple(row for row in repair.guides.rows if layout is None or layout in row.layouts),
        asides=repair.guides.asides,
    )


def keep_sheet(database: Database, job_uuid: str, uuid: str, sheet: ServiceSheet, *, who: str | None) -> None:
    """Keep what was read off a photographed sheet, and take it as this machine's.

    Raises
    ------
    BadField
        Slots that cannot be, or a photograph that this visit does not have.
    NotFound
        No such job.
    NotAllowed
        From a practice job.
    """
    check_sheet(sheet)

    def kept(work: UnitOfWork) -> None:
        job = work.jobs.get(job_uuid)
        if job.practice:
            raise NotAllowed(reason="A practice job keeps no sheet for the shop: read it in one that counts.")
        photo = work.attachments.find(sheet.photo)
        if photo is None or photo.purpose != "photo":
            raise BadField(field="photo", reason="of the sheet has not come yet: without it no sequence is kept.")
        slots = asdict(sheet)
        slots.pop("layout"), slots.pop("name")
        work.sheets.keep(
            SheetRecord(
                uuid=uuid,
                layout=sheet.layout,
                name=sheet.name,
                slots=slots,
                photo_job=work.jobs.by_id(photo.job_id).uuid,
                changed_by=who or "",
                changed_at=now_utc(),
            )
        )
        work.sheets.choose(job.machine_id, uuid)

    in_unit(database, kept)


def choose_sheet(database: Database, job_uuid: str, uuid: str | None) -> None:
    """Say which sheet this machine goes by, or that it is none of those. Raises NotFound, BadField."""

    def chosen(work: UnitOfWork) -> None:
        job = work.jobs.get(job_uuid)
        layout = work.machines.by_id(job.machine_id).layout
        if uuid is not None and work.sheets.get(uuid).layout != layout:
            raise BadField(field="sheet", reason="belongs to another kind of machine.")
        work.sheets.choose(job.machine_id, uuid)

    in_unit(database, chosen)


def _kept(record: SheetRecord) -> KeptSheet:
    slots: Mapping[str, Any] = record.slots
    sheet = ServiceSheet(
        layout=record.layout, name=record.name, **{**slots, "enter": tuple(Turn(**turn) for turn in slots["enter"])}
    )
    return KeptSheet(
        uuid=record.uuid, sheet=sheet, beat=beat(sheet), photo_job=record.photo_job, changed_by=record.changed_by
    )
