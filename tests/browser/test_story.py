"""Story on a phone: the layout told by what is seen, a noise pointed at, when it is; nothing typed but the place."""

from __future__ import annotations

import httpx
from playwright.sync_api import Page, expect

from tests.diaries import machine, new_id
from tests.support import RunningServer, until


def test_a_top_loader_is_told_by_taps(phone: Page, server: RunningServer) -> None:
    phone.goto("/new")
    phone.get_by_label("Where is the machine?").fill("Weir house, cellar")
    phone.get_by_role("button", name="Open the job").tap()
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
    phone.get_by_role("button", name="Open the job").tap()
    phone.get_by_role("radio", name="nobody can say").tap()
    phone.get_by_role("button", name="Shakes", exact=True).tap()
    phone.get_by_role("link", name="Call").tap()
    expect(phone.get_by_text("Which layout the machine has is not known yet")).to_be_visible()


def test_what_is_typed_is_read_asked_about_or_refused_beside_its_field(phone: Page, server: RunningServer) -> None:
    with httpx.Client(base_url=server.url, timeout=30.0) as api:
        alike = machine("Weir house", "front_belt", max_spin_rpm=1400, bearings={"front": "6206", "rear": "6205"})
        alike["body"]["pulley_ratio"] = 11.4
        api.post("/api/jobs", json={"id": new_id(), "entries": [alike]})
        job = new_id()
        api.post("/api/jobs", json={"id": job, "entries": [machine("Toll bridge", "front_belt")]})
        phone.goto(f"/jobs/{job}/story")
        speed = phone.get_by_label("Plate speed")
        speed.fill("fast")
        speed.blur()
        expect(phone.get_by_text("That is not a number")).to_be_visible()
        speed.fill("9000")
        speed.blur()
        expect(phone.get_by_text("it lies between 100 and 2500")).to_be_visible()
        speed.fill("2200")
        speed.blur()
        expect(phone.get_by_text("Usual is 400 to 1600. Is it 2200?")).to_be_visible()
        speed.fill("1400")
        speed.blur()
        expect(phone.get_by_text("Usual is")).to_have_count(0)

        # What was read at a machine of the same layout and plate speed is offered, and taken over by a tap.
        like = phone.get_by_role("region", name="Machines like this one")
        expect(like).to_contain_text("bearings 6206 and 6205, pulley ratio 11.4")
        like.get_by_role("button", name="Take it over").tap()
        expect(phone.get_by_label("Outer bearing")).to_have_value("6205")

        # A code is told in the shop's words from then on.
        phone.get_by_label("As shown").fill("F 07")
        phone.get_by_label("What it means").select_option("Does not drain")
        phone.get_by_role("button", name="Keep the code").tap()
        expect(phone.get_by_text("F 07: does not drain")).to_be_visible()
        phone.get_by_label("Phone").fill("lock 2")
        phone.get_by_label("Phone").blur()
        phone.get_by_role("radio", name="Under a dryer, in a column").tap()
        expect(phone.get_by_text("Two people take the dryer down")).to_be_visible()
        # The page shows it before the server has it; what was entered last is sent last.
        until(lambda: api.get(f"/api/jobs/{job}").json()["machine"].get("stacked") or None)
        found = api.get(f"/api/jobs/{job}").json()
        assert found["machine"]["bearings"] == {"front": "6206", "rear": "6205"}
        assert (found["machine"]["pulley_ratio"], found["machine"]["stacked"]) == (11.4, True)
        assert found["symptoms"] == ["does_not_drain"]
        assert found["contact"] == {"phone": "lock 2"}
        assert api.get(f"/api/jobs/{job}/platform").json()["codes"] == {"F 07": "does_not_drain"}
