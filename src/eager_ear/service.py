"""Use cases that touch both files and the store: cases in and out, recordings checked and stored, analyses run."""

from __future__ import annotations

import json
import tempfile
import zipfile
from collections.abc import Callable
from dataclasses import replace
from datetime import UTC, datetime
from io import BytesIO
from pathlib import Path
from typing import IO

from eager_ear import __version__
from eager_ear.casefile import (
    RecordingEntry,
    description_to_json,
    pack_file,
    read_description,
    read_signal,
    recording_path,
    unpacked,
)
from eager_ear.core.analysis import Analysis, analyse
from eager_ear.core.case import Case, Recording
from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.errors import BadField
from eager_ear.core.signals.types import AccelerationSignal, AudioSignal, Signal
from eager_ear.store import Database, JobRecord, RecordingRecord, UnitOfWork


def now_utc() -> datetime:
    return datetime.now(UTC)


def queue_analysis(work: UnitOfWork, job_id: int, *, knowledge: Knowledge) -> None:
    """Ask for a fresh analysis of everything the job now holds."""
    now = now_utc()
    work.jobs.touch(job_id, now=now)
    work.analyses.queue(job_id, code_version=__version__, knowledge_version=knowledge.version, now=now)


def add_recording(
    database: Database, *, job_id: int, path: Path, entry: RecordingEntry, knowledge: Knowledge
) -> RecordingRecord:
    """Check a file, store it byte for byte, queue an analysis.

    Raises
    ------
    FileProblem
        The file is not what it should be; nothing is stored.
    NotFound
        No such job.
    """
    check_file_name(entry.file)
    signal = read_signal(path, entry)
    with UnitOfWork(database) as work, path.open("rb") as source:
        work.jobs.get(job_id)
        record = _store(work, job_id, entry, signal, source)
        queue_analysis(work, job_id, knowledge=knowledge)
    return record


def check_file_name(name: str) -> None:
    """A plain file name, so that a case exported later is a valid one. Raises BadField."""
    if (
        not name
        or len(name) > 150
        or name.startswith(".")
        or any(c in name for c in '/\\:*?"<>|\0')
        or name == "case.json"
    ):
        raise BadField(field="file name", reason=f"“{name[:60]}” cannot be the name of a recording.")


def _store(work: UnitOfWork, job_id: int, entry: RecordingEntry, signal: Signal, source: IO[bytes]) -> RecordingRecord:
    return work.recordings.add(
        job_id=job_id,
        facts=entry.facts,
        pa_per_fs=entry.pa_per_fs,
        source=source,
        duration_s=signal.duration_s,
        rate_hz=_rate_hz(signal),
        now=now_utc(),
    )


def _rate_hz(signal: Signal) -> float | None:
    if isinstance(signal, AudioSignal):
        return signal.sample_rate_hz
    return signal.median_rate_hz if isinstance(signal, AccelerationSignal) else None


def import_case(database: Database, *, archive: Path, place: str, knowledge: Knowledge) -> JobRecord:
    """A zipped case becomes a job with its recordings; all of it or nothing."""
    with unpacked(archive) as folder:
        return import_case_folder(database, folder=folder, place=place, knowledge=knowledge)


def import_case_folder(
    database: Database, *, folder: Path, place: str, knowledge: Knowledge, created_at: datetime | None = None
) -> JobRecord:
    """A case folder becomes a job with its recordings. Raises FileProblem."""
    description = read_description(folder, knowledge=knowledge)
    read = [
        (entry, recording_path(folder, entry.file), read_signal(recording_path(folder, entry.file), entry))
        for entry in description.recordings
    ]
    case = description.case
    with UnitOfWork(database) as work:
        job = work.jobs.add(
            place=place or case.id or "Imported case",
            machine=case.machine,
            case_id=case.id,
            symptoms=case.symptoms,
            note=case.note,
            checks=case.checks,
            now=created_at or now_utc(),
        )
        for entry, path, signal in read:
            with path.open("rb") as source:
                _store(work, job.id, entry, signal, source)
        work.analyses.queue(job.id, code_version=__version__, knowledge_version=knowledge.version, now=now_utc())
    return job


def export_case(database: Database, *, job_id: int, sink: IO[bytes]) -> str:
    """Write the job as a zipped case; returns a file name for it. Raises NotFound."""
    with UnitOfWork(database) as work:
        job = work.jobs.get(job_id)
        records = work.recordings.of_job(job_id)
        with zipfile.ZipFile(sink, "w") as zipped:
            entries = tuple(RecordingEntry(facts=r.facts, file=r.facts.name, pa_per_fs=r.pa_per_fs) for r in records)
            text = json.dumps(description_to_json(job_case(job), entries), indent=2, ensure_ascii=False) + "\n"
            pack_file(zipped, "case.json", BytesIO(text.encode("utf-8")))
            for record in records:
                with tempfile.SpooledTemporaryFile(max_size=1 << 22) as scratch:
                    work.recordings.copy_to(record, scratch)
                    scratch.seek(0)
                    pack_file(zipped, record.facts.name, scratch)
    stem = "".join(c if c.isalnum() else "-" for c in (job.case_id or job.place).lower()).strip("-")
    return f"{stem or 'case'}.zip"


def job_case(job: JobRecord) -> Case:
    """The job as a case, without its recordings."""
    return Case(
        id=job.case_id or f"job-{job.id}",
        machine=job.machine,
        symptoms=job.symptoms,
        note=job.note,
        checks=job.checks,
    )


def analyse_job(database: Database, *, job_id: int, knowledge: Knowledge, on_stage: Callable[[str], None]) -> Analysis:
    """Read a job's recordings from the store and analyse them. Raises NotFound, FileProblem."""
    on_stage("reading")
    recordings: list[Recording] = []
    with tempfile.TemporaryDirectory(prefix="eager-ear-job-") as scratch, UnitOfWork(database) as work:
        job = work.jobs.get(job_id)
        for record in work.recordings.of_job(job_id):
            path = Path(scratch) / record.facts.name
            with path.open("wb") as sink:
                work.recordings.copy_to(record, sink)
            entry = RecordingEntry(facts=record.facts, file=record.facts.name, pa_per_fs=record.pa_per_fs)
            recordings.append(Recording(facts=record.facts, signal=read_signal(path, entry)))
            path.unlink()
    return analyse(replace(job_case(job), recordings=tuple(recordings)), knowledge=knowledge, on_stage=on_stage)
