"""Whole cases in the open case format, in and out: all of it, or nothing."""

from __future__ import annotations

import json
import tempfile
import zipfile
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from datetime import datetime, timedelta
from io import BytesIO
from pathlib import Path
from typing import IO, Any

from eager_ear.casefile import (
    CaseDescription,
    FileProblem,
    Inspected,
    RecordingEntry,
    description_to_json,
    diary_text,
    inspect_photo,
    inspect_recording,
    pack_file,
    read_description,
    read_diary,
    recording_path,
    unpacked,
)
from eager_ear.casefile.diary_file import DIARY, PHOTOS
from eager_ear.core.case import RecordingFacts
from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.fields import uuid_text
from eager_ear.core.visit import facts_of
from eager_ear.ids import uuid7
from eager_ear.store import AttachmentRecord, Database, JobRecord, NotFound, UnitOfWork, in_unit
from eager_ear.use_cases.clock import now_utc
from eager_ear.use_cases.visits.bytes_in import store_whole
from eager_ear.use_cases.visits.diary import MOST_ENTRIES, write
from eager_ear.use_cases.visits.folding import folded
from eager_ear.use_cases.visits.pen import Refused, Sender

# Facts of a machine that name another one of the register.
NAMES_MACHINES = ("known_as", "column_with")


@dataclass(frozen=True, kw_only=True)
class _Brought:
    """A recording of a case folder, looked over: its id in the diary, where it lies, what it is."""

    uuid: str
    entry: RecordingEntry
    path: Path
    read: Inspected


def import_case(database: Database, *, archive: Path, place: str, knowledge: Knowledge) -> JobRecord:
    """A zipped case becomes a job. Raises FileProblem."""
    with unpacked(archive) as folder:
        return import_case_folder(database, folder=folder, place=place, knowledge=knowledge)


def import_case_folder(
    database: Database, *, folder: Path, place: str, knowledge: Knowledge, created_at: datetime | None = None
) -> JobRecord:
    """A case folder becomes a job; one with a diary the job that it was, with all ids. Raises FileProblem."""
    description = read_description(folder, knowledge=knowledge)
    lines = read_diary(folder)
    brought = [_looked_over(folder, entry) for entry in description.recordings]
    photos = _photos(folder) if lines is not None else {}
    moment = created_at or now_utc()
    entries = lines if lines is not None else _entries(description, brought, place=place, moment=moment)
    job_uuid = description.job if description.job is not None and lines is not None else uuid7(moment)

    def brought_in(work: UnitOfWork) -> JobRecord:
        job = work.jobs.find(job_uuid)
        if job is None:
            machine = work.machines.add(uuid=uuid7(moment), now=moment)
            case_id = "" if description.case.id == job_uuid else description.case.id
            job = work.jobs.add(uuid=job_uuid, machine_id=machine.id, case_id=case_id, now=moment)
        for recording in brought:
            if work.attachments.find(recording.uuid) is None:
                store_whole(
                    work,
                    job_id=job.id,
                    uuid=recording.uuid,
                    name=recording.entry.facts.name,
                    path=recording.path,
                    facts=asdict(recording.read),
                )
        for uuid, path in photos.items():
            _store_photo(work, job.id, uuid, path)
        told = _of_this_shop(work, entries)
        for first in range(0, len(told), MOST_ENTRIES):
            batch = told[first : first + MOST_ENTRIES]
            written = write(work, work.jobs.by_id(job.id), entries=batch, sender=Sender(), knowledge=knowledge)
            for outcome in written.outcomes:
                if isinstance(outcome, Refused):
                    file = DIARY if lines is not None else "case.json"
                    where = f"{outcome.field}: " if outcome.field else ""
                    raise FileProblem(file=file, reason=f"{where}{outcome.message}")
        return work.jobs.by_id(job.id)

    return in_unit(database, brought_in)


def _of_this_shop(work: UnitOfWork, entries: Sequence[dict[str, Any]]) -> list[dict[str, Any]]:
    """A diary without what names machines and used parts of the shop that it came from, where they are not here."""
    out: list[dict[str, Any]] = []
    strangers: set[str] = set()
    for entry in entries:
        body = entry.get("body")
        kind = entry.get("kind")
        if kind == "fitted_used" and isinstance(body, dict) and work.used_parts.find(str(body.get("kept"))) is None:
            strangers.add(str(entry.get("id")))
        elif strangers and str(entry.get("replaces")) in strangers:
            continue
        elif kind == "machine" and isinstance(body, dict):
            known = {k: v for k, v in body.items() if k not in NAMES_MACHINES or v is None or _is_here(work, str(v))}
            out.append({**entry, "body": known})
        else:
            out.append(entry)
    return out


def _is_here(work: UnitOfWork, machine_uuid: str) -> bool:
    try:
        work.machines.get(machine_uuid)
    except NotFound:
        return False
    return True


def _looked_over(folder: Path, entry: RecordingEntry) -> _Brought:
    path = recording_path(folder, entry.file)
    read = inspect_recording(path, name=entry.file)
    if entry.facts.kind not in read.kinds:
        raise FileProblem(file=entry.file, reason=f"is {' or '.join(read.kinds)}, not {entry.facts.kind}.")
    return _Brought(uuid=entry.recording or uuid7(now_utc()), entry=entry, path=path, read=read)


def _entries(
    description: CaseDescription, brought: Sequence[_Brought], *, place: str, moment: datetime
) -> list[dict[str, Any]]:
    """A case without a diary, as one."""
    case = description.case
    bodies: list[tuple[str, dict[str, Any]]] = [
        ("machine", {**facts_of(case.machine), "place": (place or case.id or "Imported case")[:200]})
    ]
    bodies += [("told", {"symptom": symptom, "present": True}) for symptom in case.symptoms]
    if case.note.strip():
        bodies.append(("note", {"text": case.note[:10_000], "about": "story"}))
    bodies += [("check", {"check": c.check, "values": dict(c.values)}) for c in case.checks if c.values]
    bodies += [("recording", recording_body(b.uuid, b.entry.facts, b.entry.pa_per_fs)) for b in brought]
    # A microsecond apart, so that they count in the order of the case.
    moments = [moment + timedelta(microseconds=k) for k in range(len(bodies))]
    return [
        {"id": uuid7(at), "kind": kind, "made_at": at.isoformat(), "device": "", "body": body}
        for at, (kind, body) in zip(moments, bodies, strict=True)
    ]


def recording_body(uuid: str, facts: RecordingFacts, pa_per_fs: float | None) -> dict[str, Any]:
    """The body of the entry that names a recording."""
    noted = {**asdict(facts), "pa_per_fs": pa_per_fs}
    name = noted.pop("name")
    return {"recording": uuid, "file": name, **{k: v for k, v in noted.items() if v is not None}}


def _photos(folder: Path) -> dict[str, Path]:
    """Photos by the ids that they are named after. Raises FileProblem."""
    found: dict[str, Path] = {}
    for path in sorted((folder / PHOTOS).glob("*")) if (folder / PHOTOS).is_dir() else []:
        if path.is_file():
            found[uuid_text(path.stem, field=f"{PHOTOS}/{path.name[:60]}")] = path
    return found


def _store_photo(work: UnitOfWork, job_id: int, uuid: str, path: Path) -> None:
    if work.attachments.find(uuid) is not None:
        return
    photo = inspect_photo(path, name=path.name)
    now = now_utc()
    with path.open("rb") as source:
        whole = work.files.keep(source, now=now)
    small = work.files.keep(photo.small(), now=now)
    work.attachments.add(
        uuid=uuid,
        job_id=job_id,
        purpose="photo",
        name=path.name,
        total_bytes=whole.size_bytes,
        file_id=whole.id,
        now=now,
    )
    work.attachments.checked(uuid, facts={"width": photo.width, "height": photo.height}, small_file_id=small.id)


def export_case(
    database: Database, *, job_uuid: str, sink: IO[bytes], knowledge: Knowledge, with_contact: bool = False
) -> str:
    """Write the job as a zipped case; returns a file name for it.

    Raises
    ------
    NotFound
        No such job.
    FileProblem
        Its layout is not known yet: a case needs one.
    """
    with UnitOfWork(database) as work:
        found = folded(work, work.jobs.get(job_uuid), knowledge=knowledge)
        sent = work.attachments.of_job(found.job.id)
        case = found.visit.case(found.case_id)
        if case is None:
            raise FileProblem(file="case.json", reason="the machine's layout is not known yet, and a case needs one.")
        names = _names_in_zip([(r.recording, r.facts.name) for r in found.visit.spin.recordings if r.recording in sent])
        entries = tuple(
            RecordingEntry(
                facts=replace(r.facts, name=names[r.recording]),
                file=names[r.recording],
                pa_per_fs=r.pa_per_fs,
                recording=r.recording,
            )
            for r in found.visit.spin.recordings
            if r.recording in names
        )
        diary = [e for e in found.entries if with_contact or e.kind != "contact"]
        with zipfile.ZipFile(sink, "w") as zipped:
            described = description_to_json(case, entries, job=found.job.uuid)
            text = json.dumps(described, indent=2, ensure_ascii=False) + "\n"
            pack_file(zipped, "case.json", BytesIO(text.encode("utf-8")))
            pack_file(zipped, DIARY, BytesIO(diary_text(diary).encode("utf-8")))
            for uuid, name in names.items():
                _pack(work, zipped, name, sent[uuid])
            for uuid, attachment in sent.items():
                if attachment.purpose == "photo" and attachment.is_here:
                    _pack(work, zipped, f"{PHOTOS}/{uuid}{Path(attachment.name).suffix.lower() or '.jpg'}", attachment)
    stem = "".join(c if c.isalnum() else "-" for c in (found.job.case_id or found.visit.story.place).lower()).strip("-")
    return f"{stem[:80] or 'case'}.zip"


def _pack(work: UnitOfWork, zipped: zipfile.ZipFile, name: str, attachment: AttachmentRecord) -> None:
    with tempfile.SpooledTemporaryFile(max_size=1 << 22) as scratch:
        work.files.copy_to(attachment.file_id, scratch)
        scratch.seek(0)
        pack_file(zipped, name, scratch)


def _names_in_zip(given: Sequence[tuple[str, str]]) -> Mapping[str, str]:
    """A name for each recording that any system can unpack, as near to the given one as that allows."""
    taken = {"case.json", DIARY, PHOTOS}
    out: dict[str, str] = {}
    for uuid, name in given:
        plain = "".join("-" if c in '\\/:*?"<>|' or not c.isprintable() else c for c in name).strip(" .") or "recording"
        stem, dot, suffix = plain[:150].rpartition(".")
        if not dot:
            stem, suffix = plain[:150], ""
        candidate, count = plain[:150], 1
        while candidate.casefold() in taken:
            count += 1
            candidate = f"{stem}-{count}{dot}{suffix}"
        taken.add(candidate.casefold())
        out[uuid] = candidate
    return out
