"""A database that an earlier version made, brought to the present one without loss."""

from __future__ import annotations

import getpass
import gzip
import os
import subprocess
from collections.abc import Iterator
from pathlib import Path

import pytest
from sqlalchemy import text
from sqlalchemy.engine import make_url

from eager_ear.core.diagnosis import Knowledge
from eager_ear.store import Database, MeasuringState, UnitOfWork, migrate
from eager_ear.use_cases.diagnosis.measuring import take_up_asked
from eager_ear.use_cases.visits.folding import folded
from eager_ear.worker import process_one

VERSION_1 = Path(__file__).parent / "data" / "version-0001.sql.gz"
# As `sha256sum` gave them of the files that were brought in then.
RECORDINGS = {"spin.wav": 64044, "spin.csv": 36499}


@pytest.fixture
def old_database(mariadb_url: str) -> Iterator[Database]:
    name = f"eager_ear_version_1_{os.getpid()}"
    admin = Database(mariadb_url)
    with admin.engine.begin() as connection:
        connection.exec_driver_sql(f"DROP DATABASE IF EXISTS {name}")
        connection.exec_driver_sql(f"CREATE DATABASE {name} CHARACTER SET utf8mb4")
    admin.close()
    url = make_url(mariadb_url).set(database=name)
    command = ["mariadb", "--no-defaults", f"--socket={url.query['unix_socket']}", f"-u{getpass.getuser()}", name]
    subprocess.run(command, input=gzip.decompress(VERSION_1.read_bytes()), check=True)
    opened = Database(url.render_as_string(hide_password=False))
    yield opened
    opened.close()


def test_everything_that_was_known_is_in_the_diaries(old_database: Database, knowledge: Knowledge) -> None:
    migrate(old_database)
    migrate(old_database)
    with UnitOfWork(old_database) as work:
        newest = work.jobs.newest(limit=9)
        assert len(newest) == 3
        lock = folded(work, next(j for j in newest if j.case_id == "lock-house"), knowledge=knowledge)
        weir = [folded(work, j, knowledge=knowledge) for j in newest if j.summary.place == "Weir cottage"]
    with old_database.engine.connect() as connection:
        words = connection.execute(text("SELECT words FROM jobs")).scalars().all()
    assert any(" nr" in told for told in words)
    assert not any(told[0] in "0123456789" for line in words for told in line.split())
    visit = lock.visit
    assert (visit.story.place, visit.story.facts["layout"]) == ("Lock house, cellar", "front_belt")
    assert visit.story.facts["bearings"] == {"front": "6206", "rear": "6306"}
    assert visit.story.symptoms == ("shakes", "thump_in_spin")
    assert visit.any_time.notes_about("story") == "Größe ≥ 3 mm 🔩"
    assert [(c.check, c.values) for c in visit.hands.checks] == [
        ("bounce", {"corner": "centre", "swings": 3.0}),
        ("rock", {"gap_mm": [0.0, 0.0, 2.5, 0.0]}),
    ]
    assert lock.job.created_at.isoformat() == "2026-10-03T08:30:00.123456+00:00"
    assert {w.visit.story.facts["layout"] for w in weir} == {"top_splined", "front_direct"}
    assert next(w for w in weir if w.visit.story.facts["layout"] == "top_splined").visit.story.facts["stacked"] is True


def test_recordings_keep_their_bytes_and_calls_stand_until_they_are_measured_again(
    old_database: Database, knowledge: Knowledge
) -> None:
    with old_database.engine.connect() as connection:
        before = dict(connection.execute(text("SELECT name, sha256 FROM recordings")).all())
        calls = connection.execute(text("SELECT job_id, headline FROM analyses ORDER BY job_id")).all()
    migrate(old_database)
    with UnitOfWork(old_database) as work:
        lock = next(j for j in work.jobs.newest(limit=9) if j.case_id == "lock-house")
        sent = work.attachments.of_job(lock.id)
        assert {a.name: a.sha256 for a in sent.values()} == before
        assert {a.name: sum(map(len, work.files.read(a.file_id))) for a in sent.values()} == RECORDINGS
        assert [(j.id, j.call.headline) for j in sorted(work.jobs.newest(limit=9), key=lambda j: j.id) if j.call] == [
            tuple(call) for call in calls
        ]
        assert lock.measuring is MeasuringState.ASKED
    assert take_up_asked(old_database, knowledge=knowledge) == 3
    while process_one(old_database, knowledge=knowledge):
        pass
    with UnitOfWork(old_database) as work:
        lock = work.jobs.get(lock.uuid)
        assert lock.measuring is MeasuringState.DONE
        assert lock.call is not None
        assert work.calls.get(lock.call.id).knowledge_version == knowledge.version
        assert work.calls.get(lock.call.id).curves is None


@pytest.mark.parametrize("cut_after", ["entries", "attachments", "calls"])
def test_a_migration_that_was_cut_short_begins_anew(
    old_database: Database, knowledge: Knowledge, cut_after: str
) -> None:
    """As if the power had failed while the tables were filled: some of the new ones are there, the old ones whole."""
    with old_database.engine.begin() as connection:
        connection.exec_driver_sql(f"CREATE TABLE {cut_after} (id INTEGER PRIMARY KEY)")
        connection.exec_driver_sql("ALTER TABLE jobs ADD COLUMN last_seq INTEGER")
    migrate(old_database)
    with UnitOfWork(old_database) as work:
        assert [len(work.entries.of_job(j.id)) for j in sorted(work.jobs.newest(limit=9), key=lambda j: j.id)] == [
            8,
            2,
            3,
        ]
