"""Hands on a phone with one thumb, with the signal cut and back; a wait across a reload; the same by keyboard."""

from __future__ import annotations

import re

import httpx
from playwright.sync_api import Browser, Page, expect

from tests.diaries import machine, new_id, told
from tests.support import RunningServer


def opened(page: Page, server: RunningServer, *, layout: str = "front_belt") -> str:
    job = new_id()
    with httpx.Client(base_url=server.url, timeout=30.0) as api:
        entries = [machine("Lock house, cellar", layout=layout), told("shakes")]
        assert api.post("/api/jobs", json={"id": job, "entries": entries}).status_code == 200
    page.goto(f"/jobs/{job}/hands")
    expect(page.get_by_role("heading", name="Power off, hands on")).to_be_visible()
    return job


def type_with_pad(page: Page, number: str) -> None:
    for key in number:
        page.get_by_role("button", name=key, exact=True).tap()


def check(page: Page, name: str) -> None:
    page.get_by_role("link", name=re.compile(f"^{name}")).tap()
    expect(page.get_by_role("heading", level=1, name=name)).to_be_visible()


def kept(page: Page) -> None:
    page.get_by_role("button", name="Keep and weigh it").tap()
    expect(page.get_by_role("button", name="Take it back")).to_be_visible()


def test_a_front_loader_by_hand_with_one_thumb_and_no_signal_half_way(phone: Page, server: RunningServer) -> None:
    job = opened(phone, server)
    phone.get_by_role("button", name="Unplugged, in sight").tap()
    phone.get_by_role("button", name="Proved dead").tap()
    expect(phone.get_by_text("Unplugged and proved dead.")).to_be_visible()

    check(phone, "Gap between lip and tub, all round")
    clock = phone.get_by_role("group", name="Gaps round the drum clock")
    for gap in ("10", "13", "15", "13", "10", "7", "5", "7"):
        type_with_pad(phone, gap)
        phone.get_by_role("button", name="Next", exact=True).tap()
    verdict = phone.get_by_role("region", name="What it says")
    expect(verdict).to_contain_text("Run-out 4.6 ± 0.2 mm, widest at 90°: badly bent.")
    # Any reading can be redone.
    clock.get_by_role("button", name="3 o’clock: 15 mm").tap()
    phone.get_by_role("button", name="Erase the last digit").tap()
    type_with_pad(phone, "6")
    expect(verdict).to_contain_text("Run-out 4.9 ± 0.3 mm")
    kept(phone)

    phone.context.set_offline(True)
    phone.get_by_role("link", name="all checks").tap()
    check(phone, "Rock the cabinet")
    for gap in ("0", "0", "5.25", "0"):
        type_with_pad(phone, gap)
        phone.get_by_role("button", name="Next corner").tap()
    kept(phone)
    phone.get_by_role("link", name="all checks").tap()
    check(phone, "Push the tub down and let go")
    phone.get_by_role("button", name="rear left").tap()
    for _ in range(4):
        phone.get_by_role("button", name="swing", exact=False).first.tap()
    kept(phone)
    expect(phone.get_by_text(re.compile(r"\d entries wait on this device"))).to_be_visible()

    phone.context.set_offline(False)
    expect(phone.get_by_text(re.compile("wait on this device|Sending"))).to_have_count(0)
    with httpx.Client(base_url=server.url, timeout=30.0) as api:
        checks = {c["check"]: c["values"] for c in api.get(f"/api/jobs/{job}").json()["checks"]}
    assert checks == {
        "drum_gap_round": {"gaps_mm": [10, 13, 16, 13, 10, 7, 5, 7]},
        "rock": {"gap_mm": [0, 0, 5.25, 0]},
        "bounce": {"corner": "rear_left", "swings": 4},
    }
    phone.get_by_role("link", name="all checks").tap()
    check(phone, "Rock the cabinet")
    expect(phone.get_by_text("Screw the rear right foot out by 3.0 turns")).to_be_visible()


def test_the_staged_fill_keeps_its_waits_across_a_reload_and_names_the_seal(phone: Page, server: RunningServer) -> None:
    job = opened(phone, server, layout="top_coupler")
    phone.goto(f"/jobs/{job}/hands/staged_fill")
    phone.get_by_role("button", name="5 min", exact=True).tap()
    phone.get_by_role("button", name="Filled: begin the wait").tap()
    expect(phone.get_by_role("timer")).to_have_text(re.compile(r"4:5\d"))
    phone.reload()
    expect(phone.get_by_role("timer")).to_have_text(re.compile(r"4:[0-5]\d"))
    phone.goto(f"/jobs/{job}/spin")
    expect(phone.get_by_role("list", name="Waits")).to_contain_text("staged fill lower")
    phone.goto("/")
    expect(phone.get_by_role("link", name="Lock house, cellar")).to_contain_text(re.compile(r"waits 4:[0-5]\d"))
    phone.goto(f"/jobs/{job}/hands/staged_fill")
    phone.get_by_role("button", name="Stop waiting: dry so far").tap()
    expect(phone.get_by_text("2 of 3: fill to just above the middle seal.")).to_be_visible()
    phone.reload()
    expect(phone.get_by_text("2 of 3: fill to just above the middle seal.")).to_be_visible()
    phone.get_by_role("button", name="Filled: begin the wait").tap()
    phone.get_by_role("button", name="It drips").tap()
    expect(phone.get_by_text("It is the spin-tube seal")).to_be_visible()
    expect(phone.get_by_role("list", name="Waits")).to_have_count(0)
    expect(phone.get_by_text("Sending")).to_have_count(0)
    with httpx.Client(base_url=server.url, timeout=30.0) as api:
        [made] = api.get(f"/api/jobs/{job}").json()["checks"]
    assert (made["values"]["leaks_at"], len(made["values"]["dwell_min"])) == ("middle", 2)


def test_one_tap_says_a_state_and_an_impossible_number_is_refused_beside_it(phone: Page, server: RunningServer) -> None:
    job = opened(phone, server, layout="top_coupler")
    phone.goto(f"/jobs/{job}/hands/clutch_look")
    phone.get_by_role("button", name="wet with rust").tap()
    expect(phone.get_by_role("button", name="Take it back: wet with rust")).to_be_visible()
    phone.goto(f"/jobs/{job}/hands/capacitor_uf")
    type_with_pad(phone, "99999")
    expect(phone.get_by_role("alert")).to_contain_text("outside 0 to 1000")


def test_by_keyboard_alone(browser: Browser, server: RunningServer) -> None:
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=server.url, locale="en-GB")
    page = context.new_page()
    job = opened(page, server)
    page.goto(f"/jobs/{job}/hands/rock")
    # The line is where the fingers are; Enter goes on to the next corner.
    expect(page.get_by_role("textbox", name="front left")).to_be_focused()
    for gap in ("0", "0", "5.25", "0"):
        page.keyboard.type(gap)
        page.keyboard.press("Enter")
    keep = page.get_by_role("button", name="Keep and weigh it")
    expect(keep).to_be_enabled()
    for _ in range(40):
        if keep.evaluate("e => e === document.activeElement"):
            break
        page.keyboard.press("Tab")
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Take it back: 0 · 0 · 5.25 · 0")).to_be_visible()
    context.close()
