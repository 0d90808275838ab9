"""Start the database, migrate, load the demo, serve; stop it all again."""

from __future__ import annotations

import contextlib
import ctypes
import os
import signal
import socket
import ssl
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from contextlib import AbstractContextManager
from dataclasses import dataclass
from pathlib import Path

from eager_ear.host.demo import load_demo
from eager_ear.host.mariadb import MariaDbProblem, PrivateMariaDb
from eager_ear.store import Database, StoreError, migrate

LOOPBACK = "127.0.0.1"
READY_TIMEOUT_S = 60.0


@dataclass(frozen=True, kw_only=True)
class Address:
    """Where to serve; with a certificate over https, which browsers want before a page may hear and feel.

    host : 127.0.0.1 for this machine alone; certificate, key : PEM files, both or none
    """

    host: str
    port: int
    certificate: Path | None = None
    key: Path | None = None

    @property
    def problem(self) -> str | None:
        """Why nothing can be served there, None when it can."""
        if (self.certificate is None) != (self.key is None):
            return "--certificate and --key go together."
        for file in (self.certificate, self.key):
            if file is not None and not file.is_file():
                return f"There is no file {file}."
        if _taken(self.host, self.port):
            return (
                f"Port {self.port} at {self.host} cannot be used: stop what runs there, or choose another with --port."
            )
        return None

    @property
    def url(self) -> str:
        return f"{'https' if self.certificate else 'http'}://{self.host}:{self.port}"

    @property
    def words(self) -> list[str]:
        words = ["--host", self.host, "--port", str(self.port)]
        if self.certificate is not None and self.key is not None:
            words += ["--ssl-certfile", str(self.certificate), "--ssl-keyfile", str(self.key)]
        return words


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


def run_everything(address: Address, *, with_demo: bool) -> int:
    """Serve until stopped by Ctrl-C, a signal or `stop`; returns the exit status."""
    if address.problem is not None:
        print(address.problem, file=sys.stderr)
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
            server = start_server(url, address)
        print(f"\nEager Ear is ready: {address.url}\nCtrl-C stops it.", flush=True)
        if address.host != LOOPBACK:
            print("Whoever is on that network can open it: use a network that is the shop's own.", flush=True)
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


def start_server(url: str, address: Address) -> subprocess.Popen[bytes]:
    environment = {**os.environ, "EAGER_EAR_DATABASE_URL": url}
    server = subprocess.Popen(
        [
            sys.executable,
            "-m",
            "eager_ear.web.serve",
            *address.words,
        ],
        env=environment,
        start_new_session=True,
        preexec_fn=_end_with_parent,
    )
    deadline = time.monotonic() + READY_TIMEOUT_S
    while time.monotonic() < deadline and server.poll() is None:
        with contextlib.suppress(OSError), _opened(address):
            return server
        time.sleep(0.1)
    server.terminate()
    raise MariaDbProblem("the server did not come up.")


def _opened(address: Address) -> AbstractContextManager[object]:
    """The server's answer that it is well. Its certificate is for those who come from elsewhere, not for this check."""
    unchecked = ssl.create_default_context()
    unchecked.check_hostname, unchecked.verify_mode = False, ssl.CERT_NONE
    return contextlib.closing(urllib.request.urlopen(f"{address.url}/api/health", timeout=2, context=unchecked))


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


def _taken(host: str, port: int) -> bool:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError:
            return True
    return False
