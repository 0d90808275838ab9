"""What is kept of a machine and its people: handed out whole, taken away for good, laid together where it was two."""

from __future__ import annotations

import tempfile
import zipfile
from io import BytesIO
from typing import IO

from eager_ear.casefile import pack_file
from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.errors import BadField
from eager_ear.ids import uuid7
from eager_ear.store import Database, JobRecord, UnitOfWork, in_unit
from eager_ear.use_cases.clock import now_utc
from eager_ear.use_cases.visits.bytes_in import forget_bytes
from eager_ear.use_cases.visits.cases import export_case
from eager_ear.use_cases.visits.diary import write
from eager_ear.use_cases.visits.pen import Sender

README = """Everything that is kept of this machine: a zipped case for each visit, with its diary, the customer's name,
recordings and photos as they were sent. Each can be read by any program that reads zip, JSON, WAV and JPEG.
"""
# The device that an entry of the shop's own names.
BY_THE_SHOP = "server"


def export_machine(database: Database, *, machine_uuid: str, sink: IO[bytes], knowledge: Knowledge, who: str) -> str:
    """Write all visits to a machine as one zip, customer's data too, and note who asked; returns a name for it.

    Raises
    ------
    NotFound
        No such machine.
    """
    with UnitOfWork(database) as work:
        machine = work.machines.get(machine_uuid)
        visits = work.jobs.of_machine(machine.id)
        work.people.note(who=who, what="export", about=machine.place, now=now_utc())
    with zipfile.ZipFile(sink, "w") as zipped:
        pack_file(zipped, "README.txt", BytesIO(README.encode()))
        for job in visits:
            with tempfile.TemporaryFile(prefix="eager-ear-export-") as scratch:
                export_case(database, job_uuid=job.uuid, sink=scratch, knowledge=knowledge, with_contact=True)
                scratch.seek(0)
                pack_file(zipped, f"{job.created_at:%Y-%m-%d}-{job.uuid}.zip", scratch)
    stem = "".join(c if c.isalnum() else "-" for c in machine.place.lower()).strip("-")
    return f"{stem[:80] or 'machine'}.zip"


def forget_machine(database: Database, *, machine_uuid: str, place: str, who: str) -> None:
    """Take a machine away with its visits, recordings, photos and people. Nothing brings it back but a copy.

    Parameters
    ----------
    place : as it stands in the register: whoever takes it away has to have read it

    Raises
    ------
    NotFound
        No such machine.
    BadField
        Another place was named.
    """

    def forgotten(work: UnitOfWork) -> None:
        machine = work.machines.get(machine_uuid)
        if " ".join(place.split()) != " ".join(machine.place.split()):
            raise BadField(field="place", reason="is not where this machine stands.")
        for job in work.jobs.of_machine(machine.id):
            _forget(work, work.jobs.hold(job.id))
        work.measurements.forget_unused()
        work.machines.forget(machine.id)
        # What is written down is that it was done, not whose it was.
        work.people.note(who=who, what="forget", about=f"machine {machine.uuid}", now=now_utc())

    in_unit(database, forgotten)


def _forget(work: UnitOfWork, job: JobRecord) -> None:
    for attachment in work.attachments.of_job(job.id).values():
        forget_bytes(work, attachment)
    work.sheets.forget_photographed_at(job.uuid)
    work.jobs.forget(job.id)


def merge_machines(database: Database, *, machine_uuid: str, into: str, who: str | None, knowledge: Knowledge) -> None:
    """Say in every visit to one machine that it was a visit to the other, as a person in that visit would.

    Each says so in its diary, where it can be taken back.

    Raises
    ------
    NotFound
        No such machine, either of them.
    BadField
        Both are the same, or of different layouts.
    """

    def merged(work: UnitOfWork) -> None:
        one, other = work.machines.get(machine_uuid), work.machines.get(into)
        if one.id == other.id:
            raise BadField(field="into", reason="is this very machine.")
        if one.layout and other.layout and one.layout != other.layout:
            raise BadField(field="into", reason="is a machine of another layout: it cannot be the same.")
        for job in work.jobs.of_machine(one.id):
            now = now_utc()
            entry = {
                "id": uuid7(now),
                "kind": "machine",
                "made_at": now.isoformat(),
                "device": BY_THE_SHOP,
                "body": {"known_as": other.uuid},
            }
            write(work, work.jobs.hold(job.id), entries=[entry], sender=Sender(by=who), knowledge=knowledge)
        work.people.note(who=who or "", what="merge", about=f"{one.place} into {other.place}", now=now_utc())

    in_unit(database, merged)


def note_export(database: Database, *, job_uuid: str, with_contact: bool, who: str) -> None:
    """Write down that a case was handed out, and whether with the customer's name. Raises NotFound."""

    def noted(work: UnitOfWork) -> None:
        place = work.jobs.get(job_uuid).summary.place
        about = f"{place}{', with the customer' if with_contact else ''}"
        work.people.note(who=who, what="export", about=about, now=now_utc())

    in_unit(database, noted)
