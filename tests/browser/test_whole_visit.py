"""Story and Hands from end to end: one thumb and a signal that comes and goes, the keyboard alone, two devices."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass

import httpx
import pytest
from playwright.sync_api import Browser, Locator, Page, expect

from tests.browser.conftest import WITHIN_MS
from tests.diaries import machine, new_id, told
from tests.support import RunningServer

# A full set by hand, before any part is unbolted, of a machine with nothing wrong.
MOST_INTERACTIONS = 90
SOUND = {"foreign_sweep": "nothing", "load_seen": "mixed", "residue": "none", "belt_look": "good"}


@dataclass
class Thumb:
    """Taps one thing after the other, and counts."""

    page: Page
    count: int = 0

    def tap(self, on: Locator) -> None:
        on.tap()
        self.count += 1

    def button(self, name: str) -> None:
        self.tap(self.page.get_by_role("button", name=name, exact=True))

    def digits(self, number: str) -> None:
        for digit in number:
            self.button(digit)


def four_feet(thumb: Thumb, code: str) -> None:
    if code == "rock":
        return thumb.button("All four stand")
    for height in ("41", "41", "42", "41"):
        thumb.digits(height)
        thumb.button("Next corner")
    return thumb.button("Keep and weigh it")


def gaps(thumb: Thumb, code: str) -> None:
    thumb.page.get_by_label("Places round the turn").select_option("4")
    thumb.count += 2
    for _ in range(4):
        thumb.digits("12")
        thumb.button("Next")
    thumb.button("Keep and weigh it")


def swings(thumb: Thumb, code: str) -> None:
    thumb.tap(thumb.page.get_by_role("button", name=re.compile("^front left")))
    thumb.button("Tap at each full swing")
    thumb.button("1 swings")
    thumb.button("Keep and weigh it")


def corners(thumb: Thumb, code: str) -> None:
    thumb.button("All are seated")


def feel(thumb: Thumb, code: str) -> None:
    thumb.button("smooth")
    thumb.button("Tap at each turn")
    thumb.button("1 turns")
    thumb.button("Keep and weigh it")


def millimetres(thumb: Thumb, code: str) -> None:
    thumb.digits("0")
    thumb.button("Keep and weigh it")


def minutes(thumb: Thumb, code: str) -> None:
    thumb.button("Runs for: begin")
    thumb.button("Runs for: now it ends")
    thumb.button("Keep and weigh it")


def pluck(thumb: Thumb, code: str) -> None:
    for number in ("70", "300", ".05"):
        thumb.digits(number)
        thumb.button("Next")
    thumb.button("Keep and weigh it")


def yes_no(thumb: Thumb, code: str) -> None:
    if code == "agitator_ratchet":
        for at in (0, 1):
            thumb.tap(thumb.page.get_by_role("button", name="Yes", exact=True).nth(at))
        thumb.button("Keep and weigh it")
    else:
        thumb.button("No")


def states(thumb: Thumb, code: str) -> None:
    thumb.button(SOUND[code].replace("_", " "))


ENTERED: dict[str, Callable[[Thumb, str], None]] = {
    "clock_gaps": gaps,
    "corners": corners,
    "feel": feel,
    "four_feet": four_feet,
    "millimetres": millimetres,
    "minutes": minutes,
    "pluck": pluck,
    "states": states,
    "swings": swings,
    "yes_no": yes_no,
}


@pytest.mark.parametrize(
    ("seen", "layout"),
    [
        (("At the front", "A belt"), "front_belt"),
        (("From above", "A tall agitator", "A motor beside a gearcase"), "top_coupler"),
    ],
)
def test_story_and_hands_with_one_thumb_and_the_signal_gone_half_way(
    phone: Page, server: RunningServer, seen: tuple[str, ...], layout: str
) -> None:
    with httpx.Client(base_url=server.url, timeout=30.0) as api:
        widgets = {c["code"]: c["widget"] for c in api.get("/api/catalogue").json()["checks"]}
    thumb = Thumb(phone)
    phone.goto("/new")
    phone.get_by_label("Where is the machine?").fill("Lock house, cellar")
    thumb.button("Open the job")
    for answer in seen:
        thumb.button(answer)
    expect(
        phone.get_by_role("radio", name=re.compile("loader, ")).and_(phone.get_by_role("radio", checked=True))
    ).to_have_count(1)
    thumb.tap(phone.get_by_role("radio", name="full speed"))
    thumb.tap(phone.get_by_role("button", name="Shakes", exact=True))
    thumb.button("Unplugged, in sight")
    thumb.button("Proved dead")
    job = phone.url.split("/")[4]
    expect(phone.get_by_text("Sending")).to_have_count(0)
    phone.get_by_role("link", name=re.compile("^Hands")).tap()

    thumb.count = 0
    made: list[str] = []
    for opened in (None, "Panel off"):
        if opened is not None:
            phone.get_by_role("link", name=re.compile("^Hands|^all checks")).first.tap()
            thumb.tap(phone.get_by_role("radio", name=opened, exact=True))
        thumb.tap(phone.locator("main ul a").first)
        while True:
            expect(phone.get_by_role("heading", level=1)).to_be_visible()
            phone.wait_for_url(re.compile(r"/hands/\w+"))
            code = phone.url.rsplit("/", 1)[1]
            ENTERED[widgets[code]](thumb, code)
            made.append(code)
            if len(made) == 3:
                phone.context.set_offline(True)
            if len(made) == 7:
                phone.context.set_offline(False)
            onward = phone.get_by_role("link", name=re.compile("^Next: |^All made as it stands"))
            expect(onward).to_be_visible()
            if onward.inner_text().startswith("All made"):
                onward.tap()
                break
            thumb.tap(onward)
    assert len(made) == len(set(made)) >= 14
    print(f"{layout}: {len(made)} checks, {thumb.count} taps")
    assert thumb.count < MOST_INTERACTIONS, thumb.count
    expect(phone.get_by_text(re.compile("wait on this device|Sending"))).to_have_count(0)
    with httpx.Client(base_url=server.url, timeout=30.0) as api:
        found = api.get(f"/api/jobs/{job}").json()
    assert found["machine"]["layout"] == layout
    assert found["symptoms"] == ["shakes"]
    assert {c["check"] for c in found["checks"]} == set(made)
    assert found["call"] is not None


def test_a_visit_by_keyboard_alone(browser: Browser, server: RunningServer) -> None:
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=server.url, locale="en-GB")
    page = context.new_page()
    page.set_default_timeout(WITHIN_MS)

    def reach(target: Locator) -> None:
        """By Tab alone, as far as it takes."""
        expect(target).to_be_visible()
        for _ in range(160):
            if target.evaluate("e => e === document.activeElement"):
                return
            page.keyboard.press("Tab")
        raise AssertionError(f"no key reaches {target}")

    page.goto("/new")
    reach(page.get_by_label("Where is the machine?"))
    page.keyboard.type("Toll bridge")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="What is told, and what the plate says")).to_be_visible()
    reach(page.get_by_role("button", name="Unplugged, in sight"))
    page.keyboard.press("Space")
    # A group of choices is one stop; the arrows go round in it.
    reach(page.get_by_role("radio", name="hand turn"))
    for phase in ("fill", "wash", "drain", "spin start", "ramp", "full speed"):
        page.keyboard.press("ArrowRight")
        expect(page.get_by_role("radio", name=phase, exact=True)).to_be_focused()
    page.keyboard.press("Space")
    expect(page.get_by_role("radio", name="full speed")).to_be_checked()
    reach(page.get_by_role("button", name="Whines in spin", exact=True))
    page.keyboard.press("Space")
    reach(page.get_by_label("Plate speed"))
    page.keyboard.type("1400")
    page.keyboard.press("Enter")
    expect(page.get_by_role("region", name="This job")).to_contain_text("1400\u00a0rpm")
    page.goto(page.url.replace("/story", "/hands/smell"))
    reach(page.get_by_role("button", name="Yes", exact=True))
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Take it back: yes")).to_be_visible()
    reach(page.get_by_role("button", name="Undo"))
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Take it back: yes")).to_have_count(0)
    job = page.url.split("/")[4]
    expect(page.get_by_text("Sending")).to_have_count(0)
    found = page.request.get(f"/api/jobs/{job}").json()
    assert (found["place"], found["machine"]["max_spin_rpm"], found["symptoms"]) == (
        "Toll bridge",
        1400,
        ["whine_in_spin"],
    )
    assert (found["any_time"]["safe"], found["checks"]) == (["unplugged"], [])
    context.close()


def test_two_devices_on_one_job_see_each_other_and_a_person_picks_where_they_disagree(
    browser: Browser, server: RunningServer
) -> None:
    job = new_id()
    with httpx.Client(base_url=server.url, timeout=30.0) as api:
        entries = [machine("Lock house, cellar", layout="front_belt"), told("shakes")]
        assert api.post("/api/jobs", json={"id": job, "entries": entries}).status_code == 200
    contexts = [browser.new_context(base_url=server.url, locale="en-GB") for _ in range(2)]
    one, other = (context.new_page() for context in contexts)
    for page in (one, other):
        page.set_default_timeout(WITHIN_MS)
        page.goto(f"/jobs/{job}/hands/smell")
        expect(page.get_by_role("button", name="Yes", exact=True)).to_be_visible()
    one.get_by_role("button", name="Yes", exact=True).click()
    expect(other.get_by_role("button", name="Take it back: yes")).to_be_visible()
    other.get_by_role("button", name="No", exact=True).click()
    for page in (one, other):
        expect(page.get_by_role("button", name="Take it back: no")).to_be_visible()
    asked = one.get_by_role("region", name="Two devices disagree")
    expect(asked).to_contain_text("Smell at the motor")
    asked.get_by_role("button", name=re.compile("^yes")).click()
    for page in (one, other):
        expect(page.get_by_role("button", name="Take it back: yes")).to_be_visible()
        expect(page.get_by_role("region", name="Two devices disagree")).to_have_count(0)
    with httpx.Client(base_url=server.url, timeout=30.0) as api:
        found = api.get(f"/api/jobs/{job}").json()
    assert [c["values"] for c in found["checks"]] == [{"burnt": True}]
    for context in contexts:
        context.close()
