"""Start the database, migrate, load the demo, serve; stop it all again."""

from __future__ import annotations

import contextlib
import ctypes
import os
import signal
import socket
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from pathlib import Path

from eager_ear.host.demo import load_demo
from eager_ear.host.mariadb import MariaDbProblem, PrivateMariaDb
from eager_ear.store import Database, StoreError, migrate

HOST = "127.0.0.1"
READY_TIMEOUT_S = 60.0


def home() -> Path:
    """Data folder: EAGER_EAR_HOME, or the user's data folder."""
    chosen = os.environ.get("EAGER_EAR_HOME")
    if chosen:
        return Path(chosen).expanduser().absolute()
    return Path(os.environ.get("XDG_DATA_HOME", "~/.local/share")).expanduser() / "eager-ear"


@contextlib.contextmanager
def stage(name: str) -> Iterator[None]:
    """One line with the time that the stage took."""
    begin = time.monotonic()
    print(f"{name:<24}", end="", flush=True)
    try:
        yield
    except BaseException:
        print("failed", flush=True)
        raise
    print(f"{time.monotonic() - begin:6.1f} s", flush=True)


class Stopped(Exception):
    """Asked to stop by a signal."""


def _stop_on_signal(*_: object) -> None:
    raise Stopped


def run_everything(*, port: int, with_demo: bool) -> int:
    """Serve until stopped by Ctrl-C, a signal or `stop`; returns the exit status."""
    if _taken(port):
        print(f"Port {port} is in use: stop what runs there, or choose another with --port.", file=sys.stderr)
        return 1
    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, _stop_on_signal)
    folder = home()
    folder.mkdir(parents=True, exist_ok=True)
    pid_file = folder / "server.pid"
    pid_file.write_text(str(os.getpid()))
    own_database = None if os.environ.get("EAGER_EAR_DATABASE_URL") else PrivateMariaDb(folder / "db")
    server: subprocess.Popen[bytes] | None = None
    status = 0
    try:
        url = os.environ.get("EAGER_EAR_DATABASE_URL", "")
        if own_database is not None:
            with stage("database"):
                url = own_database.start()
        with stage("tables"):
            database = Database(url)
            migrate(database)
        if with_demo:
            with stage("demo data"):
                load_demo(database, url=url)
        database.close()
        with stage("server"):
            server = _start_server(url, port)
        print(f"\nEager Ear is ready: http://{HOST}:{port}\nCtrl-C stops it.", flush=True)
        status = server.wait()
    except (Stopped, KeyboardInterrupt):
        print("\nstopping", flush=True)
    except (MariaDbProblem, StoreError) as exc:
        print(exc, file=sys.stderr)
        status = 1
    finally:
        for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
            signal.signal(number, signal.SIG_IGN)
        if server is not None and server.poll() is None:
            server.terminate()
            server.wait()
        if own_database is not None:
            own_database.stop()
        pid_file.unlink(missing_ok=True)
    return status


def _end_with_parent() -> None:
    """Ask the kernel to end this process when its parent is killed (Linux, prctl PR_SET_PDEATHSIG)."""
    ctypes.CDLL(None).prctl(1, int(signal.SIGTERM))


def _start_server(url: str, port: int) -> subprocess.Popen[bytes]:
    environment = {**os.environ, "EAGER_EAR_DATABASE_URL": url}
    server = subprocess.Popen(
        [
            sys.executable,
            "-m",
            "uvicorn",
            "--factory",
            "eager_ear.web.app:from_environment",
            "--host",
            HOST,
            "--port",
            str(port),
            "--log-level",
            "warning",
            "--timeout-graceful-shutdown",
            "3",
        ],
        env=environment,
        start_new_session=True,
        preexec_fn=_end_with_parent,
    )
    deadline = time.monotonic() + READY_TIMEOUT_S
    while time.monotonic() < deadline and server.poll() is None:
        with contextlib.suppress(OSError), urllib.request.urlopen(f"http://{HOST}:{port}/api/health", timeout=2):
            return server
        time.sleep(0.1)
    server.terminate()
    raise MariaDbProblem("the server did not come up.")


def stop_everything() -> int:
    """Stop what `demo` or `serve` started from this data folder."""
    folder = home()
    pid_file = folder / "server.pid"
    stopped = False
    with contextlib.suppress(OSError, ValueError):
        pid = int(pid_file.read_text())
        if b"eager" in Path(f"/proc/{pid}/cmdline").read_bytes():
            os.kill(pid, signal.SIGTERM)
            stopped = True
            while Path(f"/proc/{pid}").exists() and pid_file.exists():
                time.sleep(0.1)
    # After a kill of the server itself the database may still run.
    stopped = PrivateMariaDb(folder / "db").stop() or stopped
    pid_file.unlink(missing_ok=True)
    print("stopped" if stopped else "nothing was running")
    return 0


def _taken(port: int) -> bool:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((HOST, port))
        except OSError:
            return True
    return False
