"""Recording with the phone itself, in real Chromium: a fake microphone and motion, a real server that goes away."""

from __future__ import annotations

import re
from collections.abc import Iterator

import pytest
import soundfile
from playwright.sync_api import Browser, Page, Playwright, expect

from eager_ear.core.simulate import SimulatedCase, simulate_case
from tests.diaries import machine, new_id, told
from tests.support import RunningServer, chromium, microphone_file, phone_beside

# The ramp is reached some seconds after this moment.
FROM_S = 8.0


@pytest.fixture(scope="module")
def spinning() -> SimulatedCase:
    return simulate_case(layout="front_belt", faults=["spider"], seed=5)


@pytest.fixture(scope="module")
def hearing(driver: Playwright, spinning: SimulatedCase, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Browser]:
    wav = microphone_file(spinning, tmp_path_factory.mktemp("mic") / "mic.wav", from_s=FROM_S)
    with chromium(driver, microphone=wav) as browser:
        yield browser


@pytest.fixture
def page(hearing: Browser, server: RunningServer) -> Iterator[Page]:
    context = hearing.new_context(base_url=server.url, viewport={"width": 390, "height": 844}, locale="en-GB")
    opened = context.new_page()
    opened.set_default_timeout(20_000)
    try:
        yield opened
    finally:
        context.close()


def new_job(page: Page) -> str:
    entries = [machine("Lock house", max_spin_rpm=800), told("shakes")]
    answer = page.request.post("/api/jobs", data={"id": new_id(), "entries": entries})
    return str(answer.json()["job"]["id"])


def record_beside(page: Page, spinning: SimulatedCase) -> str:
    """Begin to record on a machine that begins to spin; returns the job."""
    job = new_job(page)
    page.goto(f"/jobs/{job}/spin")
    let_it_spin = phone_beside(page, spinning, from_s=FROM_S)
    page.get_by_role("button", name="Record with this device").click()
    expect(page.get_by_role("button", name="Stop recording")).to_be_visible()
    let_it_spin()
    return job


def test_a_spin_is_recorded_seen_live_and_added(page: Page, server: RunningServer, spinning: SimulatedCase) -> None:
    job = record_beside(page, spinning)
    expect(page.get_by_label("Speed now")).to_have_text(re.compile(r"^[2-9]\d\d$"), timeout=40_000)
    expect(page.get_by_text(re.compile(r"rpm ± \d+, (speeding up|holding its speed)"))).to_be_visible()
    expect(page.get_by_text(re.compile(r"dB\(A\) of full scale · cabinet"))).to_be_visible()
    # The server goes away: recording goes on, and what was shown comes back with it.
    server.kill()
    expect(page.get_by_text("No connection")).to_be_visible(timeout=10_000)
    server.start()
    expect(page.get_by_text("No connection")).to_have_count(0, timeout=20_000)
    page.get_by_role("button", name="Stop recording").click()
    for _ in range(2):
        page.get_by_role("button", name="Add and analyse").first.click()
        expect(page.get_by_text("Sending").or_(page.get_by_text("Checking the file"))).to_have_count(0)
    expect(page.get_by_role("link", name=re.compile(r"^spin-.*\.wav$"))).to_be_visible()
    expect(page.get_by_role("link", name=re.compile(r"^spin-.*\.csv$"))).to_be_visible()
    expect(page.get_by_role("button", name="Add and analyse")).to_have_count(0)
    sound, motion = sorted(page.request.get(f"/api/jobs/{job}").json()["recordings"], key=lambda r: r["kind"])[::-1]
    assert {sound["kind"], motion["kind"]} == {"audio", "acceleration"}
    assert sound["run"] == motion["run"]
    # Nothing is left on the device once all of it is safe.
    page.reload()
    expect(page.get_by_role("button", name="Record with this device")).to_be_visible()
    expect(page.get_by_text("is kept on this device")).to_have_count(0)


def test_a_recording_survives_a_page_that_is_gone(page: Page) -> None:
    job = new_job(page)
    page.goto(f"/jobs/{job}/spin")
    page.get_by_role("button", name="Record with this device").click()
    expect(page.get_by_text(re.compile(r"^[3-9] s ·"))).to_be_visible(timeout=20_000)
    page.goto("about:blank")
    page.goto(f"/jobs/{job}/spin")
    expect(page.get_by_text("is kept on this device")).to_be_visible()
    page.get_by_role("button", name="Bring it in").click()
    expect(page.get_by_text(re.compile(r"^spin-.*\.wav"))).to_be_visible()
    page.get_by_role("button", name="Leave it out").click()
    page.get_by_role("button", name="Throw it away").click()
    expect(page.get_by_text("is kept on this device")).to_have_count(0)


def test_what_the_device_has_no_room_for_is_offered_before_the_page_is_left(page: Page) -> None:
    job = new_job(page)
    page.goto(f"/jobs/{job}/spin")
    page.get_by_role("button", name="Record with this device").click()
    expect(page.get_by_text(re.compile(r"^[2-9] s ·"))).to_be_visible(timeout=20_000)
    page.evaluate(
        """() => {
            const add = IDBObjectStore.prototype.add;
            IDBObjectStore.prototype.add = function (...what) {
                if (this.name === "parts") throw new DOMException("full", "QuotaExceededError");
                return add.apply(this, what);
            };
        }"""
    )
    expect(page.get_by_text("no room left")).to_be_visible(timeout=10_000)
    expect(page.get_by_text(re.compile(r"^([6-9]|1\d) s ·"))).to_be_visible(timeout=20_000)
    page.get_by_role("button", name="Stop recording").click()
    expect(page.get_by_text("no room for the end of it")).to_be_visible()
    with page.expect_download() as saved:
        page.get_by_role("button", name="Save as a file").click()
    # The end is in the file although it was never kept.
    assert soundfile.info(saved.value.path()).duration > 5.5
    page.get_by_role("button", name="Add and analyse").click()
    expect(page.get_by_role("link", name=re.compile(r"^spin-.*\.wav$"))).to_be_visible()
    expect(page.get_by_text("is kept on this device")).to_have_count(0)


def test_both_files_of_a_take_sent_at_once_leave_nothing_behind(page: Page, spinning: SimulatedCase) -> None:
    record_beside(page, spinning)
    expect(page.get_by_text(re.compile(r"^([5-9]|1\d) s ·"))).to_be_visible(timeout=20_000)
    page.get_by_role("button", name="Stop recording").click()
    send = page.get_by_role("button", name="Add and analyse")
    expect(send).to_have_count(2)
    # A thumb that taps twice adds them once.
    page.get_by_role("button", name="Add both and analyse").evaluate("both => { both.click(); both.click(); }")
    expect(page.get_by_role("link", name=re.compile(r"^spin-.*\.(wav|csv)$"))).to_have_count(2, timeout=20_000)
    expect(page.get_by_text("is kept on this device")).to_have_count(0)
    page.reload()
    expect(page.get_by_role("link", name=re.compile(r"^spin-.*\.wav$"))).to_be_visible()
    expect(page.get_by_text("is kept on this device")).to_have_count(0)
