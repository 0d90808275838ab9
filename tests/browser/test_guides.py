"""Led through at the machine, on a phone: marks over three visits, leak levels that outlive a reload, the own test."""

from __future__ import annotations

import io
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import httpx
import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from tests.diaries import check, entry, machine
from tests.support import RunningServer, until
from tests.web.visits import open_job, write


@pytest.fixture
def photo(tmp_path: Path) -> Path:
    held, path = io.BytesIO(), tmp_path / "line.png"
    Image.new("RGB", (60, 40), "white").save(held, "PNG")
    path.write_bytes(held.getvalue())
    return path


def agreed(api: httpx.Client, layout: str, path: str, *said: object) -> str:
    job = open_job(api, machine(layout=layout), *said)  # type: ignore[arg-type]
    option = {"path": [path], "total": 20000, "currency": "EUR"}
    write(api, job, entry("offered", {"options": [option]}), entry("decided", {"option": 0, "answer": "yes"}))
    return job


def sent(api: httpx.Client, job: str, *keys: str) -> list[dict[str, Any]]:
    """What the server has of it, once the device has sent it."""

    def asked() -> list[dict[str, Any]] | None:
        said: Any = api.get(f"/api/jobs/{job}").json()
        for key in keys:
            said = said[key]
        return list(said) or None

    return until(asked)


def test_marks_are_looked_at_over_three_visits(
    phone: Page, api: httpx.Client, server: RunningServer, photo: Path
) -> None:
    job = agreed(api, "top_pulsator", "shim_and_lock", check("axial_play", play_mm=3))

    def look(*, loads: int, says: str, expected: str) -> None:
        phone.goto(f"/jobs/{job}/proof")
        phone.get_by_role("button", name="Witness marks").tap()
        marks = phone.get_by_role("region", name="Marks")
        marks.locator("input[type=file]").set_input_files(photo)
        for _ in range(loads):
            marks.get_by_role("button", name="One load more").tap()
        marks.get_by_role("button", name=says, exact=True).tap()
        phone.get_by_role("button", name="Witness marks").tap()
        expect(marks).to_contain_text(expected)

    look(loads=0, says="Painted", expected="Look again after 1 more heavy load.")
    look(loads=1, says="Line unbroken", expected="1 heavy load and nothing moved. Look again after 4 more")
    look(loads=4, says="It has moved", expected="A mark has moved: stop, unplug.")
    looks = phone.get_by_role("list", name="Looks").get_by_role("listitem")
    expect(looks).to_have_count(3)
    for k in range(3):
        # Each look keeps its photo, and the photo came.
        picture = looks.nth(k).get_by_role("img")
        expect(picture).to_have_js_property("naturalWidth", 60)
    # A proof that failed opens the call again.
    expect(phone.get_by_role("heading", level=1)).to_contain_text("A proof failed")


def test_leak_levels_keep_what_stayed_dry_and_wait_for_the_sealant(phone: Page, api: httpx.Client) -> None:
    job = agreed(api, "top_coupler", "pump_new", check("pump_clear", blocked=True))
    tests = [t["test"] for t in api.get(f"/api/jobs/{job}/proof").json()["tests"]]
    leak = next(t for t in tests if t["levels"])
    bead = {"for": "cure", "minutes": 600, "about": "top_coupler/bead"}
    write(api, job, entry("timer", bead, made_at=datetime.now(UTC)))
    phone.goto(f"/jobs/{job}/proof")
    button = phone.get_by_role("button", name=leak["name"])
    if button.get_attribute("aria-expanded") != "true":
        button.tap()
    begin = phone.get_by_role("button", name="Filled: begin the wait")
    expect(begin).to_be_disabled()
    expect(phone.get_by_text("The sealant cures")).to_be_visible()
    cure = api.get(f"/api/jobs/{job}").json()["any_time"]["timers"][0]["entry"]
    write(api, job, entry("timer_end", {"timer": cure, "how": "rang"}))

    expect(begin).to_be_enabled()
    begin.tap()
    expect(phone.get_by_role("timer")).to_be_visible()
    phone.reload()
    button = phone.get_by_role("button", name=leak["name"])
    expect(button).to_be_visible()
    if button.get_attribute("aria-expanded") != "true":
        button.tap()
    phone.get_by_role("button", name="Stop waiting: dry so far").tap()
    expect(phone.get_by_role("list", name="Levels")).to_contain_text(f"1. {leak['levels'][0]['name']}: dry for 1 min")
    phone.reload()
    if button.get_attribute("aria-expanded") != "true":
        button.tap()
    # In the cellar: what drips is kept here, and sent from the street.
    phone.context.set_offline(True)
    phone.get_by_role("button", name="Filled: begin the wait").tap()
    phone.get_by_role("button", name="It drips").tap()
    expect(phone.get_by_role("heading", level=1)).to_contain_text("A proof failed")
    assert api.get(f"/api/jobs/{job}").json()["proof"]["proved"] == []
    phone.context.set_offline(False)
    [proved] = sent(api, job, "proof", "proved")
    assert proved["values"]["leaks_at"] == leak["levels"][1]["code"]
    assert list(proved["values"]["dry_min"]) == [leak["levels"][0]["code"]]


def test_the_own_test_is_read_row_by_row_after_its_sheet(phone: Page, api: httpx.Client, photo: Path) -> None:
    job = open_job(api, machine(layout="top_splined"))
    phone.goto(f"/jobs/{job}/hands")
    phone.get_by_role("link", name="its own test, row by row").tap()
    phone.get_by_role("button", name="Read its sheet").tap()
    form = phone.get_by_role("form", name="The sheet")
    expect(form.get_by_role("button", name="Keep the sheet")).to_be_disabled()
    form.locator("input[type=file]").set_input_files(photo)
    form.get_by_label("What this shop calls it").fill("Four lamps")
    form.get_by_label("How often").fill("2")
    form.get_by_role("button", name="Add").tap()
    form.get_by_label("All of it within, seconds").fill("0.3")
    # The photo is kept with the sheet only once it has come to the server.
    form.get_by_role("button", name="Keep the sheet").tap()
    expect(form.get_by_role("alert")).to_contain_text("leaves no time")
    form.get_by_label("All of it within, seconds").fill("5")
    form.get_by_role("button", name="Keep the sheet").tap()
    way = phone.get_by_role("region", name="The way in")
    way.get_by_role("button", name="Count me in").tap()
    expect(way.get_by_role("timer")).to_have_text("left 2 of 2", timeout=8000)
    expect(way.get_by_role("timer")).to_have_text("Did it show?", timeout=8000)

    phone.get_by_role("button", name="The test begins now").tap()
    rows = phone.get_by_role("region", name="Component test").get_by_role("listitem")
    count = rows.count()
    assert count == 7
    for k in range(count):
        said = "Missing" if "Shift" in (rows.nth(k).text_content() or "") else "Heard"
        rows.nth(k).get_by_role("radio", name=said).tap()
    phone.get_by_role("button", name="It roars, the faster the louder").tap()
    phone.get_by_role("button", name="Keep and weigh it").tap()
    expect(phone.get_by_role("region", name="Component test")).to_contain_text("Missing: shift mechanism heard.")
    expect(phone.get_by_role("link", name="Hold the basket, twist the plate")).to_be_visible()
    [told] = sent(api, job, "told")
    assert (told["symptom"], told["present"]) == ("roar_rises_with_speed", True)
