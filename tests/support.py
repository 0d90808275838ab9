"""Real parts for tests: a private MariaDB, the real server, headless Chromium."""

from __future__ import annotations

import contextlib
import os
import shutil
import socket
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from pathlib import Path

from playwright.sync_api import Browser, sync_playwright

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


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


class RunningServer:
    """The application's server as its own process."""

    def __init__(self, database_url: str, *, upload_limit_mb: int = 60) -> None:
        self.port = free_port()
        self.url = f"http://127.0.0.1:{self.port}"
        self._environment = {
            **os.environ,
            "EAGER_EAR_DATABASE_URL": database_url,
            "EAGER_EAR_INTERFACE": str(ROOT / "frontend" / "dist"),
            "EAGER_EAR_UPLOAD_LIMIT_MB": str(upload_limit_mb),
        }
        self.start()

    def start(self) -> None:
        self.process = subprocess.Popen(
            [
                sys.executable,
                "-m",
                "uvicorn",
                "--factory",
                "eager_ear.web.app:from_environment",
                "--host",
                "127.0.0.1",
                "--port",
                str(self.port),
                "--log-level",
                "warning",
            ],
            env=self._environment,
            start_new_session=True,
        )
        deadline = time.monotonic() + 60
        while time.monotonic() < deadline:
            if self.process.poll() is not None:
                raise RuntimeError("the server ended at its start")
            with contextlib.suppress(OSError), urllib.request.urlopen(f"{self.url}/api/health", timeout=2):
                return
            time.sleep(0.1)
        raise RuntimeError("the server did not come up")

    def kill(self) -> None:
        """As a power cut would: no goodbye."""
        self.process.kill()
        self.process.wait()

    def stop(self) -> None:
        self.process.terminate()
        self.process.wait(timeout=20)


@contextlib.contextmanager
def chromium() -> Iterator[Browser]:
    executable = shutil.which("chromium") or "/usr/bin/chromium"
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=executable, args=CHROMIUM_FLAGS)
        try:
            yield browser
        finally:
            browser.close()
