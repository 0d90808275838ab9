"""The call played with, doubted and departed from; and the record that holds it against what was found."""

from __future__ import annotations

import re

import httpx
from playwright.sync_api import Page, expect

from tests.browser.test_cost_and_strip import fetched, opened
from tests.diaries import check, entry, machine, told
from tests.support import RunningServer


def ends(server: RunningServer, job: str, *faults: str) -> None:
    found = entry("found", {"faults": list(faults), "not_there": [], "sure": True})
    with httpx.Client(base_url=server.url, timeout=30.0) as api:
        closed = entry("closed", {"outcome": "mended"})
        assert api.post(f"/api/jobs/{job}/entries", json={"entries": [found, closed]}).status_code == 200


def test_an_outcome_is_supposed_a_finding_doubted_and_an_own_view_kept(phone: Page, server: RunningServer) -> None:
    job = opened(
        server,
        machine("Weir cottage", layout="top_coupler"),
        told("bang_at_spin_start"),
        check("bounce", corner="centre", swings=4.0),
    )
    phone.goto(f"/jobs/{job}/call")
    card = phone.get_by_role("region", name="Next two minutes")
    board = phone.get_by_role("region", name=re.compile("^Tug board"))
    before = board.inner_text()
    outcome = card.get_by_role("button").last
    outcome.tap()
    expect(phone.get_by_role("status").filter(has_text="Supposed, not entered")).to_be_visible()
    expect(board).not_to_have_text(before)
    phone.get_by_role("button", name="Back to what is known").tap()
    expect(board.get_by_role("listitem").first).to_contain_text("Suspension")
    assert fetched(server, f"/api/jobs/{job}")["seq"] == 3

    board.get_by_role("button", name=re.compile("^bounce swings")).first.tap()
    phone.get_by_role("button", name="I do not believe it").tap()
    phone.get_by_label("Why not?").fill("a towel was left in")
    phone.get_by_role("button", name="Leave it out of the sum").tap()
    aside = phone.get_by_role("region", name="Left out of the sum")
    expect(aside).to_contain_text("a towel was left in")
    assert fetched(server, f"/api/jobs/{job}")["set_aside"][0]["finding"] == "bounce_swings"
    phone.keyboard.press("Escape")
    aside.get_by_role("button", name="Count it again").tap()
    expect(aside).to_have_count(0)

    view = phone.get_by_role("region", name="What you go by")
    view.get_by_role("button", name="My own view").tap()
    view.get_by_role("button", name="The load", exact=True).tap()
    view.get_by_label("Why").fill("they wash sails")
    view.get_by_role("button", name="Go by this").tap()
    expect(view).to_contain_text("they wash sails")
    called = fetched(server, f"/api/jobs/{job}")["called"]
    assert (called["faults"], called["own_view"]) == (["load_problem"], "they wash sails")


def test_a_shop_count_visibly_moves_a_call_and_is_left_out_by_hand(phone: Page, server: RunningServer) -> None:
    for number in range(6):
        job = opened(server, machine(f"Rope walk {number}", layout="top_coupler"), told("clothes_wet"))
        ends(server, job, "clutch")
    phone.goto("/shop")
    phone.get_by_role("link", name="How often we were right").click()
    expect(phone.get_by_role("heading", level=1)).to_contain_text("calls")
    row = phone.get_by_role("row").filter(has_text="Clutch")
    expect(row).to_contain_text("6.0")
    fresh = opened(server, machine("Toll house", layout="top_coupler"), told("clothes_wet"))
    phone.goto(f"/jobs/{fresh}/call")
    expect(phone.get_by_text("6 ended jobs of this shop")).to_be_visible()
    clutch = phone.get_by_role("listitem").filter(has_text="Clutch").first
    with_them = clutch.inner_text()
    phone.get_by_role("button", name="See it without them").click()
    expect(phone.get_by_text("Without what this shop’s own jobs taught.")).to_be_visible()
    expect(clutch).not_to_have_text(with_them)

    phone.goto("/record")
    jobs = phone.get_by_role("region", name="Ended jobs")
    jobs.get_by_role("button", name="Leave it out").first.click()
    jobs.get_by_label("Why does it not count?").fill("practice machine")
    jobs.get_by_role("button", name="Leave it out").nth(1).click()
    expect(jobs).to_contain_text("left out: practice machine")
    expect(row).to_contain_text("5.0")
    jobs.get_by_role("button", name="Count it again").click()
    expect(row).to_contain_text("6.0")
    phone.get_by_role("button", name="Weigh with the odds brought along instead").click()
    expect(phone.get_by_role("heading", name="The odds are those brought along")).to_be_visible()
