"""Fixtures shared by all tests: a real database, the knowledge, simulated cases."""

from __future__ import annotations

import contextlib
import functools
import os
import pickle
from collections.abc import Callable, Iterator
from itertools import count
from pathlib import Path

import httpx
import pytest
from hypothesis import settings
from sqlalchemy.engine import make_url

from eager_ear.core.analysis import Analysis, analyse
from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.simulate import SimulatedCase, simulate_case
from eager_ear.host.running.mariadb import PrivateMariaDb, temporary_mariadb
from eager_ear.knowledge import load_knowledge
from eager_ear.store import Database, migrate
from tests.support import RunningServer, empty

# Set by the process that hands the tests out, so that all of its workers use one database server and one store of
# simulated machines.
SHARED = "EAGER_EAR_TESTS_SHARE"
_numbers = count(1)


# What simulates machines in numbers, drives a browser, starts the whole product or tries hundreds of odd files: left
# out of a quick look.
HERE = Path(__file__).parent
SLOW = ("browser/", "verify/", "faults/", "core/simulate/", "core/live/", "web/", "host/")
SLOW_FILES = (
    "test_belt_pluck",
    "test_command_line",
    "test_invariants",
    "test_migration",
    "test_motor_current",
    "test_spin_profile",
    "test_visit_extras",
)


def is_slow(path: Path) -> bool:
    return path.is_relative_to(HERE) and (f"{path.relative_to(HERE)}/".startswith(SLOW) or path.stem in SLOW_FILES)


def pytest_ignore_collect(collection_path: Path, config: pytest.Config) -> bool | None:
    """In a quick look what is slow is not even read."""
    return True if config.option.markexpr == "not slow" and is_slow(collection_path) else None


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    for item in items:
        if is_slow(item.path):
            item.add_marker(pytest.mark.slow)


def pytest_sessionstart(session: pytest.Session) -> None:
    if getattr(session.config.option, "numprocesses", None) and not hasattr(session.config, "workerinput"):
        stack = contextlib.ExitStack()
        session.config.add_cleanup(stack.close)
        private = stack.enter_context(temporary_mariadb())
        os.environ[SHARED] = str(private.folder)


# Machines are shared: how long an example takes is nobody's failure.
settings.register_profile("untimed", deadline=None)
settings.load_profile("untimed")


@pytest.fixture(scope="session")
def knowledge() -> Knowledge:
    return load_knowledge()


@pytest.fixture(scope="session")
def private_mariadb() -> Iterator[PrivateMariaDb]:
    """The database server that all tests of this run share."""
    if SHARED in os.environ:
        yield PrivateMariaDb(Path(os.environ[SHARED]))
        return
    with temporary_mariadb() as private:
        yield private


@pytest.fixture(scope="session")
def shared_folder(private_mariadb: PrivateMariaDb) -> Path:
    """A folder that all tests of this run share."""
    return private_mariadb.folder


@pytest.fixture(scope="session")
def mariadb_url(private_mariadb: PrivateMariaDb) -> str:
    return private_mariadb.start()


@pytest.fixture(scope="session")
def url_of_this_process(mariadb_url: str) -> str:
    return fresh_database(mariadb_url)


@pytest.fixture
def database_url(url_of_this_process: str) -> str:
    """A migrated database without any data."""
    empty(url_of_this_process)
    return url_of_this_process


def fresh_database(mariadb_url: str) -> str:
    """An empty database of its own, migrated."""
    name = f"eager_ear_test_{os.getpid()}_{next(_numbers)}"
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


# What the server may ever hold, whatever is sent to it.
MOST_SERVER_MB = 600


@pytest.fixture(scope="session")
def server_of_this_process(mariadb_url: str) -> Iterator[RunningServer]:
    running = RunningServer(fresh_database(mariadb_url))
    yield running
    running.stop()


@pytest.fixture
def server(server_of_this_process: RunningServer) -> Iterator[RunningServer]:
    """The real server, without any data. A test may kill it; whatever it sends, the server stays small."""
    server_of_this_process.reset()
    yield server_of_this_process
    assert server_of_this_process.peak_mb < MOST_SERVER_MB


@pytest.fixture
def api(server: RunningServer) -> Iterator[httpx.Client]:
    """A client of the real server."""
    with httpx.Client(base_url=server.url, timeout=60) as client:
        yield client


@functools.cache
def _simulated(folder: Path, layout: str, fault: str, seed: int, strength: float | None) -> SimulatedCase:
    """Made once by whichever process needs it first; the others read it."""
    path = folder / f"{layout}-{fault}-{seed}-{strength}.pickle"
    if path.exists():
        kept: SimulatedCase = pickle.loads(path.read_bytes())
        return kept
    made = simulate_case(layout=layout, faults=[fault], seed=seed, strength=strength)
    draft = path.with_suffix(f".{os.getpid()}")
    draft.write_bytes(pickle.dumps(made))
    draft.rename(path)
    return made


@pytest.fixture(scope="session")
def simulated(shared_folder: Path) -> Callable[..., SimulatedCase]:
    """Simulated cases, each made once a run: `simulated("front_belt", "spider", 7)`."""

    def make(layout: str, fault: str, seed: int, strength: float | None = None) -> SimulatedCase:
        return _simulated(shared_folder, layout, fault, seed, strength)

    return make


@pytest.fixture(scope="session")
def analysed(simulated: Callable[..., SimulatedCase], knowledge: Knowledge) -> Callable[..., Analysis]:
    """What such cases show, each analysed once a process."""

    @functools.cache
    def once(layout: str, fault: str, seed: int, strength: float | None = None) -> Analysis:
        return analyse(simulated(layout, fault, seed, strength).case, knowledge=knowledge)

    return once
