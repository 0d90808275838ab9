"""Story on a phone: the layout told by what is seen, a noise pointed at, when it is; nothing typed but the place."""

from __future__ import annotations

import httpx
from playwright.sync_api import Page, expect

from tests.support import RunningServer


def test_a_top_loader_is_told_by_taps(phone: Page, server: RunningServer) -> None:
    phone.goto("/new")
    phone.get_by_label("Where is the machine?").fill("Weir house, cellar")
    phone.get_by_text("Tell it by what is seen").tap()
    phone.get_by_role("button", name="From above").tap()
    phone.get_by_role("button", name="A low plate").tap()
    expect(phone.get_by_text("2 layouts fit.")).to_be_visible()
    phone.get_by_role("button", name="The motor on the shaft").tap()
    expect(phone.get_by_role("radio", name="Top loader, wash plate on splines")).to_be_checked()

    phone.get_by_role("radio", name="full speed").tap()
    expect(phone.get_by_role("button", name="Does not drain")).to_have_count(0)
    with phone.expect_response(lambda r: "/api/noises/top_splined/growl_in_spin/full_speed" in r.url) as heard:
        phone.get_by_role("button", name="Hear: Growls in spin").tap()
    assert heard.value.ok
    phone.get_by_role("button", name="It is this one: Growls in spin").tap()
    told = phone.locator("details", has_text="Growls in spin")
    told.locator("summary").tap()
    told.get_by_role("radio", name="weeks").tap()
    phone.get_by_role("button", name="Open the job").tap()
    expect(phone.get_by_role("heading", name="Let it spin, and listen")).to_be_visible()

    phone.get_by_role("link", name="Story done").tap()
    phone.get_by_role("button", name="Unplugged, in sight").tap()
    expect(phone.get_by_text("Sending")).to_have_count(0)
    with httpx.Client(base_url=server.url, timeout=30.0) as api:
        [short] = api.get("/api/jobs").json()["jobs"]
        job = api.get(f"/api/jobs/{short['id']}").json()
    assert job["machine"]["layout"] == "top_splined"
    [telling] = job["told"]
    assert {k: v for k, v in telling.items() if v is not None} == {
        "symptom": "growl_in_spin",
        "present": True,
        "phase": "full_speed",
        "since": "weeks",
    }
    assert job["any_time"]["safe"] == ["unplugged"]


def test_a_layout_that_cannot_be_told_stays_open_and_the_call_says_what_it_waits_for(phone: Page) -> None:
    phone.goto("/new")
    phone.get_by_label("Where is the machine?").fill("Weir house, cellar")
    phone.get_by_role("button", name="Shakes").tap()
    phone.get_by_role("button", name="Open the job").tap()
    phone.get_by_role("link", name="Call").tap()
    expect(phone.get_by_text("Which layout the machine has is not known yet")).to_be_visible()
