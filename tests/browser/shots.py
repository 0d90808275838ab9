"""Pictures of the main views, made from the demo data, into docs/screenshots. Run by `./ear shots`."""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

from playwright.sync_api import Browser, Page, Playwright, sync_playwright

from eager_ear.core.simulate import simulate_case
from eager_ear.host.running.mariadb import temporary_mariadb
from eager_ear.host.village.demo import load_demo
from eager_ear.store import Database, migrate
from tests.diaries import machine, new_id, told
from tests.support import ROOT, RunningServer, chromium, microphone_file, phone_beside

WIDE = (1280, 800)
TABLET = (820, 1180)
PHONE = (390, 844)
BEARING, SPIDER, BELT, COLUMN, OWN = "Boatyard", "machine 2", "Lock cottage 3", "Hostel", "traded in"
RECORDING = "spin-recording-phone"
STORY = "story-phone"
# A picture of the machine of a job, by the words that the job's place is known by.
ITS_MACHINE = "machine"
VIEWS = {
    "board": ("/", WIDE, False),
    "story": (f"/jobs/{{{BEARING}}}/story", WIDE, False),
    "hands": (f"/jobs/{{{SPIDER}}}/hands", WIDE, False),
    "hands-gap-phone": (f"/jobs/{{{SPIDER}}}/hands/drum_gap_round", PHONE, False),
    "spin": (f"/jobs/{{{BEARING}}}/spin", WIDE, True),
    "spin-phone": (f"/jobs/{{{BEARING}}}/spin", PHONE, False),
    "call": (f"/jobs/{{{BEARING}}}/call", WIDE, False),
    "call-spider-tablet": (f"/jobs/{{{SPIDER}}}/call", TABLET, False),
    "cost": (f"/jobs/{{{BEARING}}}/cost", WIDE, False),
    "cost-own": (f"/jobs/{{{OWN}}}/cost", WIDE, False),
    ITS_MACHINE: (f"/machines/{{{BEARING}}}", WIDE, False),
    "strip": (f"/jobs/{{{BEARING}}}/strip", WIDE, False),
    "strip-phone": (f"/jobs/{{{BEARING}}}/strip", PHONE, False),
    "proof": (f"/jobs/{{{COLUMN}}}/proof", WIDE, False),
    "shop": ("/shop", WIDE, False),
    "record": ("/record", WIDE, False),
    "call-phone": (f"/jobs/{{{BELT}}}/call", PHONE, False),
}


def addressed(page: Page, url: str, path: str) -> str:
    """The path with the id of the job, or of its machine, in the place of the words that its place is known by."""
    if "{" not in path:
        return path
    words = path[path.index("{") + 1 : path.index("}")]
    jobs = page.request.get(f"{url}/api/jobs").json()["jobs"]
    job = min((j for j in jobs if words in j["place"]), key=lambda j: len(j["place"]))["id"]
    if path.startswith("/machines"):
        job = page.request.get(f"{url}/api/jobs/{job}").json()["machine_id"]
    return path.replace(f"{{{words}}}", job)


def take(browser: Browser, url: str, folder: Path, names: list[str]) -> None:
    for name, (path, (width, height), whole) in VIEWS.items():
        if names and name not in names:
            continue
        page = browser.new_page(viewport={"width": width, "height": height}, locale="en-GB")
        page.goto(url + addressed(page, url, path))
        page.wait_for_selector("main h1")
        page.wait_for_function("() => !document.querySelector('[role=status] .drum-turns')")
        page.wait_for_timeout(600)
        page.evaluate("document.fonts.ready")
        page.screenshot(path=str(folder / f"{name}.png"), full_page=whole)
        page.close()


def take_entries(browser: Browser, url: str, folder: Path, names: list[str]) -> None:
    """What is only seen while it is entered: noises to point at."""
    page = browser.new_page(viewport={"width": PHONE[0], "height": PHONE[1]}, locale="en-GB")
    if not names or STORY in names:
        body = {"id": new_id(), "entries": [machine("Toll bridge", layout="front_belt")]}
        job = page.request.post(f"{url}/api/jobs", data=body).json()["job"]["id"]
        page.goto(f"{url}/jobs/{job}/story")
        page.get_by_role("radio", name="full speed").click()
        page.get_by_role("button", name="It is this one: Growls in spin").click()
        page.get_by_role("region", name="Examples to hear").scroll_into_view_if_needed()
        page.screenshot(path=str(folder / f"{STORY}.png"))
    page.close()


def take_recording(driver: Playwright, folder: Path, url: str, names: list[str]) -> None:
    """The spin while it is recorded, on the phone, with a simulated machine in front of it."""
    if names and RECORDING not in names:
        return
    case = simulate_case(layout="front_belt", faults=["spider"], seed=5)
    with tempfile.TemporaryDirectory(prefix="ee-") as scratch:
        wav = microphone_file(case, Path(scratch) / "mic.wav", from_s=0.0)
        with chromium(driver, microphone=wav) as browser:
            page = browser.new_page(viewport={"width": PHONE[0], "height": PHONE[1]}, locale="en-GB")
            entries = [machine("Lock house, cellar", max_spin_rpm=800), told("shakes")]
            body = {"id": new_id(), "entries": entries}
            job = page.request.post(f"{url}/api/jobs", data=body).json()["job"]["id"]
            page.goto(f"{url}/jobs/{job}/spin")
            let_it_spin = phone_beside(page, case, from_s=0.0)
            page.get_by_role("button", name="Record with this device").click()
            page.wait_for_selector("text=Stop recording")
            let_it_spin()
            page.wait_for_selector("text=Switch the motor off", timeout=60_000)
            page.get_by_role("button", name="Stop recording").evaluate("e => e.scrollIntoView({block: 'center'})")
            page.screenshot(path=str(folder / f"{RECORDING}.png"))


def main() -> None:
    folder = ROOT / "docs" / "screenshots"
    names = sys.argv[1:]
    folder.mkdir(parents=True, exist_ok=True)
    with temporary_mariadb() as private:
        url = private.start()
        database = Database(url)
        migrate(database)
        load_demo(database)
        database.close()
        server = RunningServer(url)
        try:
            with sync_playwright() as driver:
                with chromium(driver) as browser:
                    take(browser, server.url, folder, names)
                    take_entries(browser, server.url, folder, names)
                take_recording(driver, folder, server.url, names)
        finally:
            server.stop()


if __name__ == "__main__":
    main()
