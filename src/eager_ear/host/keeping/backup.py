"""Copies of everything, from the command line: made while the server runs, read into an empty data folder, checked."""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

from eager_ear.host.keeping.sealing import SealProblem, is_sealed, seal, unseal
from eager_ear.host.running.at_hand import database_at_hand
from eager_ear.host.running.mariadb import MariaDbProblem
from eager_ear.store import StoreError
from eager_ear.store.copying import Manifest, checked_files, copy_in, copy_out

BAD_INPUT = 2


def run_backup(target: Path, *, passphrase: str | None) -> int:
    """Write one file with everything in it; returns the exit status."""
    if target.exists():
        print(f"{target} is there already: name another file, or move it away.", file=sys.stderr)
        return BAD_INPUT
    try:
        with database_at_hand() as database, tempfile.TemporaryDirectory(dir=target.absolute().parent) as scratch:
            written = Path(scratch) / "copy"
            manifest = copy_out(database, written)
            if passphrase is not None:
                sealed = Path(scratch) / "sealed"
                seal(written, sealed, passphrase=passphrase)
                written = sealed
            # Whole or not at all.
            written.rename(target)
    except (MariaDbProblem, StoreError, OSError) as exc:
        return _told(exc)
    print(f"{target}: {_words(manifest)}{', sealed' if passphrase is not None else ''}.")
    return 0


def run_restore(source: Path, *, passphrase: str | None) -> int:
    """Read a copy into the empty data folder; returns the exit status."""
    if not source.is_file():
        print(f"There is no file {source}.", file=sys.stderr)
        return BAD_INPUT
    try:
        with tempfile.TemporaryDirectory() as scratch:
            plain = source
            if is_sealed(source):
                if passphrase is None:
                    print(f"{source} is sealed: give its passphrase.", file=sys.stderr)
                    return BAD_INPUT
                plain = Path(scratch) / "copy"
                unseal(source, plain, passphrase=passphrase)
            with database_at_hand(migrated=False) as database:
                manifest = copy_in(plain, database)
    except (MariaDbProblem, StoreError, SealProblem, OSError) as exc:
        return _told(exc)
    print(f"Restored {_words(manifest)}, each checked against its checksum.")
    return 0


def run_check() -> int:
    """Hold every stored byte against its checksum; returns the exit status."""
    count, damaged = 0, 0
    try:
        with database_at_hand() as database:
            for digest, size, problem in checked_files(database):
                count += 1
                if problem is not None:
                    damaged += 1
                    print(f"{digest[:12]} ({size} bytes): {problem}")
    except (MariaDbProblem, StoreError) as exc:
        return _told(exc)
    print(f"{count} files checked, {damaged} damaged." if damaged else f"{count} files checked, all as they were sent.")
    return 1 if damaged else 0


def _told(problem: Exception) -> int:
    print(problem.sentence() if isinstance(problem, StoreError) else problem, file=sys.stderr)
    return BAD_INPUT


def _words(manifest: Manifest) -> str:
    jobs, entries = manifest.rows.get("jobs", 0), manifest.rows.get("entries", 0)
    size = sum(manifest.files.values()) / 1e6
    return f"{jobs} jobs, {entries} entries, {len(manifest.files)} files of {size:.1f} MB"
