"""Use cases that touch both files and the store: cases in and out, recordings checked and stored, analyses run."""

from __future__ import annotations

import json
import tempfile
import zipfile
from collections.abc import Callable
from dataclasses import dataclass, replace
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
from eager_ear.core.curves import profile_of
from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.errors import BadField, NotMeasurable
from eager_ear.core.signals.spin_profile import ProfileComparison, compare_profiles
from eager_ear.core.signals.types import AccelerationSignal, AudioSignal, Signal
from eager_ear.store import AnalysisSummary, Database, JobRecord, NotFound, RecordingRecord, UnitOfWork, in_unit

# How many visits to machines of one layout a spin is compared with, the newest.
MOST_BESIDE = 60


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

    def stored(work: UnitOfWork) -> RecordingRecord:
        work.jobs.hold(job_id)
        with path.open("rb") as source:
            record = _store(work, job_id, entry, signal, source)
        queue_analysis(work, job_id, knowledge=knowledge)
        return record

    return in_unit(database, stored)


def remove_recording(database: Database, *, recording_id: int, knowledge: Knowledge) -> None:
    """Remove a recording, queue an analysis of what remains. Raises NotFound."""

    def removed(work: UnitOfWork) -> None:
        job_id = work.recordings.get(recording_id).job_id
        work.jobs.hold(job_id)
        work.recordings.remove(recording_id)
        queue_analysis(work, job_id, knowledge=knowledge)

    in_unit(database, removed)


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
    return signal.sample_rate_hz if isinstance(signal, AccelerationSignal) else None


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


@dataclass(frozen=True, kw_only=True)
class OtherSpin:
    """Another visit whose spin can be laid beside this one's."""

    job: JobRecord
    call: AnalysisSummary
    same_place: bool

    @property
    def is_sound(self) -> bool:
        """Whether it was called sound, more likely than not."""
        return self.call.leader == "none" and (self.call.leader_probability or 0.0) > 0.5


@dataclass(frozen=True, kw_only=True)
class SpinsBeside:
    """What a job's spin can be compared with, the same address first, and the comparison that was asked for.

    against : the visits compared with; reason : why there is no comparison
    """

    choices: tuple[OtherSpin, ...]
    against: tuple[OtherSpin, ...]
    comparison: ProfileComparison | None
    reason: str | None


def spins_beside(work: UnitOfWork, job_id: int, *, other_id: int | None) -> SpinsBeside:
    """Compare a job's spin with another visit's; with all that were called sound when `other_id` is None.

    Only machines of the same layout compare. Raises NotFound for a job or another visit that cannot be found.
    """
    job = work.jobs.get(job_id)
    own = work.analyses.newest_of_jobs([job_id], done=True).get(job_id)
    others = [o for o in work.jobs.of_layout(job.machine.layout, limit=MOST_BESIDE) if o.id != job_id]
    calls = work.analyses.newest_of_jobs([o.id for o in others], done=True)
    curves = work.analyses.curves([c.id for c in (*calls.values(), *((own,) if own is not None else ()))])
    profiles = {found: profile_of(stored) for found, stored in curves.items()}
    choices = [
        OtherSpin(job=o, call=calls[o.id], same_place=_same_place(o.place, job.place))
        for o in others
        if o.id in calls and profiles.get(calls[o.id].id) is not None
    ]
    choices.sort(key=lambda c: not c.same_place)
    against = [c for c in choices if (c.is_sound if other_id is None else c.job.id == other_id)]
    if other_id is not None and not against:
        raise NotFound(kind="spin of another visit to compare with", key=str(other_id))
    comparison, reason = None, None
    profile = profiles.get(own.id) if own is not None else None
    if profile is None:
        reason = "No spin of this job has been measured by speed."
    else:
        try:
            comparison = compare_profiles(profile, [p for c in against if (p := profiles[c.call.id]) is not None])
        except NotMeasurable as problem:
            reason = problem.reason
    return SpinsBeside(choices=tuple(choices), against=tuple(against), comparison=comparison, reason=reason)


def _same_place(one: str, other: str) -> bool:
    return one.strip().casefold() == other.strip().casefold()


def job_case(job: JobRecord) -> Case:
    """The job as a case, without its recordings."""
    return Case(
        id=job.case_id or f"job-{job.id}",
        machine=job.machine,
        symptoms=job.symptoms,
        note=job.note,
        checks=job.checks,
    )


def stored_signal(work: UnitOfWork, record: RecordingRecord) -> Signal:
    """A recording's samples, read from the store as from the file that it was. Raises FileProblem."""
    entry = RecordingEntry(facts=record.facts, file=record.facts.name, pa_per_fs=record.pa_per_fs)
    with tempfile.TemporaryDirectory(prefix="eager-ear-") as scratch:
        path = Path(scratch) / record.facts.name
        with path.open("wb") as sink:
            work.recordings.copy_to(record, sink)
        return read_signal(path, entry)


def analyse_job(database: Database, *, job_id: int, knowledge: Knowledge, on_stage: Callable[[str], None]) -> Analysis:
    """Read a job's recordings from the store and analyse them. Raises NotFound, FileProblem."""
    on_stage("reading")
    with UnitOfWork(database) as work:
        job = work.jobs.get(job_id)
        recordings = [
            Recording(facts=record.facts, signal=stored_signal(work, record))
            for record in work.recordings.of_job(job_id)
        ]
    return analyse(replace(job_case(job), recordings=tuple(recordings)), knowledge=knowledge, on_stage=on_stage)
