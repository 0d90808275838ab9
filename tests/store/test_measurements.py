"""The queue of measurements on a real MariaDB: once for each content, under a lease, shared between jobs."""

from __future__ import annotations

from datetime import UTC, datetime

import pytest

from eager_ear.store import Database, MeasuringState, Need, UnitOfWork
from eager_ear.store.repositories.measurements import MOST_ATTEMPTS
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


def done(database: Database, measurement_id: int, owner: str = "one") -> bool:
    with UnitOfWork(database) as work:
        return work.measurements.finish(
            measurement_id, owner=owner, shown=SHOWN, curves={"t_s": [1.5]}, profile={"step": [1]}, now=NOW
        )


def claimed(database: Database, owner: str = "one") -> int | None:
    with UnitOfWork(database) as work:
        found = work.measurements.claim(owner=owner)
        return found.id if found is not None else None


def lease_ends(database: Database, seconds: int) -> None:
    """Every lease so many seconds from now, by the database's clock."""
    with database.engine.begin() as connection:
        connection.exec_driver_sql(
            f"UPDATE measurements SET lease_until = UTC_TIMESTAMP(6) + INTERVAL {seconds} SECOND"
        )


def test_it_is_claimed_once_and_serves_every_job_with_that_content(database: Database) -> None:
    job = wanting(database, need())
    with UnitOfWork(database) as first, UnitOfWork(database) as second:
        found = first.measurements.claim(owner="one")
        assert found is not None
        assert second.measurements.claim(owner="one") is None
    with UnitOfWork(database) as work:
        assert work.measurements.keep(found.id, owner="one", stage="speed")
        assert work.jobs.by_id(job).revision == 1
    assert done(database, found.id)
    again = wanting(database, need())
    assert claimed(database) is None
    with UnitOfWork(database) as work:
        assert work.measurements.wanted_by(found.id) == [job, again]
        assert list(work.measurements.shown(again).values()) == [SHOWN]
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


@pytest.mark.parametrize("ends_s", [-1, 3600])
def test_a_dead_workers_claim_is_free_after_its_lease_even_when_the_clock_was_set_back(
    database: Database, ends_s: int
) -> None:
    wanting(database, need())
    running = claimed(database)
    assert running is not None
    assert claimed(database, "two") is None
    lease_ends(database, ends_s)
    assert claimed(database, "two") == running
    with UnitOfWork(database) as work:
        assert not work.measurements.keep(running, owner="one", stage=None)
    assert not done(database, running)
    assert done(database, running, "two")


def test_what_ends_by_itself_three_times_is_given_up_until_the_next_start(database: Database) -> None:
    job = wanting(database, need())
    for _ in range(MOST_ATTEMPTS):
        running = claimed(database)
        assert running is not None
        with UnitOfWork(database) as work:
            assert work.measurements.crashed(running, owner="one", now=NOW)
    assert claimed(database) is None
    with UnitOfWork(database) as work:
        given_up = work.measurements.of_job(job)["spin/1"]
        assert given_up.state is MeasuringState.FAILED
        assert "kept" in (given_up.error or "")
        assert work.measurements.try_again() == [given_up.id]
    assert claimed(database) == given_up.id


def test_what_is_ended_from_outside_is_not_counted(database: Database) -> None:
    wanting(database, need())
    for _ in range(2 * MOST_ATTEMPTS):
        running = claimed(database)
        assert running is not None
        with UnitOfWork(database) as work:
            assert work.measurements.release(running, owner="one")
    assert claimed(database) is not None


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
        assert not work.measurements.keep(running, owner="one", stage="speed")
    assert not done(database, running)
    with UnitOfWork(database) as work:
        assert work.measurements.shown(job) == {}
        work.measurements.again(job, code_version="1", now=NOW)
    assert claimed(database) == running


@pytest.mark.parametrize("runs", [1, 3])
def test_each_run_of_a_job_is_measured_by_itself(database: Database, runs: int) -> None:
    wanting(database, *(need(content="abc"[k], run=f"spin/{k}") for k in range(runs)))
    found = [claimed(database) for _ in range(runs + 1)]
    assert len({f for f in found if f is not None}) == runs
    assert found[-1] is None
