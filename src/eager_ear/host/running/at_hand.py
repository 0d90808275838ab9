"""The database for commands that work beside the server: the one that runs, or started for as long as it takes."""

from __future__ import annotations

import os
from collections.abc import Iterator
from contextlib import contextmanager

from eager_ear.host.keeping.folder import home
from eager_ear.host.running.mariadb import PrivateMariaDb
from eager_ear.store import Database, migrate


@contextmanager
def database_at_hand(*, migrated: bool = True) -> Iterator[Database]:
    """Open it; what this started is stopped again.

    Raises
    ------
    MariaDbProblem, StoreError
        It cannot be reached, or does not start.
    """
    url = os.environ.get("EAGER_EAR_DATABASE_URL")
    private = None if url else PrivateMariaDb(home() / "db")
    ran = private is None or private.pid() is not None
    try:
        database = Database(url or (private.start() if private is not None else ""))
        try:
            if migrated:
                migrate(database)
            yield database
        finally:
            database.close()
    finally:
        if private is not None and not ran:
            private.stop()
