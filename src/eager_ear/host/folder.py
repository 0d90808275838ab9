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

# Less than this, and the database would not come up; so much more is left for it to live on.
LEAST_FREE_BYTES = 200_000_000
STOP_TIMEOUT_S = 40.0


class FolderProblem(Exception):
    """The data folder cannot be used; the message says why and what to do."""


def home() -> Path:
    """Data folder: EAGER_EAR_HOME, or the user's data folder; the system's for root, whose home others cannot enter."""
    chosen = os.environ.get("EAGER_EAR_HOME")
    if chosen:
        return Path(chosen).expanduser().absolute()
    if os.geteuid() == 0 and "XDG_DATA_HOME" not in os.environ:
        return Path("/var/lib/eager-ear")
    return Path(os.environ.get("XDG_DATA_HOME", "~/.local/share")).expanduser() / "eager-ear"


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
