"""The folder that holds all data: whose it is now, and what it needs to be."""

from __future__ import annotations

import contextlib
import fcntl
import os
import shutil
import signal
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

from eager_ear.host.running.mariadb import PrivateMariaDb

# Less than this, and the database would not come up; so much more is left for it to live on.
LEAST_FREE_BYTES = 200_000_000
STOP_TIMEOUT_S = 40.0
SYSTEM_HOME = Path("/var/lib/eager-ear")


class FolderProblem(Exception):
    """The data folder cannot be used; the message says why and what to do."""


def home() -> Path:
    """Data folder: EAGER_EAR_HOME, or the user's data folder; the system's for root, whose home others cannot enter."""
    chosen = os.environ.get("EAGER_EAR_HOME")
    if chosen:
        return Path(chosen).expanduser().absolute()
    if os.geteuid() == 0 and "XDG_DATA_HOME" not in os.environ:
        return SYSTEM_HOME
    return user_home()


def user_home() -> Path:
    """Where the data of whoever starts this lie, if it is not root."""
    return Path(os.environ.get("XDG_DATA_HOME", "~/.local/share")).expanduser() / "eager-ear"


def move_from(earlier: Path, folder: Path) -> bool:
    """Bring the data that an earlier version kept elsewhere to the folder; False where there are none, or it has some.

    Raises
    ------
    FolderProblem
        The database there still runs.
    """
    if earlier == folder or not (earlier / "db").is_dir() or (folder / "db").exists():
        return False
    if PrivateMariaDb(earlier / "db").pid() is not None:
        raise FolderProblem(f"An earlier version still runs from {earlier}: stop it with ./ear stop, then start again.")
    folder.mkdir(parents=True, exist_ok=True)
    for path in earlier.iterdir():
        shutil.move(path, folder / path.name)
    earlier.rmdir()
    return True


def bring_earlier_data(folder: Path) -> None:
    """What root's home held before root's data had a place that others can enter. Raises FolderProblem."""
    if folder == SYSTEM_HOME and move_from(user_home(), folder):
        print(f"The data were moved to {folder}.", flush=True)


@contextlib.contextmanager
def own_folder(folder: Path) -> Iterator[Path]:
    """The folder for this process alone, with a folder for temporary files in it (`temporary`), empty.

    Raises
    ------
    FolderProblem
        It cannot be written to, is nearly full, or is in use.
    """
    try:
        folder.mkdir(parents=True, exist_ok=True)
        lock = (folder / "lock").open("a+")
    except OSError as exc:
        why = f"{folder} cannot be written to ({exc.strerror}): choose another with EAGER_EAR_HOME."
        raise FolderProblem(why) from exc
    with lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError as exc:
            who = _owner(folder) or "unknown"
            why = f"Eager Ear runs from {folder} already (process {who}): stop it with ./ear stop."
            raise FolderProblem(why) from exc
        free = shutil.disk_usage(folder).free
        if free < LEAST_FREE_BYTES:
            needed = LEAST_FREE_BYTES // 1_000_000
            raise FolderProblem(f"Only {free // 1_000_000} MB are free where {folder} is: make room for {needed} MB.")
        lock.truncate(0)
        lock.write(str(os.getpid()))
        lock.flush()
        scratch = folder / "temporary"
        shutil.rmtree(scratch, ignore_errors=True)
        scratch.mkdir()
        before = tempfile.tempdir
        tempfile.tempdir = str(scratch)
        try:
            yield folder
        finally:
            tempfile.tempdir = before
            shutil.rmtree(scratch, ignore_errors=True)


def stop_owner(folder: Path) -> bool:
    """Ask the process that holds the folder to stop and wait until it did; False where there is none."""
    pid = _owner(folder)
    if pid is None:
        return False
    os.kill(pid, signal.SIGTERM)
    deadline = time.monotonic() + STOP_TIMEOUT_S
    while _owner(folder) is not None and time.monotonic() < deadline:
        time.sleep(0.1)
    return True


def _owner(folder: Path) -> int | None:
    """Process id of whoever holds the folder, None when nobody does."""
    try:
        with (folder / "lock").open("r+") as lock:
            try:
                fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except OSError:
                return int(lock.read())
    except (OSError, ValueError):
        return None
    return None
