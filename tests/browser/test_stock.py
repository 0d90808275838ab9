"""Machines without a customer on a phone: taken in, looked over, decided, its parts kept and one fitted elsewhere."""

from __future__ import annotations

import re

import httpx
from playwright.sync_api import Page, expect

from tests.diaries import check, entry, machine
from tests.support import RunningServer
from tests.web.visits import open_job


def test_a_machine_is_taken_in_taken_apart_and_its_motor_fitted_elsewhere(phone: Page, server: RunningServer) -> None:
    called = entry("called", {"faults": ["motor"], "advice": "commit"})
    with httpx.Client(base_url=server.url, timeout=30.0) as api:
        wreck = open_job(
            api, machine("Shed", layout="top_coupler", age_years=16.0), check("gearcase_turns", both_ways=False)
        )
        mill = open_job(
            api, machine("Mill", layout="top_coupler", age_years=2.0), check("motor_alone", runs=False), called
        )
    phone.goto(f"/jobs/{wreck}/story")
    whose = phone.get_by_role("region", name="Whose it is")
    expect(whose.get_by_label("Phone")).to_be_visible()
    whose.get_by_role("radio", name="Ours: given to us").tap()
    expect(whose.get_by_label("Phone")).to_have_count(0)
    whose.get_by_label("Paid for it").fill("ten")
    whose.get_by_label("Paid for it").blur()
    expect(whose).to_contain_text("That is no amount")
    whose.get_by_label("Paid for it").fill("10")
    whose.get_by_label("Paid for it").blur()
    looks = whose.get_by_role("list", name="Intake")
    looks.get_by_role("radio", name="does not lock").tap()
    # A look that is bad is told as a symptom, by itself.
    symptom = phone.get_by_role("button", name="Lid or door does not lock")
    expect(symptom).to_have_attribute("aria-pressed", "true")
    looks.get_by_role("radio", name="locks and lets go").tap()
    expect(symptom).to_have_count(0)
    looks.get_by_role("radio", name="does not spin, or is loud").tap()
    expect(looks.get_by_role("radio", name="does not spin, or is loud")).to_be_checked()

    phone.goto(f"/jobs/{wreck}/cost")
    ceiling = phone.get_by_role("region", name="Ceiling")
    expect(ceiling).to_contain_text("As it stands: for its parts.")
    expect(ceiling.get_by_role("list", name="Why no better")).to_contain_text("does not spin")
    expect(phone.get_by_role("heading", level=1)).to_contain_text("Take it apart for its parts")
    # A better price for the best grade turns it, and is not kept.
    ceiling.get_by_label("Best grade fetches, EUR").fill("1000")
    expect(phone.get_by_role("heading", level=1)).to_contain_text("sell it as grade B")
    ceiling.get_by_role("button", name="Back to the shop’s own numbers").tap()
    expect(phone.get_by_role("heading", level=1)).to_contain_text("Take it apart")
    phone.get_by_role("button", name="We do this").tap()
    expect(phone.get_by_role("region", name="What we do")).to_contain_text("So far: Take it apart")
    parts = phone.get_by_role("region", name="Parts that serve again")
    parts.get_by_label("Shelf").fill("shelf 3")
    with phone.expect_response(re.compile("/entries$")):
        parts.get_by_label("Motor", exact=True).get_by_role("radio", name="kept, tested").tap()
    expect(parts).to_contain_text("on shelf 3")
    # How long it ran is told once for all that it gave, and later too, in a shed without a signal.
    phone.context.set_offline(True)
    parts.get_by_role("radio", name="4 a week, about 5000 h").tap()
    # Two, where the signal went before the answer to the one before had come.
    expect(phone.get_by_text(re.compile(r"\d entr(y waits|ies wait) on this device"))).to_be_visible()
    phone.context.set_offline(False)
    expect(parts).to_contain_text("on shelf 3, has run about 5000 h")

    phone.goto("/stock")
    expect(phone.get_by_role("list", name="Machines")).to_contain_text("Shed")
    expect(phone.get_by_role("region", name="Used parts")).to_contain_text("Motor")
    phone.goto(f"/jobs/{mill}/cost")
    options = phone.get_by_role("list", name="Options")
    options.get_by_role("button", name=re.compile("motor", re.IGNORECASE)).first.tap()
    used = phone.get_by_role("list", name="Used: Motor").first
    expect(used).to_contain_text("A used one, tested, shelf 3, has run about 5000 h, from Shed")
    with phone.expect_response(re.compile("/entries$")):
        used.get_by_role("button", name=re.compile("^Use it for")).tap()
    expect(phone.get_by_role("main")).to_contain_text("used, shelf 3, has run about 5000 h, from Shed")
    phone.goto("/stock")
    expect(phone.get_by_role("region", name="Used parts")).to_contain_text("Nothing yet")
