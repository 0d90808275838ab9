"""The private database, started by whoever it is; root hands it to its own user; nothing listens on the network."""

from __future__ import annotations

import os
import pwd
import tempfile
from pathlib import Path

import pytest
from sqlalchemy import text

from eager_ear.host.running.mariadb import UNPRIVILEGED, MariaDbProblem, PrivateMariaDb, temporary_mariadb
from eager_ear.host.running.privileges import can_run
from eager_ear.store import Database

ROOT_ONLY = pytest.mark.skipif(os.geteuid() != 0, reason="only root can become somebody else")


def answers(private: PrivateMariaDb) -> bool:
    database = Database(private.start())
    with database.engine.connect() as connection:
        found = connection.execute(text("SELECT @@skip_networking")).scalar()
    database.close()
    return found == 1


@ROOT_ONLY
def test_root_hands_the_database_to_its_own_user(private_mariadb: PrivateMariaDb) -> None:
    assert answers(private_mariadb)
    status = Path(f"/proc/{private_mariadb.pid()}").stat()
    assert pwd.getpwuid(status.st_uid).pw_name == UNPRIVILEGED


@ROOT_ONLY
def test_a_folder_that_its_user_cannot_enter_is_told(tmp_path: Path) -> None:
    closed = tmp_path / "closed"
    closed.mkdir(mode=0o700)
    with pytest.raises(MariaDbProblem, match="closed to other users"):
        PrivateMariaDb(closed / "db").start()


@ROOT_ONLY
def test_who_takes_over_from_root_has_to_be_able_to_run_it() -> None:
    nobody = pwd.getpwnam("nobody")
    # Not below pytest's own folder, which is closed to others.
    with tempfile.TemporaryDirectory(prefix="ee-", dir="/tmp") as scratch:
        folder = Path(scratch)
        folder.chmod(0o711)
        within_reach, out_of_reach = folder / "near", folder / "far" / "python"
        out_of_reach.parent.mkdir(mode=0o700)
        for program in (within_reach, out_of_reach):
            program.write_text("#!/bin/sh\nexit 0\n")
            program.chmod(0o755)
        assert can_run(nobody, str(within_reach))
        assert not can_run(nobody, str(out_of_reach))


def nobody_starts(folder: Path, *, and_stops: bool = True) -> bool:
    """Whether the database of a folder answers nobody, who becomes so in a process of its own and owns the folder."""
    nobody = pwd.getpwnam("nobody")
    for path in (folder, *folder.rglob("*")):
        os.chown(path, nobody.pw_uid, nobody.pw_gid, follow_symlinks=False)
    child = os.fork()
    if child == 0:
        status = 1
        try:
            os.setgroups([])
            os.setgid(nobody.pw_gid)
            os.setuid(nobody.pw_uid)
            private = PrivateMariaDb(folder / "db")
            status = 0 if answers(private) and (not and_stops or private.stop()) else 2
        finally:
            os._exit(status)
    _, ended = os.waitpid(child, 0)
    return os.waitstatus_to_exitcode(ended) == 0


@ROOT_ONLY
def test_anybody_may_start_it_what_root_made_as_well() -> None:
    with temporary_mariadb() as made_by_root:
        folder = made_by_root.folder.parent
        fresh, taken_over = folder / "fresh", folder / "taken"
        fresh.mkdir()
        assert nobody_starts(fresh)
        made_by_root.stop()
        taken_over.mkdir()
        made_by_root.folder.rename(taken_over / "db")
        assert nobody_starts(taken_over)


@ROOT_ONLY
def test_root_beside_a_database_that_runs_as_somebody_else_takes_nothing_from_under_it() -> None:
    with tempfile.TemporaryDirectory(prefix="ee-", dir="/tmp", ignore_cleanup_errors=True) as scratch:
        folder = Path(scratch)
        folder.chmod(0o711)
        assert nobody_starts(folder, and_stops=False)
        private = PrivateMariaDb(folder / "db")
        try:
            # As ./ear status, backup and the others do beside a server that runs.
            assert answers(private)
            assert answers(private)
            nobody = pwd.getpwnam("nobody").pw_uid
            assert {path.lstat().st_uid for path in (folder / "db").rglob("*.frm")} == {nobody}
        finally:
            private.stop()


@pytest.mark.skipif(os.geteuid() == 0, reason="whoever is not root is tested as root above")
def test_it_answers_whoever_started_it(private_mariadb: PrivateMariaDb) -> None:
    assert answers(private_mariadb)
