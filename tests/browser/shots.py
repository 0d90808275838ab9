"""Pictures of the main views, made from the demo data, into docs/screenshots. Run by `./ear shots`."""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

from playwright.sync_api import Browser

from eager_ear.host.demo import load_demo
from eager_ear.host.mariadb import PrivateMariaDb
from eager_ear.store import Database, migrate
from tests.support import ROOT, RunningServer, chromium

WIDE = (1280, 800)
TABLET = (820, 1180)
PHONE = (390, 844)
BEARING, SPIDER, BELT, CORNERS = 1, 2, 4, 9
VIEWS = {
    "board": ("/", WIDE, False),
    "board-phone": ("/", PHONE, False),
    "new-job": ("/new", WIDE, False),
    "hands": (f"/jobs/{SPIDER}/hands", WIDE, False),
    "spin": (f"/jobs/{BEARING}/spin", WIDE, True),
    "spin-phone": (f"/jobs/{BEARING}/spin", PHONE, False),
    "spin-corners": (f"/jobs/{CORNERS}/spin", WIDE, True),
    "call": (f"/jobs/{BEARING}/call", WIDE, False),
    "call-spider-tablet": (f"/jobs/{SPIDER}/call", TABLET, False),
    "call-phone": (f"/jobs/{BELT}/call", PHONE, False),
}


def take(browser: Browser, url: str, folder: Path, names: list[str]) -> None:
    for name, (path, (width, height), whole) in VIEWS.items():
        if names and name not in names:
            continue
        page = browser.new_page(viewport={"width": width, "height": height}, locale="en-GB")
        page.goto(url + path)
        page.wait_for_load_state("networkidle")
        page.wait_for_selector("main h1")
        page.evaluate("document.fonts.ready")
        page.screenshot(path=str(folder / f"{name}.png"), full_page=whole)
        page.close()


def main() -> None:
    folder = ROOT / "docs" / "screenshots"
    names = sys.argv[1:]
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(prefix="ee-") as scratch:
        private = PrivateMariaDb(Path(scratch) / "db")
        url = private.start()
        try:
            database = Database(url)
            migrate(database)
            load_demo(database, url=url)
            database.close()
            server = RunningServer(url)
            try:
                with chromium() as browser:
                    take(browser, server.url, folder, names)
            finally:
                server.stop()
        finally:
            private.stop()


if __name__ == "__main__":
    main()
