"""A visit in a cellar: the network is cut from its beginning, the browser is closed, and nothing is lost."""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path

import httpx
import numpy as np
import pytest
import soundfile
from playwright.sync_api import Browser, BrowserContext, Page, Playwright, expect

from eager_ear.core.simulate import SimulatedCase
from tests.diaries import check, machine, new_id, told
from tests.support import RunningServer, chromium_at_home, microphone_file, until
from tests.web.visits import open_job, write

WITHIN_MS = 30_000
# Whether the device keeps the lists that it needs without a signal; they are written a moment after they came.
KEPT_LISTS = """() => new Promise((done) => {
  const opening = indexedDB.open("eager-ear");
  opening.onsuccess = () => {
    const asked = opening.result.transaction("cache").objectStore("cache").getAll();
    asked.onsuccess = () => {
      opening.result.close();
      done(asked.result.some((kept) => kept.includes('"symptoms"')));
    };
  };
})"""


@pytest.fixture
def microphone(tmp_path: Path, simulated: Callable[..., SimulatedCase]) -> Path:
    return microphone_file(simulated("top_pulsator", "none", 5), tmp_path / "mic.wav", from_s=8.0)


def opened(context: BrowserContext) -> Page:
    page = context.pages[0] if context.pages else context.new_page()
    page.set_default_timeout(WITHIN_MS)
    return page


def cut(context: BrowserContext, server: RunningServer) -> None:
    context.set_offline(True)
    server.kill()


def test_a_visit_without_a_signal_is_whole_once_there_is_one(
    driver: Playwright, server: RunningServer, tmp_path: Path, microphone: Path
) -> None:
    home = tmp_path / "phone"
    with chromium_at_home(driver, home, url=server.url, microphone=microphone) as context:
        page = opened(context)
        # Opened once with a signal, in the shop.
        page.goto("/")
        page.evaluate("() => navigator.serviceWorker.ready.then(() => null)")
        page.goto("/shop")
        page.wait_for_function("() => navigator.serviceWorker.controller !== null")
        page.wait_for_function(KEPT_LISTS)
        cut(context, server)
        # In the cellar.
        page.goto("/")
        page.get_by_role("link", name="New job").click()
        page.get_by_label("Where is the machine?").fill("Weir house, cellar")
        page.get_by_role("button", name="Open the job").click()
        page.get_by_role("radio", name="Top loader, pulsator").click()
        page.get_by_role("radio", name="spin start").click()
        page.get_by_role("button", name="Bangs as spin starts", exact=True).click()
        # A slip of the finger is taken back before anybody else has seen it.
        page.get_by_role("button", name="Thumps in spin", exact=True).click()
        page.get_by_role("button", name="Undo").click()
        expect(page.get_by_role("button", name="Thumps in spin", exact=True)).to_have_attribute("aria-pressed", "false")
        page.get_by_role("link", name="Hands").click()
        page.get_by_role("link", name="Look at each rod or spring seat").click()
        page.get_by_role("button", name="rear left").click()
        page.get_by_role("button", name="Keep and weigh it").click()
        expect(page.get_by_role("button", name="Take it back")).to_be_visible()
        page.get_by_role("link", name="all checks").click()
        page.get_by_role("link", name="Spin").click()
        page.get_by_role("button", name="Record with this device").click()
        expect(page.get_by_text(re.compile(r"^([3-9]|1\d) s"))).to_be_visible(timeout=WITHIN_MS)
        page.get_by_role("button", name="Stop recording").click()
        page.get_by_role("button", name="Add and analyse").first.click()
        expect(page.get_by_text("kept on this device, waits to be sent")).to_be_visible()
        expect(
            page.get_by_text(re.compile(r"No signal\. 6 entries and 1 recording wait on this device"))
        ).to_be_visible()
        job = page.url.split("/")[4]
    with chromium_at_home(driver, home, url=server.url, microphone=microphone) as context:
        # The browser was closed; the signal is still gone.
        context.set_offline(True)
        page = opened(context)
        page.goto("/")
        expect(page.get_by_text("Weir house, cellar")).to_be_visible()
        expect(page.get_by_text("waits for a signal")).to_be_visible()
        page.get_by_role("link", name=re.compile("Weir house")).click()
        expect(page.get_by_text("kept on this device, waits to be sent")).to_be_visible()
        # Up in the street.
        server.start()
        context.set_offline(False)
        expect(page.get_by_role("link", name=re.compile(r"^spin-.*\.wav$"))).to_be_visible(timeout=WITHIN_MS)
        expect(page.get_by_text("wait on this device")).to_have_count(0, timeout=WITHIN_MS)
        page.get_by_role("link", name="Call").click()
        expect(page.get_by_role("heading", level=1)).to_contain_text("jumped off its seat", timeout=WITHIN_MS)
    with httpx.Client(base_url=server.url, timeout=30.0) as api:
        [only] = api.get("/api/jobs").json()["jobs"]
        assert (only["id"], only["place"]) == (job, "Weir house, cellar")
        kinds = [e["kind"] for e in api.get(f"/api/jobs/{job}/entries").json()["entries"]]
        assert kinds == ["machine", "machine", "told", "told", "told", "check", "recording"]
        assert api.get(f"/api/jobs/{job}").json()["symptoms"] == ["bang_at_spin_start"]


def test_an_entry_of_another_device_is_seen_without_asking(
    driver: Playwright, server: RunningServer, tmp_path: Path, microphone: Path
) -> None:
    with (
        chromium_at_home(driver, tmp_path / "phone", url=server.url, microphone=microphone) as context,
        httpx.Client(base_url=server.url, timeout=30.0) as api,
    ):
        job = open_job(api, machine("Toll bridge", "top_pulsator"), told("shakes"))
        page = opened(context)
        page.goto(f"/jobs/{job}/story")
        expect(page.get_by_role("link", name="Hands not yet")).to_be_visible()
        write(api, job, check("rock", gap_mm=[0, 0, 5, 0]))
        expect(page.get_by_role("link", name="Hands done")).to_be_visible()
        # What was entered by hand elsewhere is taken back here.
        page.get_by_role("link", name="history").click()
        page.get_by_role("button", name=re.compile("^Undo: Rock the cabinet")).click()
        expect(page.get_by_text("does not count")).to_be_visible()
        # The page shows it before the server has it.
        assert until(lambda: api.get(f"/api/jobs/{job}").json()["checks"] == [] or None)


def test_a_page_left_while_it_sends_loses_nothing(browser: Browser, server: RunningServer, tmp_path: Path) -> None:
    sound = np.random.default_rng(3).uniform(-0.1, 0.1, 2_000_000)
    soundfile.write(tmp_path / "long.wav", sound, 44100, subtype="PCM_16")
    context = browser.new_context(base_url=server.url, viewport={"width": 390, "height": 844}, locale="en-GB")
    page = opened(context)
    answer = page.request.post("/api/jobs", data={"id": new_id(), "entries": [machine("Lock house")]}).json()
    job = answer["job"]["id"]
    # So slow that pieces are under way whenever the page is left.
    slow = {"offline": False, "latency": 20, "downloadThroughput": -1, "uploadThroughput": 700_000}
    page.goto(f"/jobs/{job}/spin")
    context.new_cdp_session(page).send("Network.emulateNetworkConditions", slow)
    page.get_by_label("Recordings to add").set_input_files(tmp_path / "long.wav")
    page.get_by_role("button", name="Add and analyse").click()
    for _ in range(3):
        expect(page.get_by_text(re.compile(r"^Sending, \d+")).first).to_be_visible()
        page.wait_for_timeout(900)
        page.reload()
        context.new_cdp_session(page).send("Network.emulateNetworkConditions", slow)
    expect(page.get_by_role("link", name="long.wav")).to_be_visible()
    (kept,) = page.request.get(f"/api/jobs/{job}").json()["recordings"]
    assert page.request.get(f"/api/jobs/{job}/recordings/{kept['id']}").body() == (tmp_path / "long.wav").read_bytes()
    context.close()
