"""Keeps the database, the server and the worker running: what ends is begun again, with a pause that grows."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Protocol

from eager_ear.host.running.mariadb import MariaDbProblem, PrivateMariaDb

FIRST_PAUSE_S = 0.25
LONGEST_PAUSE_S = 4.0
# What ran so long ended for another reason than the one before.
SOUND_S = 30.0
STOP_S = 10.0


class Kept(Protocol):
    """Something that is to run all the time."""

    name: str

    def begin(self) -> None: ...

    def runs(self) -> bool: ...

    def end(self) -> None: ...


@dataclass
class KeptProcess:
    """One of this program's modules as a process of its own, which ends with this one."""

    name: str
    words: Sequence[str]
    environment: Mapping[str, str]
    process: subprocess.Popen[bytes] | None = None

    def begin(self) -> None:
        self.process = subprocess.Popen(
            [sys.executable, "-m", *self.words, "--parent", str(os.getpid())],
            env={**os.environ, "TMPDIR": tempfile.gettempdir(), **self.environment},
            start_new_session=True,
        )

    def runs(self) -> bool:
        return self.process is not None and self.process.poll() is None

    def end(self) -> None:
        if self.process is None or self.process.poll() is not None:
            return
        self.process.terminate()
        try:
            self.process.wait(STOP_S)
        except subprocess.TimeoutExpired:
            self.process.kill()
            self.process.wait()


@dataclass
class KeptDatabase:
    """The private database, which outlives this process if it is killed, and is found again."""

    database: PrivateMariaDb
    name: str = "the database"
    url: str = ""

    def begin(self) -> None:
        self.url = self.database.start()

    def runs(self) -> bool:
        return self.database.pid() is not None

    def end(self) -> None:
        self.database.stop()


def the_server(url: str, words: Sequence[str], **environment: str) -> KeptProcess:
    """What serves, on a database."""
    environment["EAGER_EAR_DATABASE_URL"] = url
    return KeptProcess(name="the server", words=["eager_ear.web.serve", *words], environment=environment)


def a_worker(url: str, *, number: int = 1) -> KeptProcess:
    """One of those that measure, on a database."""
    environment = {"EAGER_EAR_DATABASE_URL": url}
    return KeptProcess(
        name=f"worker {number}", words=["eager_ear.worker", "--number", str(number)], environment=environment
    )


@dataclass
class Supervisor:
    """Begin what was not begun yet, in this order; end it in the other."""

    kept: list[Kept] = field(default_factory=list)
    clock: Callable[[], float] = time.monotonic
    _begun_s: dict[str, float] = field(default_factory=dict)
    _pause_s: dict[str, float] = field(default_factory=dict)

    def begin(self, *more: Kept) -> None:
        """Begin and keep from now on. Raises MariaDbProblem."""
        for one in more:
            one.begin()
            self._begun_s[one.name] = self.clock()
            self.kept.append(one)

    def look(self) -> list[str]:
        """Begin again what ended, once its pause is over; returns the names of those that were."""
        out = []
        for one in self.kept:
            if one.runs():
                continue
            ran_s = self.clock() - self._begun_s[one.name]
            if ran_s > SOUND_S:
                self._pause_s.pop(one.name, None)
            if ran_s < self._pause_s.get(one.name, 0.0):
                continue
            self._pause_s[one.name] = min(LONGEST_PAUSE_S, 2.0 * self._pause_s.get(one.name, 0.5 * FIRST_PAUSE_S))
            self._begun_s[one.name] = self.clock()
            try:
                one.begin()
            except MariaDbProblem as problem:
                print(problem, file=sys.stderr, flush=True)
                continue
            out.append(one.name)
        return out

    def end(self) -> None:
        """End all that runs, the last first."""
        while self.kept:
            self.kept.pop().end()
