"""Everything copied into one file while jobs go on, sealed, restored, checked; and refused where it is damaged."""

from __future__ import annotations

import os
import zipfile
from collections.abc import Iterator
from datetime import date
from pathlib import Path
from unittest.mock import patch

import httpx
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from sqlalchemy import text

from eager_ear.cli import main
from eager_ear.core.diagnosis import Knowledge
from eager_ear.host.keeping import sealing
from eager_ear.host.keeping.daily_copies import DailyCopies
from eager_ear.host.keeping.sealing import PIECE, SealProblem, is_sealed, seal, unseal
from eager_ear.host.village.past import read_past, tell_past
from eager_ear.store import Database, migrate
from eager_ear.store.copying import BackupProblem, checked_files, copy_in, copy_out
from tests.conftest import fresh_database
from tests.support import RunningServer
from tests.web.visits import add_recording, finished, new_job, put, wav


@pytest.fixture
def filled(server: RunningServer, api: httpx.Client, knowledge: Knowledge) -> Iterator[Database]:
    """A shop with ended jobs, a recording of some megabytes, and one that is still arriving."""
    database = Database(server.database_url)
    tell_past(database, knowledge, jobs=read_past()[:4])
    job = new_job(api)
    noise = np.random.default_rng(1).normal(scale=0.1, size=48_000 * 30)
    add_recording(api, job, wav(noise))
    finished(api, job)  # nothing is written while a test compares
    put(api, job, wav(noise[:48_000]), name="quiet.wav")
    yield database
    database.close()


@pytest.fixture
def empty(mariadb_url: str) -> Iterator[Database]:
    database = Database(fresh_database(mariadb_url))
    yield database
    database.close()


def contents(database: Database) -> dict[str, list[tuple[object, ...]]]:
    """Every table's rows, as the database tells them."""
    with database.engine.connect() as connection:
        names = [row[0] for row in connection.execute(text("SHOW TABLES"))]
        return {
            name: sorted((tuple(r) for r in connection.execute(text(f"SELECT * FROM {name}"))), key=repr)
            for name in names
        }


def test_what_was_copied_is_there_again_to_the_byte(filled: Database, empty: Database, tmp_path: Path) -> None:
    manifest = copy_out(filled, tmp_path / "copy.zip")
    assert manifest.rows["jobs"] == 5
    assert len(manifest.files) == 2
    restored = copy_in(tmp_path / "copy.zip", empty)
    assert restored == manifest
    assert contents(empty) == contents(filled)
    # Anybody can open it: a recording lies in it under its checksum.
    with zipfile.ZipFile(tmp_path / "copy.zip") as held:
        digest = max(manifest.files, key=lambda d: manifest.files[d])
        assert held.read(f"files/{digest}")[:4] == b"RIFF"


def test_it_is_one_moment_whatever_is_written_meanwhile(filled: Database, empty: Database, tmp_path: Path) -> None:
    with filled.engine.begin() as writing:
        writing.execute(text("UPDATE jobs SET place = 'half-way' WHERE place <> ''"))
        copy_out(filled, tmp_path / "copy.zip")
        writing.rollback()
    copy_in(tmp_path / "copy.zip", empty)
    assert contents(empty) == contents(filled)


def test_damage_is_named_and_nothing_is_restored(filled: Database, empty: Database, tmp_path: Path) -> None:
    whole = tmp_path / "copy.zip"
    copy_out(filled, whole)
    content = bytearray(whole.read_bytes())
    content[len(content) // 2] ^= 0x40
    (tmp_path / "flipped.zip").write_bytes(content)
    (tmp_path / "cut.zip").write_bytes(whole.read_bytes()[:-2000])
    (tmp_path / "other.zip").write_bytes(b"no zip at all")
    for name, told in (("flipped", "damaged"), ("cut", "end is missing"), ("other", "no backup")):
        with pytest.raises(BackupProblem, match=told):
            copy_in(tmp_path / f"{name}.zip", empty)
    assert contents(empty)["jobs"] == []
    copy_in(whole, empty)
    with pytest.raises(BackupProblem, match="empty data folder"):
        copy_in(whole, empty)


def test_a_flipped_bit_in_the_store_is_found_and_not_copied_on(filled: Database, tmp_path: Path) -> None:
    assert all(problem is None for _, _, problem in checked_files(filled))
    with filled.engine.begin() as connection:
        connection.execute(
            text(
                "UPDATE file_chunks SET content = INSERT(content, 100, 1, 'X') "
                "WHERE file_id = (SELECT MIN(file_id) FROM file_chunks) AND start = 0"
            )
        )
    problems = [problem for _, _, problem in checked_files(filled) if problem is not None]
    assert len(problems) == 1
    assert "were changed" in problems[0]
    with pytest.raises(BackupProblem, match="ear check"):
        copy_out(filled, tmp_path / "copy.zip")


def test_from_the_command_line_sealed_and_back(
    filled: Database,
    empty: Database,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
    capsys: pytest.CaptureFixture[str],
) -> None:
    target, secret = tmp_path / "shop.ear", tmp_path / "secret"
    secret.write_text("three herons\n", encoding="utf-8")
    monkeypatch.setenv("EAGER_EAR_DATABASE_URL", filled.url)
    assert main(["backup", str(target), "--passphrase-file", str(secret)]) == 0
    assert "5 jobs" in capsys.readouterr().out
    assert is_sealed(target)
    assert main(["backup", str(target)]) == 2
    assert main(["check"]) == 0
    monkeypatch.setenv("EAGER_EAR_DATABASE_URL", empty.url)
    assert main(["restore", str(target)]) == 2
    assert "sealed" in capsys.readouterr().err
    secret.write_text("four herons", encoding="utf-8")
    assert main(["restore", str(target), "--passphrase-file", str(secret)]) == 2
    assert "passphrase" in capsys.readouterr().err
    monkeypatch.setenv("EAGER_EAR_PASSPHRASE", "three herons")
    assert main(["restore", str(target)]) == 0
    assert contents(empty) == contents(filled)
    assert main(["restore", str(tmp_path / "nothing")]) == 2


@given(size=st.sampled_from([0, 1, 1000, PIECE - 1, PIECE, PIECE + 1, 2 * PIECE]), where=st.floats(0, 0.999))
@settings(max_examples=25)
def test_a_seal_breaks_wherever_it_is_touched(
    size: int, where: float, tmp_path_factory: pytest.TempPathFactory
) -> None:
    folder = tmp_path_factory.mktemp("sealed")
    plain, sealed, back = folder / "plain", folder / "sealed", folder / "back"
    plain.write_bytes(os.urandom(size))
    # A cheap key: what is tried here is the sealing, not how dear a guess is.
    with patch.object(sealing, "COST", 1 << 4):
        seal(plain, sealed, passphrase="p")
        unseal(sealed, back, passphrase="p")
        assert back.read_bytes() == plain.read_bytes()
        content = bytearray(sealed.read_bytes())
        at = int(where * len(content))
        content[at] ^= 1
        sealed.write_bytes(content)
        with pytest.raises(SealProblem):
            unseal(sealed, back, passphrase="p")
        content[at] ^= 1
        sealed.write_bytes(content[:-1])
        with pytest.raises(SealProblem):
            unseal(sealed, back, passphrase="p")


def test_a_day_has_one_copy_and_only_the_newest_stay(
    database: Database, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    copies = DailyCopies(folder=tmp_path / "copies", keep=3)
    for day in range(1, 6):
        assert copies.look(database.url, today=date(2026, 3, day))
        copies.wait()
        assert not copies.look(database.url, today=date(2026, 3, day))
    (copies.folder / "notes.txt").write_text("mine")
    copies.make(database.url, date(2026, 3, 6))
    assert sorted(p.name for p in copies.folder.iterdir()) == [
        "eager-ear-2026-03-04.zip",
        "eager-ear-2026-03-05.zip",
        "eager-ear-2026-03-06.zip",
        "notes.txt",
    ]
    # A folder that cannot be one is told once, and asked again tomorrow.
    (tmp_path / "file").write_text("")
    beside = DailyCopies(folder=tmp_path / "file", keep=3)
    assert beside.look(database.url, today=date(2026, 3, 7))
    beside.wait()
    assert "was not made" in capsys.readouterr().err
    assert not beside.look(database.url, today=date(2026, 3, 7))
    assert beside.look(database.url, today=date(2026, 3, 8))
    beside.wait()


def test_a_copy_of_an_earlier_version_is_read_and_migrated(mariadb_url: str, empty: Database, tmp_path: Path) -> None:
    older = Database(fresh_database(mariadb_url))
    with older.engine.begin() as connection:
        connection.execute(text("SET foreign_key_checks = 0"))
        for (name,) in connection.execute(text("SHOW TABLES")).all():
            connection.execute(text(f"DROP TABLE {name}"))
    migrate(older, revision="0003")
    with older.engine.begin() as connection:
        connection.execute(
            text(
                "INSERT INTO machines (uuid, place, facts, changed_at) "
                "VALUES ('0190-a', 'Lock house', '{}', '2026-03-04 08:00:00')"
            )
        )
    manifest = copy_out(older, tmp_path / "older.zip")
    older.close()
    assert manifest.revision == "0003"
    copy_in(tmp_path / "older.zip", empty)
    with empty.engine.connect() as connection:
        assert connection.execute(text("SELECT place FROM machines")).scalar() == "Lock house"
        assert connection.execute(text("SELECT COUNT(*) FROM outcomes")).scalar() == 0
