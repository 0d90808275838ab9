"""Start the database, migrate, load the demo, serve and keep serving; stop it all again."""

from __future__ import annotations

import contextlib
import ipaddress
import os
import signal
import socket
import ssl
import sys
import time
import urllib.request
from collections.abc import Iterator
from contextlib import AbstractContextManager
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from pathlib import Path

import segno

from eager_ear import logs
from eager_ear.host.keeping.daily_copies import DailyCopies
from eager_ear.host.keeping.folder import FolderProblem, bring_earlier_data, home, own_folder, stop_owner, user_home
from eager_ear.host.running.authority import ensure_certificates, lan_addresses
from eager_ear.host.running.mariadb import MariaDbProblem, PrivateMariaDb, free_port
from eager_ear.host.running.privileges import drop_privileges
from eager_ear.host.running.status import LOGS, note_ended, note_serving
from eager_ear.host.running.supervisor import KeptDatabase, Supervisor, a_worker, the_server
from eager_ear.host.running.welcome import Welcome, fingerprint
from eager_ear.host.village.demo import load_demo
from eager_ear.store import Database, StoreError, migrate
from eager_ear.use_cases.shop.people import first_owner_code

READY_TIMEOUT_S = 60.0
LOOK_S = 0.25
WORKERS = 2


@dataclass(frozen=True, kw_only=True)
class Address:
    """Where to serve; with a certificate over https, which browsers want before a page may hear and feel.

    host : 127.0.0.1 for this machine alone; certificate, key : PEM files, both or none
    lan : for the shop's network, with certificates of its own, which are made once the data folder is held
    names : host names by which it may be asked for
    """

    host: str
    port: int
    certificate: Path | None = None
    key: Path | None = None
    lan: bool = False
    names: tuple[str, ...] = ()

    @property
    def problem(self) -> str | None:
        """Why nothing can be served there, None when it can."""
        if (self.certificate is None) != (self.key is None):
            return "--certificate and --key go together."
        if self.lan and self.certificate is not None:
            return "--lan makes its own certificate: leave --certificate and --key out."
        for file in (self.certificate, self.key):
            if file is not None and not file.is_file():
                return f"There is no file {file}."
        if self.certificate is not None and self.key is not None:
            problem = _certificate_problem(self.certificate, self.key)
            if problem is not None:
                return problem
        if not 0 < self.port < 65536:
            return f"There is no port {self.port}: choose one from 1 to 65535 with --port."
        if _taken(self.host, self.port):
            return (
                f"Port {self.port} at {self.host} cannot be used: stop what runs there, or choose another with --port."
            )
        return None

    @property
    def url(self) -> str:
        # An address of IPv6 has colons of its own.
        host = f"[{self.host}]" if ":" in self.host else self.host
        return f"{'https' if self.certificate else 'http'}://{host}:{self.port}"

    @property
    def is_loopback(self) -> bool:
        with contextlib.suppress(ValueError):
            return ipaddress.ip_address(self.host).is_loopback
        return self.host == "localhost"

    @property
    def words(self) -> list[str]:
        words = ["--host", self.host, "--port", str(self.port)]
        if self.certificate is not None and self.key is not None:
            words += ["--ssl-certfile", str(self.certificate), "--ssl-keyfile", str(self.key)]
        return words


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


def run_everything(address: Address, *, with_demo: bool, copies: DailyCopies | None = None) -> int:
    """Serve until stopped by Ctrl-C, a signal or `stop`; returns the exit status.

    Parameters
    ----------
    copies : where a copy of everything is kept every day, if anywhere
    """
    if address.problem is not None:
        print(address.problem, file=sys.stderr)
        return 1
    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, _stop_on_signal)
    supervisor = Supervisor()
    try:
        place = home()
        bring_earlier_data(place)
        with own_folder(place) as folder:
            # Only whoever holds the folder may hand it to somebody else.
            stays = drop_privileges(folder)
            welcome: Welcome | None = None
            if stays is not None:
                print(stays, flush=True)
            try:
                address = _within_the_shop(address, folder) if address.lan else address
                url = _begin(supervisor, folder, address, with_demo=with_demo)
                welcome = _welcome(address, folder) if address.lan else None
                while True:
                    time.sleep(LOOK_S)
                    if copies is not None:
                        copies.look(url, today=datetime.now(UTC).date())
                    for name in supervisor.look():
                        print(f"{name} had ended and was begun again", file=sys.stderr, flush=True)
            finally:
                if welcome is not None:
                    welcome.end()
                for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
                    signal.signal(number, signal.SIG_IGN)
                supervisor.end()
                note_ended(folder)
    except (Stopped, KeyboardInterrupt):
        print("\nstopped", flush=True)
        return 0
    except (FolderProblem, MariaDbProblem, StoreError) as exc:
        print(exc, file=sys.stderr)
        return 1


def _begin(supervisor: Supervisor, folder: Path, address: Address, *, with_demo: bool) -> str:
    """Bring everything up; returns the database's address."""
    url = os.environ.get("EAGER_EAR_DATABASE_URL", "")
    environment = {}
    os.environ[logs.FOLDER] = str(folder / LOGS)
    if not url:
        database_folder = folder / "db"
        with stage("database"):
            kept = KeptDatabase(PrivateMariaDb(database_folder))
            supervisor.begin(kept)
            url = kept.url
        environment["EAGER_EAR_FILES_FOLDER"] = str(database_folder)
    with stage("tables"):
        database = Database(url)
        migrate(database)
    if with_demo:
        with stage("demo data"):
            load_demo(database)
    database.close()
    with stage("server"):
        # One that takes its time keeps nobody else waiting.
        workers = [a_worker(url, number=number) for number in range(1, WORKERS + 1)]
        if address.names:
            environment["EAGER_EAR_NAMES"] = ",".join([*address.names, os.environ.get("EAGER_EAR_NAMES", "")])
        if with_demo and address.is_loopback:
            environment["EAGER_EAR_SIGN_IN"] = "nobody"
        supervisor.begin(*workers, the_server(url, address.words, **environment))
        _wait_for(address, supervisor)
    note_serving(folder, address.url)
    print(f"\nEager Ear is ready: {address.url}\nCtrl-C stops it.", flush=True)
    _tell_of_people(url, address, is_open=(os.environ | environment).get("EAGER_EAR_SIGN_IN") == "nobody")
    return url


def _within_the_shop(address: Address, folder: Path) -> Address:
    """The same with the shop's own certificate, at the address of this machine in its network."""
    addresses = lan_addresses()
    made = ensure_certificates(
        folder / "tls", addresses=addresses, hostname=socket.gethostname(), now=datetime.now(UTC)
    )
    host = addresses[0] if addresses else "0.0.0.0"
    return replace(address, host=host, certificate=made.certificate, key=made.key, names=made.names)


def _welcome(address: Address, folder: Path) -> Welcome | None:
    """The first page for phones, a port above, and its picture to point a phone at."""
    authority = folder / "tls" / "authority.crt"
    try:
        welcome = Welcome(host=address.host, port=address.port + 1, authority=authority, address=address.url)
    except OSError as exc:
        print(f"The first page for phones has no place at port {address.port + 1}: {exc}", file=sys.stderr)
        return None
    page = replace(address, port=address.port + 1, certificate=None, key=None).url
    print(f"\nFor a phone's first visit: {page}", flush=True)
    segno.make(page, micro=False).terminal(compact=True)
    print(f"The authority's fingerprint: {fingerprint(authority.read_bytes())}", flush=True)
    return welcome


def _tell_of_people(url: str, address: Address, *, is_open: bool) -> None:
    if is_open:
        print("Nobody signs in: whoever reaches this address is let in.", flush=True)
        return
    database = Database(url)
    code = first_owner_code(database)
    database.close()
    if code is not None:
        print(f"Nobody has come in yet. The owner's code, once, within three days: {code}", flush=True)
    if not address.is_loopback and address.certificate is None:
        print("Passwords cross that network in the clear: serve with --certificate and --key.", flush=True)


@contextlib.contextmanager
def served(url: str) -> Iterator[Address]:
    """A server and its worker on a database, at a free port of this machine, for as long as they are needed."""
    address = Address(host="127.0.0.1", port=free_port())
    supervisor = Supervisor()
    try:
        supervisor.begin(a_worker(url), the_server(url, address.words, EAGER_EAR_SIGN_IN="nobody"))
        _wait_for(address, supervisor)
        yield address
    finally:
        supervisor.end()


def _wait_for(address: Address, supervisor: Supervisor) -> None:
    deadline = time.monotonic() + READY_TIMEOUT_S
    while time.monotonic() < deadline:
        with contextlib.suppress(OSError), _opened(address):
            return
        time.sleep(0.1)
        supervisor.look()
    raise MariaDbProblem("the server did not come up.")


def _opened(address: Address) -> AbstractContextManager[object]:
    """The server's answer that it is well. Its certificate is for those who come from elsewhere, not for this check."""
    unchecked = ssl.create_default_context()
    unchecked.check_hostname, unchecked.verify_mode = False, ssl.CERT_NONE
    return contextlib.closing(urllib.request.urlopen(f"{address.url}/api/health", timeout=2, context=unchecked))


def stop_everything() -> int:
    """Stop what `demo` or `serve` started from this data folder."""
    folder = home()
    stopped = stop_owner(folder)
    # After a kill of the supervisor itself the database may still run.
    for kept in {folder, user_home()}:
        stopped = PrivateMariaDb(kept / "db").stop() or stopped
    print("stopped" if stopped else "nothing was running")
    return 0


def _taken(host: str, port: int) -> bool:
    try:
        [(family, kind, protocol, _, address), *_] = socket.getaddrinfo(host, port, type=socket.SOCK_STREAM)
    except OSError:
        return True
    with socket.socket(family, kind, protocol) as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(address)
        except OSError:
            return True
    return False


def _certificate_problem(certificate: Path, key: Path) -> str | None:
    """Why nothing can be served with these, None when it can."""
    locked = False

    def no_passphrase() -> str:
        nonlocal locked
        locked = True
        return ""

    try:
        ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER).load_cert_chain(certificate, key, password=no_passphrase)
    except PermissionError:
        return f"{certificate} or {key} cannot be read by who starts this."
    except (ssl.SSLError, OSError, ValueError):
        if locked:
            return f"{key} is locked with a passphrase: hand over a key without one, readable by you alone."
        return f"{certificate} and {key} are not a certificate and its key in PEM."
    return None
