"""What is killed comes back by itself; what cannot start says why; one folder has one owner."""

from __future__ import annotations

import contextlib
import faulthandler
import os
import signal
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from itertools import pairwise
from pathlib import Path

import httpx
import pytest

from eager_ear.core.diagnosis import Knowledge
from eager_ear.host.keeping.folder import FolderProblem, move_from, own_folder
from eager_ear.host.running.mariadb import PrivateMariaDb, free_port
from eager_ear.host.running.run import WORKERS
from eager_ear.host.running.supervisor import LONGEST_PAUSE_S, Supervisor
from eager_ear.store import Database, MeasuringState, UnitOfWork, migrate
from eager_ear.store.errors import UnsuitableDatabase
from eager_ear.use_cases.shop.room import RESERVE_BYTES, NoRoom, Room
from eager_ear.worker import process_one
from tests.conftest import fresh_database
from tests.diaries import machine, told
from tests.support import ROOT, RunningServer, until
from tests.web.visits import add_recording, finished, new_job, open_job, small_wav

MODULES = {"eager_ear.web.serve": "serve", "eager_ear.worker": "worker"}


def children_of(pid: int) -> dict[str, set[int]]:
    """Process ids by what they run; what has ended already runs nothing."""
    out: dict[str, set[int]] = {name: set() for name in MODULES.values()}
    for path in Path("/proc").glob("[0-9]*/stat"):
        with contextlib.suppress(OSError, IndexError):
            parent = int(path.read_text().rsplit(")", 1)[1].split()[1])
            module = (path.parent / "cmdline").read_text().split("\0")[2]
            if parent == pid and module in MODULES:
                out[MODULES[module]].add(int(path.parent.name))
    return out


def are_new(now: set[int], old: set[int]) -> bool:
    """As many as before, and none of those."""
    return len(now) == len(old) and not now & old


class Product:
    """The whole of it as `serve` runs it, from a folder of its own."""

    def __init__(self, folder: Path) -> None:
        self.folder, port = folder, free_port()
        self.url = f"http://127.0.0.1:{port}"
        self._words = [sys.executable, "-m", "eager_ear.cli", "serve", "--port", str(port)]
        interface = str(ROOT / "frontend/dist")
        self._environment = {**os.environ, "EAGER_EAR_HOME": str(folder), "EAGER_EAR_INTERFACE": interface}
        self._environment["EAGER_EAR_SIGN_IN"] = "nobody"
        self._environment.pop("EAGER_EAR_DATABASE_URL", None)
        self.running: subprocess.Popen[bytes] | None = None

    def start(self) -> subprocess.Popen[bytes]:
        """Unless it runs."""
        if self.running is None or self.running.poll() is not None:
            self.running = subprocess.Popen(self._words, env=self._environment, stdout=subprocess.DEVNULL)
            until(lambda: httpx.get(f"{self.url}/api/health").is_success or None)
        return self.running

    def stop(self) -> None:
        if self.running is not None and self.running.poll() is None:
            self.running.send_signal(signal.SIGTERM)
            self.running.wait(60)
        PrivateMariaDb(self.folder / "db").stop()


@pytest.fixture(scope="module")
def house() -> Iterator[Product]:
    with tempfile.TemporaryDirectory(prefix="ee-", dir="/tmp", ignore_cleanup_errors=True) as scratch:
        folder = Path(scratch)
        folder.chmod(0o711)
        made = Product(folder)
        yield made
        made.stop()


@pytest.fixture
def product(house: Product) -> tuple[subprocess.Popen[bytes], str, Path]:
    """It runs, whatever became of it before."""
    return house.start(), house.url, house.folder


def test_whatever_is_killed_comes_back_and_nothing_is_lost(product: tuple[subprocess.Popen[bytes], str, Path]) -> None:
    running, url, folder = product
    with httpx.Client(base_url=url, timeout=30) as api:
        job = new_job(api)
        add_recording(api, job, small_wav())
        finished(api, job)
        before = api.get(f"/api/jobs/{job}/entries").json()
        for victim in ("worker", "serve"):
            old = children_of(running.pid)[victim]
            for pid in old:
                os.kill(pid, signal.SIGKILL)
            until(lambda victim=victim, old=old: are_new(children_of(running.pid)[victim], old) or None)
            until(lambda: api.get("/api/health").is_success or None)
        database = PrivateMariaDb(folder / "db")
        os.kill(database.pid() or 0, signal.SIGKILL)
        assert (
            until(lambda: api.get(f"/api/jobs/{job}/entries").json() if api.get("/api/jobs").is_success else None)
            == before
        )
        add_recording(api, job, small_wav(1), run="2")
        assert finished(api, job)["measuring"]["state"] in ("done", "nothing")


def test_a_second_owner_of_the_folder_is_told_so_and_harms_nobody(
    product: tuple[subprocess.Popen[bytes], str, Path],
) -> None:
    running, url, folder = product
    environment = {**os.environ, "EAGER_EAR_HOME": str(folder)}
    words = [sys.executable, "-m", "eager_ear.cli", "serve", "--port", str(free_port())]
    second = subprocess.run(words, env=environment, capture_output=True, text=True, check=False)
    assert second.returncode == 1
    assert f"process {running.pid}" in second.stderr
    assert httpx.get(f"{url}/api/jobs").is_success


def test_when_all_is_killed_nothing_is_left_behind_but_the_database_which_is_found_again(
    product: tuple[subprocess.Popen[bytes], str, Path],
) -> None:
    running, _, folder = product
    (folder / "temporary" / "eager-ear-upload-left").mkdir()
    left = children_of(running.pid)
    assert {name: len(pids) for name, pids in left.items()} == {"serve": 1, "worker": WORKERS}
    running.kill()
    running.wait()
    for pid in left["serve"] | left["worker"]:
        until(lambda pid=pid: None if Path(f"/proc/{pid}/cmdline").exists() and ended(pid) is False else True)
    with own_folder(folder):
        assert list((folder / "temporary").iterdir()) == []
    assert PrivateMariaDb(folder / "db").pid() is not None


def ended(pid: int) -> bool:
    with contextlib.suppress(OSError):
        return Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[0] == "Z"
    return True


class Falls:
    """Something that never runs for long."""

    name = "it"

    def __init__(self) -> None:
        self.begun = 0

    def begin(self) -> None:
        self.begun += 1

    def runs(self) -> bool:
        return False

    def end(self) -> None: ...


def test_what_ends_again_and_again_is_begun_with_pauses_that_grow_to_seconds() -> None:
    now = [0.0]
    falls, supervisor = Falls(), Supervisor(clock=lambda: now[0])
    supervisor.begin(falls)
    moments = []
    while now[0] < 30.0:
        if supervisor.look():
            moments.append(now[0])
        now[0] += 0.05
    pauses = [b - a for a, b in pairwise(moments)]
    assert moments[0] == 0.0
    assert pauses[0] < 1.0
    assert all(b >= a - 0.06 for a, b in pairwise(pauses))
    assert LONGEST_PAUSE_S - 0.06 < pauses[-1] < 10.0


def test_a_folder_that_cannot_be_used_is_told(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    (tmp_path / "file").write_text("no folder")
    with pytest.raises(FolderProblem, match="cannot be written to"), own_folder(tmp_path / "file"):
        pass
    monkeypatch.setattr("eager_ear.host.keeping.folder.LEAST_FREE_BYTES", 1 << 60)
    with pytest.raises(FolderProblem, match="make room"), own_folder(tmp_path / "full"):
        pass


def test_data_of_an_earlier_version_are_brought_along_and_never_over_others(tmp_path: Path) -> None:
    earlier, folder = tmp_path / "earlier", tmp_path / "now"
    assert not move_from(earlier, folder)
    (earlier / "db" / "data").mkdir(parents=True)
    (earlier / "db" / "password").write_text("made up")
    assert move_from(earlier, folder)
    assert (folder / "db" / "password").read_text() == "made up"
    assert not earlier.exists()
    (earlier / "db").mkdir(parents=True)
    assert not move_from(earlier, folder)
    assert earlier.exists()


def test_files_are_refused_before_the_database_feels_a_full_disk(tmp_path: Path) -> None:
    room = Room(folder=tmp_path)
    room.require(1)
    with pytest.raises(NoRoom, match="Entries still are"):
        room.require(1 << 60)
    Room(folder=None).require(1 << 60)
    assert RESERVE_BYTES > 100_000_000


def test_tables_of_a_newer_version_are_left_alone(mariadb_url: str) -> None:
    newer = Database(fresh_database(mariadb_url))
    with newer.engine.begin() as connection:
        connection.exec_driver_sql("UPDATE alembic_version SET version_num = '9999'")
    with pytest.raises(UnsuitableDatabase, match="newer version"):
        migrate(newer)
    newer.close()


@pytest.mark.parametrize("told_version", ["10.5.19-MariaDB-log", "8.0.36"])
def test_a_database_that_is_too_old_is_told_so(
    database: Database, monkeypatch: pytest.MonkeyPatch, told_version: str
) -> None:
    monkeypatch.setattr("eager_ear.store.database.VERSION_QUESTION", f"SELECT '{told_version}'")
    with pytest.raises(UnsuitableDatabase, match=r"10\.6 or newer"):
        migrate(database)


def one_measurement(server: RunningServer, api: httpx.Client) -> str:
    """A job with a recording that nobody measures yet, since the worker was stopped."""
    server.stop_worker()
    job = open_job(api, machine(), told("shakes"))
    add_recording(api, job, small_wav())
    return job


@pytest.mark.parametrize(
    ("does", "state", "says"),
    [
        ("faulthandler.disable(); os.kill(os.getpid(), signal.SIGSEGV)", MeasuringState.FAILED, "stopped three times"),
        ("os._exit(7)", MeasuringState.FAILED, "stopped three times"),
        ("np.ones(1 << 30)", MeasuringState.FAILED, "more memory"),
        ("os.kill(os.getpid(), signal.SIGXCPU)", MeasuringState.FAILED, "more than 10 minutes"),
        ("os.kill(os.getpid(), signal.SIGKILL)", MeasuringState.QUEUED, None),
    ],
)
def test_how_a_measurement_ended_decides_what_is_said(
    server: RunningServer,
    api: httpx.Client,
    knowledge: Knowledge,
    monkeypatch: pytest.MonkeyPatch,
    does: str,
    state: MeasuringState,
    says: str | None,
) -> None:
    job = one_measurement(server, api)

    def measure(*_: object, **__: object) -> None:
        import numpy as np

        exec(does, {"os": os, "signal": signal, "np": np, "faulthandler": faulthandler})

    database = server.database()
    monkeypatch.setattr("eager_ear.worker.measure", measure)
    for _ in range(3):
        process_one(database, knowledge=knowledge)
    with UnitOfWork(database) as work:
        [found] = work.measurements.of_job(work.jobs.get(job).id).values()
    assert found.state is state
    assert (says or "") in (found.error or "")
    monkeypatch.undo()
    if state is MeasuringState.QUEUED:
        assert process_one(database, knowledge=knowledge)
    database.close()
