"""The board on a phone: what machines wait for, hung on a line; looked for by words; without a signal too."""

from __future__ import annotations

import re

import httpx
from playwright.sync_api import Page, expect

from tests.diaries import check, entry, machine
from tests.web.visits import open_job


def test_jobs_are_found_by_what_they_wait_for_and_by_words(phone: Page, api: httpx.Client) -> None:
    open_job(api, machine("Osier bed 4", layout="top_coupler"), check("coupler_look", broken=True))
    open_job(api, machine("Weir cottage"), entry("note", {"text": "Ask for Mrs. Withy", "about": "story"}))
    open_job(api, machine("Toll house"), entry("bridged", {"where": "door lock"}))
    phone.goto("/")
    expect(phone.get_by_role("region", name="Make safe first")).to_contain_text("Toll house")
    expect(phone.get_by_role("region", name="To be decided")).to_contain_text("Osier bed 4")
    expect(phone.get_by_role("region", name="Wants a check")).to_contain_text("Weir cottage")
    line = phone.get_by_role("group", name="What they wait for")
    expect(line.get_by_role("button")).to_have_text(
        [re.compile("1make safe"), re.compile("1check"), re.compile("1decide"), "ended"]
    )
    line.get_by_role("button", name="decide").tap()
    expect(phone.get_by_role("region", name="To be decided")).to_contain_text("Osier bed 4")
    expect(phone.get_by_role("region", name="Wants a check")).to_have_count(0)
    line.get_by_role("button", name="decide").tap()

    phone.get_by_label("Look for").fill("withy")
    found = phone.get_by_role("region", name="Found")
    expect(found.get_by_role("link")).to_have_count(1)
    expect(found).to_contain_text("Weir cottage")
    phone.get_by_label("Look for").fill("heron")
    expect(found.get_by_role("status")).to_contain_text("Nothing holds all of that")
    phone.context.set_offline(True)
    phone.get_by_label("Look for").fill("toll")
    expect(found).to_contain_text("No signal")
    expect(found.get_by_role("link")).to_contain_text("Toll house")
    phone.context.set_offline(False)
