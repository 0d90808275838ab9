"""Fixtures shared by all tests: a real database, the knowledge, simulated cases."""

from __future__ import annotations

import functools
import tempfile
from collections.abc import Callable, Iterator
from itertools import count
from pathlib import Path

import pytest
from sqlalchemy.engine import make_url

from eager_ear.core.diagnosis import Knowledge, load_knowledge
from eager_ear.core.simulate import SimulatedCase, simulate_case
from eager_ear.host.mariadb import PrivateMariaDb
from eager_ear.store import Database, migrate
from tests.support import RunningServer

_numbers = count(1)


@pytest.fixture(scope="session")
def knowledge() -> Knowledge:
    return load_knowledge()


@pytest.fixture(scope="session")
def mariadb_url() -> Iterator[str]:
    # Not below pytest's own folder: a Unix socket's path is limited to about 100 characters.
    with tempfile.TemporaryDirectory(prefix="ee-") as scratch:
        private = PrivateMariaDb(Path(scratch) / "db")
        url = private.start()
        try:
            yield url
        finally:
            private.stop()


@pytest.fixture
def database_url(mariadb_url: str) -> str:
    """An empty database of its own, migrated."""
    name = f"eager_ear_test_{next(_numbers)}"
    admin = Database(mariadb_url)
    with admin.engine.begin() as connection:
        connection.exec_driver_sql(f"CREATE DATABASE {name} CHARACTER SET utf8mb4")
    admin.close()
    url = make_url(mariadb_url).set(database=name).render_as_string(hide_password=False)
    fresh = Database(url)
    migrate(fresh)
    fresh.close()
    return url


@pytest.fixture
def database(database_url: str) -> Iterator[Database]:
    opened = Database(database_url)
    yield opened
    opened.close()


@pytest.fixture
def server(database_url: str) -> Iterator[RunningServer]:
    running = RunningServer(database_url)
    yield running
    running.stop()


@functools.cache
def _simulated(layout: str, fault: str, seed: int, strength: float | None) -> SimulatedCase:
    return simulate_case(layout=layout, faults=[fault], seed=seed, strength=strength)


@pytest.fixture(scope="session")
def simulated() -> Callable[..., SimulatedCase]:
    """Simulated cases, each made once a session: `simulated("front_belt", "spider", 7)`."""

    def make(layout: str, fault: str, seed: int, strength: float | None = None) -> SimulatedCase:
        return _simulated(layout, fault, seed, strength)

    return make
