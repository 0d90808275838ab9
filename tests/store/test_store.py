"""The store on a real MariaDB: units of work, jobs, diaries, the register."""

from __future__ import annotations

import threading
import time
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from datetime import UTC, datetime, timedelta, timezone

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import event

from eager_ear.core.visit import Entry
from eager_ear.ids import uuid7
from eager_ear.store import Conflict, Database, JobRecord, JobSummary, NotFound, UnitOfWork, in_unit, migrate
from eager_ear.store.tables import Base

NOW = datetime(2026, 3, 4, 5, 6, 7, 123456, tzinfo=UTC)

SUMMARY = JobSummary(
    place="Weir house",
    layout="top_splined",
    check_count=2,
    recording_count=1,
    bridged=True,
    closed=None,
    rings_at=NOW + timedelta(minutes=20),
    due_on=NOW.date(),
    waits_for="restoring",
    part_on=None,
)


def new_job(work: UnitOfWork) -> JobRecord:
    machine = work.machines.add(uuid=uuid7(NOW), now=NOW)
    return work.jobs.add(uuid=uuid7(NOW), machine_id=machine.id, case_id="c", now=NOW)


def note(seq: int, text: str = "x", *, made_at: datetime = NOW, about: str = "story") -> Entry:
    return Entry(
        id=uuid7(made_at),
        kind="note",
        made_at=made_at,
        received_at=NOW,
        seq=seq,
        body={"text": text, "about": about},
        device="phone",
    )


def test_migrations_make_exactly_the_tables_of_the_code(database: Database) -> None:
    with database.engine.connect() as connection:
        differences = compare_metadata(
            MigrationContext.configure(connection, opts={"compare_type": False}), Base.metadata
        )
    assert differences == []
    migrate(database)


def test_an_entry_comes_back_as_it_was_with_its_zone(database: Database) -> None:
    made_at = datetime(2026, 3, 4, 8, 0, 0, 1, tzinfo=timezone(timedelta(hours=5, minutes=30)))
    written = note(1, "Größe ≥ 3 mm 🔩", made_at=made_at)
    with UnitOfWork(database) as work:
        job = new_job(work)
        work.entries.add(job.id, written)
    with UnitOfWork(database) as work:
        [read] = work.entries.of_job(job.id)
        assert work.entries.find([written.id, uuid7(NOW)]) == {written.id: (job.id, written)}
    assert read == written
    assert read.made_at.utcoffset() == timedelta(hours=5, minutes=30)


def test_an_entry_is_kept_once(database: Database) -> None:
    with UnitOfWork(database) as work:
        job, written = new_job(work), note(1)
        work.entries.add(job.id, written)
    with pytest.raises(Conflict), UnitOfWork(database) as work:
        work.entries.add(job.id, written)


def test_a_row_is_asked_for_once_in_a_unit_and_gone_when_it_is_taken_out(database: Database) -> None:
    with UnitOfWork(database) as work:
        job = new_job(work)
    asked: list[str] = []
    event.listen(database.engine, "before_cursor_execute", lambda *about: asked.append(about[2]))
    with UnitOfWork(database) as work:
        for _ in range(3):
            assert work.jobs.by_id(job.id).uuid == job.uuid
            assert work.shop.settings() == {}
        assert len(asked) == 2
        work.shop.settle({"tax": 0.2}, now=NOW)
        assert work.shop.settings() == {"tax": 0.2}
        work.jobs.forget(job.id)
        with pytest.raises(NotFound):
            work.jobs.by_id(job.id)


def test_nothing_stays_of_a_unit_that_failed(database: Database) -> None:
    def store_and_fail() -> None:
        with UnitOfWork(database) as work:
            work.entries.add(new_job(work).id, note(1))
            raise ZeroDivisionError

    with pytest.raises(ZeroDivisionError):
        store_and_fail()
    with UnitOfWork(database) as work:
        assert work.jobs.count() == 0
        assert work.machines.newest(limit=9) == []


def test_a_unit_that_met_a_deadlock_is_done_again(database: Database) -> None:
    with UnitOfWork(database) as work:
        one, other = new_job(work).id, new_job(work).id
    both_hold = threading.Barrier(2)
    tries: list[int] = []

    def crosswise(first: int, second: int) -> int:
        def change(work: UnitOfWork) -> int:
            tries.append(first)
            work.jobs.hold(first)
            if tries.count(first) == 1:
                both_hold.wait(timeout=10.0)
            work.jobs.hold(second)
            work.jobs.wrote(second, last_seq=1, now=NOW)
            return second

        return in_unit(database, change)

    with ThreadPoolExecutor(2) as pool:
        waiting = [pool.submit(crosswise, one, other), pool.submit(crosswise, other, one)]
        assert [w.result(timeout=30.0) for w in waiting] == [other, one]
    # The database ended one of the two, and that one alone was done again.
    assert len(tries) == 3


def test_who_changes_a_job_waits_for_who_holds_it(database: Database) -> None:
    with UnitOfWork(database) as work:
        job_id = new_job(work).id
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
        work.jobs.wrote(new_job(work).id, last_seq=1, now=datetime(2026, 1, 1))


def test_missing_rows_are_named(database: Database) -> None:
    with UnitOfWork(database) as work:
        with pytest.raises(NotFound, match="no job nowhere"):
            work.jobs.get("nowhere")
        with pytest.raises(NotFound, match="no recording or photo nowhere"):
            work.attachments.get("nowhere")
        with pytest.raises(NotFound, match="no machine nowhere"):
            work.machines.get("nowhere")


def test_lists_show_what_was_last_written(database: Database) -> None:
    with UnitOfWork(database) as work:
        old, new = new_job(work), new_job(work)
        work.jobs.show(old.id, SUMMARY, words=" Weir house it shakes")
        work.jobs.wrote(old.id, last_seq=3, now=NOW + timedelta(hours=1))
    with UnitOfWork(database) as work:
        assert [job.uuid for job in work.jobs.newest(limit=9)] == [old.uuid, new.uuid]
        assert work.jobs.get(old.uuid).summary == SUMMARY
        assert [job.uuid for job in work.jobs.of_layout("top_splined", limit=9)] == [old.uuid]
        assert work.jobs.revisions([old.uuid, new.uuid]) == {old.uuid: 1, new.uuid: 0}


def test_the_register_finds_places_that_sound_alike(database: Database) -> None:
    places = ("Lock cottage 3, scullery", "Lock cottage 1", "Toll bridge", "100 % wool shop")
    with UnitOfWork(database) as work:
        for place in places:
            machine = work.machines.add(uuid=uuid7(NOW), now=NOW)
            work.machines.know(machine.id, {"place": place, "layout": "front_belt", "age_years": 5}, now=NOW)
    with UnitOfWork(database) as work:
        found = [m.place for m in work.machines.like("lock COTTAGE 3, cellar", limit=9)]
        assert found[:2] == ["Lock cottage 3, scullery", "Lock cottage 1"] or set(found[:2]) == set(places[:2])
        assert "Toll bridge" not in found
        assert [m.place for m in work.machines.like("Toll", limit=9)] == ["Toll bridge"]
        # Signs that mean something to the database mean nothing here.
        assert work.machines.like("%%%", limit=9) == []
        assert work.machines.like("", limit=9) == []
        assert work.machines.like("Toll", limit=9)[0].facts == {"layout": "front_belt", "age_years": 5}


def test_notes_on_a_platform_are_read_across_visits(database: Database) -> None:
    with UnitOfWork(database) as work:
        one, other = new_job(work), new_job(work)
        first = note(1, "Hub comes in two kinds.", about="platform")
        work.entries.add(one.id, first)
        work.entries.add(one.id, note(2, "Lives upstairs."))
        corrected = note(1, "Hub comes in three kinds.", about="platform", made_at=NOW + timedelta(hours=1))
        work.entries.add(other.id, corrected)
    with UnitOfWork(database) as work:
        told = [text for _, text in work.entries.notes_about([one.id, other.id], about="platform")]
    assert told == ["Hub comes in two kinds.", "Hub comes in three kinds."]


@pytest.mark.parametrize("every", [1, 3, 30, 90])
def test_words_are_found_however_common_they_are_the_newest_first(database: Database, every: int) -> None:
    visits = 120
    with UnitOfWork(database) as work:
        for number in range(visits):
            job = new_job(work)
            summary = replace(SUMMARY, place=f"Weir {number}")
            work.jobs.show(job.id, summary, words=f" weir {'osier' if number % every == 0 else 'withy'}")
            work.jobs.wrote(job.id, last_seq=1, now=NOW + timedelta(minutes=number))
    held = [f"Weir {number}" for number in reversed(range(visits)) if number % every == 0]
    with UnitOfWork(database) as work:
        page = work.jobs.newest(limit=2, looked_for="osi")
        assert [job.summary.place for job in page] == held[:2]
        last = page[-1]
        further = work.jobs.newest(limit=2, looked_for="osi", before=(last.changed_at, last.id))
        assert [job.summary.place for job in further] == held[2:4]
        assert work.jobs.machines_visited("osier weir", limit=2) == [job.machine_id for job in page]
        assert work.jobs.machines_visited("osier boatyard", limit=2) == work.jobs.machines_visited(" ", limit=2) == []
