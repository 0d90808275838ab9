"""The queue of measurements on a real MariaDB: once for each content, under a lease, shared between jobs."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

import pytest

from eager_ear.store import Database, MeasuringState, Need, UnitOfWork
from eager_ear.store.repositories.measurements import LEASE, MOST_ATTEMPTS
from tests.store.test_store import new_job

NOW = datetime(2026, 3, 4, 5, 6, 7, tzinfo=UTC)
SHOWN = {"key": "spin/1"}


def need(content: str = "a", run: str = "spin/1") -> Need:
    return Need(run=run, content=content * 64, request={"recordings": []})


def wanting(database: Database, *needs: Need, version: str = "1") -> int:
    with UnitOfWork(database) as work:
        job = new_job(work)
        work.measurements.need(job.id, needs, code_version=version, now=NOW)
    return job.id


def done(database: Database, measurement_id: int) -> bool:
    with UnitOfWork(database) as work:
        return work.measurements.finish(
            measurement_id, shown=SHOWN, curves={"t_s": [1.5]}, profile={"step": [1]}, now=NOW
        )


def claimed(database: Database, now: datetime = NOW) -> int | None:
    with UnitOfWork(database) as work:
        found = work.measurements.claim(now=now)
        return found.id if found is not None and found.state is MeasuringState.RUNNING else None


def test_it_is_claimed_once_and_serves_every_job_with_that_content(database: Database) -> None:
    job = wanting(database, need())
    with UnitOfWork(database) as first, UnitOfWork(database) as second:
        found = first.measurements.claim(now=NOW)
        assert found is not None
        assert second.measurements.claim(now=NOW) is None
    with UnitOfWork(database) as work:
        assert work.measurements.keep(found.id, stage="speed", now=NOW)
        assert work.jobs.by_id(job).revision == 1
    assert done(database, found.id)
    again = wanting(database, need())
    assert claimed(database) is None
    with UnitOfWork(database) as work:
        assert work.measurements.wanted_by(found.id) == [job, again]
        assert work.measurements.shown(again) == [SHOWN]
        work.measurements.lead(again, "spin/1")
        assert work.measurements.curves(again) == {"t_s": [1.5]}
        assert work.measurements.curves(job) == {}
        assert work.measurements.profiles([job, again]) == {again: {"step": [1]}}


def test_what_an_older_version_measured_counts_until_it_is_asked_for_afresh(database: Database) -> None:
    wanting(database, need())
    old = claimed(database)
    assert old is not None
    done(database, old)
    job = wanting(database, need(), version="2")
    assert claimed(database) is None
    with UnitOfWork(database) as work:
        work.measurements.again(job, code_version="2", now=NOW)
        assert work.measurements.of_job(job)["spin/1"].state is MeasuringState.QUEUED
    new = claimed(database)
    assert new not in (None, old)


def test_a_dead_workers_claim_is_free_after_its_lease_and_given_up_after_three(database: Database) -> None:
    job = wanting(database, need())
    now = NOW
    for _ in range(MOST_ATTEMPTS):
        assert claimed(database, now) is not None
        assert claimed(database, now + LEASE / 2) is None
        now += LEASE + timedelta(seconds=1)
    assert claimed(database, now) is None
    with UnitOfWork(database) as work:
        given_up = work.measurements.of_job(job)["spin/1"]
    assert given_up.state is MeasuringState.FAILED
    assert "kept" in (given_up.error or "")


def test_other_content_takes_the_place_and_what_nobody_wants_leaves_the_queue(database: Database) -> None:
    job = wanting(database, need("a"))
    with UnitOfWork(database) as work:
        work.measurements.need(job, [need("b")], code_version="1", now=NOW)
        assert work.measurements.unfinished() == 1
        assert work.measurements.of_job(job)["spin/1"].content == "b" * 64
        work.measurements.need(job, [], code_version="1", now=NOW)
        assert work.measurements.unfinished() == 0


def test_a_cancelled_one_takes_no_result(database: Database) -> None:
    job = wanting(database, need())
    running = claimed(database)
    assert running is not None
    with UnitOfWork(database) as work:
        work.measurements.cancel(job, now=NOW)
    with UnitOfWork(database) as work:
        assert not work.measurements.keep(running, stage="speed", now=NOW)
    assert not done(database, running)
    with UnitOfWork(database) as work:
        assert work.measurements.shown(job) == []
        work.measurements.again(job, code_version="1", now=NOW)
    assert claimed(database) == running


@pytest.mark.parametrize("runs", [1, 3])
def test_each_run_of_a_job_is_measured_by_itself(database: Database, runs: int) -> None:
    wanting(database, *(need(content="abc"[k], run=f"spin/{k}") for k in range(runs)))
    found = [claimed(database) for _ in range(runs + 1)]
    assert len({f for f in found if f is not None}) == runs
    assert found[-1] is None
