"""The store on a real MariaDB."""

from __future__ import annotations

import io
import os
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import text

from eager_ear.core.case import HandCheck, RecordingFacts
from eager_ear.core.machine import Machine
from eager_ear.store import AnalysisState, Database, NotFound, StoreError, UnitOfWork, in_unit, migrate
from eager_ear.store.repositories.analyses import LEASE, MOST_ATTEMPTS
from eager_ear.store.repositories.recordings import CHUNK_BYTES
from eager_ear.store.tables import Base

NOW = datetime(2026, 3, 4, 5, 6, 7, 123456, tzinfo=UTC)
MACHINE = Machine(layout="front_belt", max_spin_rpm=1200, pulley_ratio=11.37, rear_bearing="6205", stacked=True)


def new_job(work: UnitOfWork) -> int:
    return work.jobs.add(
        place="Lock cottage 1",
        machine=MACHINE,
        case_id="c",
        symptoms=("growl_in_spin",),
        note="Größe ≥ 3 mm 🔩",
        checks=(HandCheck(check="bounce", values={"corner": "centre", "swings": 3.0}),),
        now=NOW,
    ).id


def add_recording(work: UnitOfWork, job_id: int, content: bytes, name: str = "spin.wav"):  # type: ignore[no-untyped-def]
    facts = RecordingFacts(name=name, kind="audio", test="spin", run="1", start_s=0.25)
    return work.recordings.add(
        job_id=job_id, facts=facts, pa_per_fs=None, source=io.BytesIO(content), duration_s=1.0, rate_hz=48000.0, now=NOW
    )


def test_migrations_make_exactly_the_tables_of_the_code(database: Database) -> None:
    with database.engine.connect() as connection:
        differences = compare_metadata(
            MigrationContext.configure(connection, opts={"compare_type": False}), Base.metadata
        )
    assert differences == []
    migrate(database)


def test_a_job_comes_back_as_it_was(database: Database) -> None:
    with UnitOfWork(database) as work:
        job_id = new_job(work)
    with UnitOfWork(database) as work:
        job = work.jobs.get(job_id)
    assert job.machine == MACHINE
    assert job.note == "Größe ≥ 3 mm 🔩"
    assert job.checks[0].values == {"corner": "centre", "swings": 3.0}
    assert job.created_at == NOW


def test_recordings_are_stored_byte_for_byte_in_chunks(database: Database) -> None:
    content = os.urandom(2 * CHUNK_BYTES + 12345)
    with UnitOfWork(database) as work:
        job_id = new_job(work)
        record = add_recording(work, job_id, content)
    sink = io.BytesIO()
    with UnitOfWork(database) as work:
        work.recordings.copy_to(work.recordings.get(record.id), sink)
    assert sink.getvalue() == content
    assert record.size_bytes == len(content)


def test_a_damaged_chunk_is_noticed(database: Database) -> None:
    with UnitOfWork(database) as work:
        record = add_recording(work, new_job(work), b"sound" * 100)
    with database.engine.begin() as connection:
        connection.execute(text("UPDATE recording_chunks SET content = 'other'"))
    with UnitOfWork(database) as work, pytest.raises(StoreError, match="checksum"):
        work.recordings.copy_to(record, io.BytesIO())


def test_a_recording_of_the_same_name_is_replaced_and_its_chunks_go(database: Database) -> None:
    with UnitOfWork(database) as work:
        job_id = new_job(work)
        add_recording(work, job_id, b"first")
        add_recording(work, job_id, b"second")
    with UnitOfWork(database) as work:
        [only] = work.recordings.of_job(job_id)
        assert b"".join(work.recordings.chunks(only.id)) == b"second"
        assert work.session.scalar(text("SELECT COUNT(*) FROM recording_chunks")) == 1


def test_nothing_stays_of_a_unit_that_failed(database: Database) -> None:
    def store_and_fail() -> None:
        with UnitOfWork(database) as work:
            add_recording(work, new_job(work), b"x")
            raise ZeroDivisionError

    with pytest.raises(ZeroDivisionError):
        store_and_fail()
    with UnitOfWork(database) as work:
        assert work.jobs.count() == 0


def test_a_unit_that_met_a_deadlock_is_done_again(database: Database) -> None:
    with UnitOfWork(database) as work:
        one, other = new_job(work), new_job(work)
    both_hold = threading.Barrier(2)
    tries: list[int] = []

    def crosswise(first: int, second: int) -> int:
        def change(work: UnitOfWork) -> int:
            tries.append(first)
            work.jobs.hold(first)
            if tries.count(first) == 1:
                both_hold.wait(timeout=10.0)
            work.jobs.hold(second)
            work.jobs.touch(second, now=NOW)
            return second

        return in_unit(database, change)

    with ThreadPoolExecutor(2) as pool:
        waiting = [pool.submit(crosswise, one, other), pool.submit(crosswise, other, one)]
        assert [w.result(timeout=30.0) for w in waiting] == [other, one]
    # The database ended one of the two, and that one alone was done again.
    assert len(tries) == 3


def test_who_changes_a_job_waits_for_who_holds_it(database: Database) -> None:
    with UnitOfWork(database) as work:
        job_id = new_job(work)
    order: list[str] = []
    held = threading.Event()

    def slowly(work: UnitOfWork) -> None:
        work.jobs.hold(job_id)
        held.set()
        time.sleep(0.3)
        order.append("first")

    def next_one(work: UnitOfWork) -> None:
        held.wait(timeout=10.0)
        work.jobs.hold(job_id)
        order.append("second")

    with ThreadPoolExecutor(2) as pool:
        for done in [pool.submit(in_unit, database, slowly), pool.submit(in_unit, database, next_one)]:
            done.result(timeout=30.0)
    assert order == ["first", "second"]
    with pytest.raises(NotFound, match="no job 99"):
        in_unit(database, lambda work: work.jobs.hold(99))


def test_times_without_a_zone_are_refused(database: Database) -> None:
    with pytest.raises(Exception, match="zone"), UnitOfWork(database) as work:
        work.jobs.touch(new_job(work), now=datetime(2026, 1, 1))


def test_missing_rows_are_named(database: Database) -> None:
    with UnitOfWork(database) as work:
        with pytest.raises(NotFound, match="no job 99"):
            work.jobs.get(99)
        with pytest.raises(NotFound, match="no recording 99"):
            work.recordings.get(99)


def queued(work: UnitOfWork, job_id: int, now: datetime = NOW) -> int:
    return work.analyses.queue(job_id, code_version="1", knowledge_version="k", now=now).id


RESULT = {"headline": "h", "advice": "commit", "suspects": [{"fault": "belt", "probability": 0.9}]}


def test_an_analysis_is_claimed_once_and_finished(database: Database) -> None:
    with UnitOfWork(database) as work:
        job_id = new_job(work)
        analysis_id = queued(work, job_id)
    with UnitOfWork(database) as first, UnitOfWork(database) as second:
        claimed = first.analyses.claim(now=NOW)
        assert claimed is not None
        assert claimed.id == analysis_id
        assert second.analyses.claim(now=NOW) is None
    with UnitOfWork(database) as work:
        assert work.analyses.keep(analysis_id, stage="speed", now=NOW)
        work.analyses.finish(analysis_id, result=RESULT, curves={"t_s": [1.5]}, now=NOW)
    with UnitOfWork(database) as work:
        done = work.analyses.newest_done(job_id)
    assert done is not None
    assert (done.summary.leader, done.result, done.curves) == ("belt", RESULT, {"t_s": [1.5]})


def test_a_dead_workers_claim_is_free_after_its_lease_and_given_up_after_three(database: Database) -> None:
    with UnitOfWork(database) as work:
        job_id = new_job(work)
        queued(work, job_id)
    now = NOW
    for _ in range(MOST_ATTEMPTS):
        with UnitOfWork(database) as work:
            assert work.analyses.claim(now=now) is not None
        with UnitOfWork(database) as work:
            assert work.analyses.claim(now=now + LEASE / 2) is None
        now += LEASE + timedelta(seconds=1)
    with UnitOfWork(database) as work:
        assert work.analyses.claim(now=now) is None
    with UnitOfWork(database) as work:
        newest = work.analyses.newest(job_id)
    assert newest is not None
    assert newest.state is AnalysisState.FAILED
    assert "kept" in (newest.error or "")


def test_a_newer_request_cancels_the_older_one(database: Database) -> None:
    with UnitOfWork(database) as work:
        job_id = new_job(work)
        old = queued(work, job_id)
    with UnitOfWork(database) as work:
        work.analyses.claim(now=NOW)
    with UnitOfWork(database) as work:
        new = queued(work, job_id)
    with UnitOfWork(database) as work:
        assert not work.analyses.keep(old, stage="speed", now=NOW)
        work.analyses.finish(old, result=RESULT, curves={}, now=NOW)
    with UnitOfWork(database) as work:
        assert work.analyses.newest_done(job_id) is None
        claimed = work.analyses.claim(now=NOW)
        assert claimed is not None
        assert claimed.id == new
