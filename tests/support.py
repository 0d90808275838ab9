"""Real parts for tests: a private MariaDB, the real server, headless Chromium."""

from __future__ import annotations

import contextlib
import os
import shutil
import time
import urllib.request
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import TypeVar

import httpx
import numpy as np
import soundfile
from playwright.sync_api import Browser, BrowserContext, Page, Playwright
from scipy.signal import resample_poly

from eager_ear.core.signals.types import AccelerationSignal, AudioSignal
from eager_ear.core.simulate import SimulatedCase
from eager_ear.host.running.mariadb import free_port
from eager_ear.host.running.supervisor import KeptProcess, a_worker
from eager_ear.store import Database
from eager_ear.store.records import MeasuringState
from eager_ear.store.tables import MeasurementRow
from eager_ear.store.tables.base import Base

T = TypeVar("T")
ROOT = Path(__file__).resolve().parent.parent
CHROMIUM_FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--autoplay-policy=no-user-gesture-required",
]


def empty(url: str, *, but_measured: bool = False) -> None:
    """Take all data out of a database; what was measured depends on nothing else, and may stay."""
    done = f" WHERE state <> '{MeasuringState.DONE.value}'" if but_measured else ""
    database = Database(url)
    with database.engine.begin() as connection:
        connection.exec_driver_sql("SET FOREIGN_KEY_CHECKS = 0")
        for table in Base.metadata.tables:
            connection.exec_driver_sql(f"DELETE FROM `{table}`{done if table == MeasurementRow.__tablename__ else ''}")
    database.close()


class RunningServer:
    """The application's server as its own process."""

    def __init__(self, database_url: str, *, upload_limit_mb: int = 60, people: bool = False) -> None:
        self.database_url = database_url
        self.port = free_port()
        self.url = f"http://127.0.0.1:{self.port}"
        self._environment = {
            **os.environ,
            "EAGER_EAR_DATABASE_URL": database_url,
            "EAGER_EAR_SIGN_IN": "people" if people else "nobody",
            "EAGER_EAR_INTERFACE": str(ROOT / "frontend" / "dist"),
            "EAGER_EAR_UPLOAD_LIMIT_MB": str(upload_limit_mb),
        }
        self._kept = (
            a_worker(database_url),
            KeptProcess("the server", ["eager_ear.web.serve", "--port", str(self.port)], self._environment),
        )
        self.start()

    def start(self) -> None:
        """Whatever of it does not run."""
        for kept in self._kept:
            if not kept.runs():
                kept.begin()
        deadline = time.monotonic() + 60
        while time.monotonic() < deadline:
            if not all(kept.runs() for kept in self._kept):
                raise RuntimeError("the server ended at its start")
            with contextlib.suppress(OSError), urllib.request.urlopen(f"{self.url}/api/health", timeout=2):
                return
            time.sleep(0.1)
        raise RuntimeError("the server did not come up")

    def kill(self) -> None:
        """As a power cut would: no goodbye."""
        for kept in self._kept:
            if kept.process is not None:
                kept.process.kill()
                kept.process.wait()

    def stop_worker(self) -> None:
        """Whatever is queued from now on waits."""
        self._kept[0].end()

    @property
    def pid(self) -> int:
        process = self._kept[1].process
        return process.pid if process is not None else 0

    @property
    def peak_mb(self) -> float:
        """The most that its process ever held; 0 where it was killed."""
        try:
            status = Path(f"/proc/{self.pid}/status").read_text()
        except OSError:
            return 0.0
        told = next((line for line in status.splitlines() if line.startswith("VmHWM")), "VmHWM 0 kB")
        return int(told.split()[1]) / 1000.0

    def database(self) -> Database:
        return Database(self._environment["EAGER_EAR_DATABASE_URL"])

    def reset(self) -> None:
        """As new: running, and without any data but what was measured of files that may come again."""
        self.start()
        empty(self.database_url, but_measured=True)

    def forget(self) -> None:
        """Let go of what was measured as well: for who wants to see it measured."""
        empty(self.database_url)

    def stop(self) -> None:
        for kept in reversed(self._kept):
            kept.end()


@contextlib.contextmanager
def chromium(driver: Playwright, *, microphone: Path | None = None) -> Iterator[Browser]:
    """Headless Chromium; `microphone` is a WAV file of 44.1 kHz that its microphone hears again and again."""
    executable = shutil.which("chromium") or "/usr/bin/chromium"
    heard = (
        ["--use-fake-device-for-media-stream", f"--use-file-for-fake-audio-capture={microphone}"] if microphone else []
    )
    flags = [*CHROMIUM_FLAGS, "--use-fake-ui-for-media-stream", *heard]
    browser = driver.chromium.launch(executable_path=executable, args=flags)
    try:
        yield browser
    finally:
        browser.close()


@contextlib.contextmanager
def chromium_at_home(driver: Playwright, folder: Path, *, url: str, microphone: Path) -> Iterator[BrowserContext]:
    """Chromium that keeps what it was told in a folder, as a phone's browser does, closed or not."""
    flags = [
        *CHROMIUM_FLAGS,
        "--use-fake-ui-for-media-stream",
        "--use-fake-device-for-media-stream",
        f"--use-file-for-fake-audio-capture={microphone}",
    ]
    context = driver.chromium.launch_persistent_context(
        str(folder),
        executable_path=shutil.which("chromium") or "/usr/bin/chromium",
        args=flags,
        base_url=url,
        viewport={"width": 390, "height": 844},
        locale="en-GB",
    )
    try:
        yield context
    finally:
        context.close()


def phone_beside(page: Page, case: SimulatedCase, *, from_s: float) -> Callable[[], None]:
    """Give a page a phone's motion, as that case's sensor felt it; returns what lets it begin."""
    motion = next(r.signal for r in case.case.recordings if isinstance(r.signal, AccelerationSignal))
    now = motion.t_s >= from_s
    rows = np.concatenate([motion.t_s[None, now] - from_s, motion.axes_m_s2[:, now]]).T
    page.evaluate(
        """rows => {
          window.letItSpin = () => {
            const began = performance.now();
            let next = 0;
            window.setInterval(() => {
              const now = (performance.now() - began) / 1000;
              for (; next < rows.length && rows[next][0] <= now; next += 1) {
                const [, x, y, z] = rows[next];
                const felt = { accelerationIncludingGravity: { x, y, z }, interval: 10 };
                const event = new DeviceMotionEvent("devicemotion", felt);
                Object.defineProperty(event, "timeStamp", { value: began + 1000 * rows[next][0] });
                window.dispatchEvent(event);
              }
            }, 20);
          };
        }""",
        rows.tolist(),
    )
    return lambda: page.evaluate("letItSpin()")


def microphone_file(case: SimulatedCase, path: Path, *, from_s: float) -> Path:
    """That case's sound as a WAV file for the browser's microphone, 44.1 kHz."""
    sound = next(r.signal for r in case.case.recordings if isinstance(r.signal, AudioSignal))
    rate = int(sound.sample_rate_hz)
    samples = resample_poly(sound.samples[int(from_s * rate) :], 44100, rate)
    soundfile.write(path, samples, 44100, subtype="PCM_16")
    return path


def until(ask: Callable[[], T | None], *, within_s: float = 60.0) -> T:
    """The first answer that is something."""
    deadline = time.monotonic() + within_s
    while time.monotonic() < deadline:
        with contextlib.suppress(httpx.HTTPError, OSError):
            if (found := ask()) is not None:
                return found
        time.sleep(0.1)
    raise TimeoutError
