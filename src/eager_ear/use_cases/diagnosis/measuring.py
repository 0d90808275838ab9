"""Measuring one run of recordings: bytes out of the store, through the core, results back, calls weighed again."""

from __future__ import annotations

import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

from eager_ear.casefile import RecordingEntry, read_signal
from eager_ear.core.case import Recording
from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.diagnosis.evidence import shown_to_json
from eager_ear.core.machine import LAYOUT_CODES, Machine
from eager_ear.core.measure import Measured, measure_recordings
from eager_ear.store import Database, MeasurementRecord, NotFound, UnitOfWork, in_unit
from eager_ear.use_cases.clock import now_utc
from eager_ear.use_cases.diagnosis.versions import code_version
from eager_ear.use_cases.diagnosis.weighing import facts_of_request, note_measuring, refresh, weigh_job
from eager_ear.use_cases.shop.record import knowledge_of_shop
from eager_ear.use_cases.visits.folding import folded


def measure(
    database: Database, wanted: MeasurementRecord, *, knowledge: Knowledge, on_stage: Callable[[str], None]
) -> Measured:
    """Read the recordings of a request and measure them. Raises FileProblem, StoreError."""
    on_stage("reading")
    recordings = [_recording(database, data) for data in wanted.request["recordings"]]
    machine = Machine(**(wanted.request["machine"] or {"layout": LAYOUT_CODES[0]}))
    return measure_recordings(recordings, machine=machine, knowledge=knowledge, on_stage=on_stage)


def _recording(database: Database, data: dict[str, Any]) -> Recording:
    facts = facts_of_request(data)
    entry = RecordingEntry(facts=facts, file=facts.name, pa_per_fs=data["pa_per_fs"])
    with tempfile.TemporaryDirectory(prefix="eager-ear-") as scratch:
        path = Path(scratch) / "recording"
        with path.open("wb") as sink, UnitOfWork(database) as work:
            file = work.files.by_content(data["sha256"])
            work.files.copy_to(file.id, sink)
        return Recording(facts=facts, signal=read_signal(path, entry))


def measured(database: Database, wanted: MeasurementRecord, found: Measured, *, knowledge: Knowledge) -> None:
    """Keep a result and weigh every job that waits for it."""
    shown, curves = shown_to_json(found.shown), found.shown.curves

    def kept(work: UnitOfWork) -> None:
        # Jobs first and by number, as everybody who writes holds them: whoever comes second waits, nobody deadlocks.
        jobs = [work.jobs.hold(job_id) for job_id in work.measurements.wanted_by(wanted.id)]
        profile = curves.get("profile")
        if work.measurements.finish(
            wanted.id, owner=wanted.owner, shown=shown, curves=curves, profile=profile, now=now_utc()
        ):
            sharpened = knowledge_of_shop(work, knowledge=knowledge)
            for job in jobs:
                weigh_job(work, folded(work, job, knowledge=knowledge), knowledge=sharpened)
                note_measuring(work, job.id)

    in_unit(database, kept)


def failed(database: Database, wanted: MeasurementRecord, *, error: str) -> None:
    """Say on every job that waits for it what went wrong."""

    def kept(work: UnitOfWork) -> None:
        work.measurements.fail(wanted.id, owner=wanted.owner, error=error, now=now_utc())
        tell(work, wanted.id)

    in_unit(database, kept)


def released(database: Database, wanted: MeasurementRecord) -> None:
    """Back into the queue: it was ended from outside."""

    def kept(work: UnitOfWork) -> None:
        work.measurements.release(wanted.id, owner=wanted.owner)
        tell(work, wanted.id)

    in_unit(database, kept)


def crashed(database: Database, wanted: MeasurementRecord) -> None:
    """It ended by itself, without a word: another try, or said on every job that waits for it."""

    def kept(work: UnitOfWork) -> None:
        work.measurements.crashed(wanted.id, owner=wanted.owner, now=now_utc())
        tell(work, wanted.id)

    in_unit(database, kept)


def try_again(database: Database) -> None:
    """Another try for what was given up after it had ended by itself: the product may be another by now."""

    def queued(work: UnitOfWork) -> None:
        for measurement_id in work.measurements.try_again():
            tell(work, measurement_id)

    in_unit(database, queued)


def tell(work: UnitOfWork, measurement_id: int) -> None:
    """Tell the lists of every job that waits for a measurement how far it is."""
    for job_id in work.measurements.wanted_by(measurement_id):
        note_measuring(work, job_id)


def measure_again(database: Database, *, job_uuid: str) -> None:
    """Queue all runs of a job afresh. Raises NotFound."""

    def queued(work: UnitOfWork) -> None:
        job = work.jobs.hold(work.jobs.get(job_uuid).id)
        work.measurements.again(job.id, code_version=code_version(), now=now_utc())
        note_measuring(work, job.id)

    in_unit(database, queued)


def stop_measuring(database: Database, *, job_uuid: str) -> None:
    """Stop what waits or runs for a job. Raises NotFound."""

    def stopped(work: UnitOfWork) -> None:
        job = work.jobs.hold(work.jobs.get(job_uuid).id)
        work.measurements.cancel(job.id, now=now_utc())
        note_measuring(work, job.id)

    in_unit(database, stopped)


def take_up_asked(database: Database, *, knowledge: Knowledge, limit: int = 20) -> int:
    """Find out what there is to measure of jobs that came from an earlier version; returns how many were looked at."""
    with UnitOfWork(database) as work:
        asked = work.jobs.asked_to_measure(limit=limit)
    for job_id in asked:

        def looked_at(work: UnitOfWork, job_id: int = job_id) -> None:
            refresh(work, work.jobs.hold(job_id), knowledge=knowledge)

        in_unit(database, looked_at)
    return len(asked)


def require_job(database: Database, job_uuid: str) -> None:
    """Raises NotFound."""
    with UnitOfWork(database) as work:
        if work.jobs.find(job_uuid) is None:
            raise NotFound(kind="job", key=job_uuid)
