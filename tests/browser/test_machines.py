"""A machine's page: entered twice it is laid together, and taken away for good by whoever types where it stands."""

from __future__ import annotations

import httpx
from playwright.sync_api import Page, expect

from tests.diaries import entry, machine, told
from tests.web.visits import open_job


def test_a_machine_is_laid_together_and_taken_away(phone: Page, api: httpx.Client) -> None:
    kept = open_job(api, machine("Toll house", layout="front_belt"))
    twice = open_job(api, machine("Toll house cellar", layout="front_belt"))
    into = api.get(f"/api/jobs/{kept}").json()["machine_id"]
    phone.goto(f"/machines/{api.get(f'/api/jobs/{twice}').json()['machine_id']}")
    phone.get_by_text("It was entered twice").tap()
    phone.get_by_role("button", name="It is this one").tap()
    expect(phone.get_by_role("heading", name="2 visits")).to_be_visible()
    expect(phone).to_have_url(f"{api.base_url}/machines/{into}".replace("//machines", "/machines"))
    place = phone.get_by_role("heading", level=1).inner_text()

    phone.get_by_text("Take it away for good").tap()
    expect(phone.get_by_text("This cannot be taken back")).to_be_visible()
    phone.get_by_label("Type where it stands").fill("Mill")
    phone.get_by_role("button", name="Take it away", exact=True).tap()
    expect(phone.get_by_role("alert")).to_contain_text("not where this machine stands")
    phone.get_by_label("Type where it stands").fill(place)
    phone.get_by_role("button", name="Take it away", exact=True).tap()
    expect(phone.get_by_role("heading", level=1)).not_to_have_text(place)
    assert api.get("/api/jobs").json()["jobs"] == []


def test_a_machine_is_found_by_what_its_visits_say(phone: Page, api: httpx.Client) -> None:
    open_job(api, machine("Toll house", layout="front_belt"), told("shakes"))
    open_job(api, machine("Weir cottage 7", layout="top_coupler"), entry("contact", {"name": "Arne Sluys"}))
    phone.goto("/machines")
    listed = phone.get_by_role("main").get_by_role("listitem")
    expect(listed).to_have_count(2)
    for words, place in (("sluys", "Weir cottage 7"), ("7", "Weir cottage 7"), ("front belt", "Toll house")):
        phone.get_by_label("Look for").fill(words)
        expect(listed).to_have_count(1)
        expect(listed).to_contain_text(place)
    phone.get_by_label("Look for").fill("heron")
    expect(phone.get_by_text("No machine of which a visit holds")).to_be_visible()

    phone.context.set_offline(True)
    phone.get_by_label("Look for").fill("weir splined")
    expect(phone.get_by_text("only the machines that this device knows")).to_be_visible()
    expect(phone.get_by_text("No machine of which a visit holds")).to_be_visible()
    phone.get_by_label("Look for").fill("weir coupler")
    expect(listed).to_have_count(1)
    expect(listed).to_contain_text("Weir cottage 7")
    phone.context.set_offline(False)
    expect(phone.get_by_text("only the machines that this device knows")).to_have_count(0)
