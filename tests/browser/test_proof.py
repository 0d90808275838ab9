"""A repair proved and closed on a phone: passed, left out, failed; what was found; when somebody comes back."""

from __future__ import annotations

import re

import httpx
from playwright.sync_api import Page, expect

from tests.diaries import check, entry, machine
from tests.support import RunningServer
from tests.web.visits import open_job


def rods(server: RunningServer) -> str:
    """A rod off its seat, agreed to be hung back."""
    option = {"path": ["rods_rehang"], "total": 6000, "currency": "EUR"}
    with httpx.Client(base_url=server.url, timeout=30.0) as api:
        return open_job(
            api,
            machine("Mill loft", layout="top_shifter", age_years=5.0),
            check("corner_rest", detached=["rear_left"]),
            entry("offered", {"options": [option]}),
            entry("decided", {"option": 0, "answer": "yes"}),
        )


def fetched(server: RunningServer, path: str) -> dict[str, object]:
    with httpx.Client(base_url=server.url, timeout=30.0) as api:
        return dict(api.get(path).json())


def test_a_repair_is_proved_and_closed(phone: Page, server: RunningServer) -> None:
    job = rods(server)
    phone.goto(f"/jobs/{job}/proof")
    expect(phone.get_by_role("heading", level=1)).to_have_text("0 of 4 proofs passed.")
    expect(phone.get_by_text("Nothing was closed yet")).to_be_visible()
    # One after the other: the next one that is open comes into view by itself.
    for done in ("1", "2", "3"):
        phone.get_by_role("button", name="Passed", exact=True).tap()
        expect(phone.get_by_role("heading", level=1)).to_have_text(f"{done} of 4 proofs passed.")
    phone.get_by_label("Left out, because").fill("No wet load in the house.")
    phone.get_by_role("button", name="Leave it out").tap()
    expect(phone.get_by_role("button", name=re.compile("Loaded spin.*left out"))).to_be_visible()

    closing = phone.get_by_role("region", name="Closing")
    closing.get_by_role("button", name="Suspension off").first.tap()
    closing.get_by_role("button", name=re.compile("Put on the board")).tap()
    expect(closing).to_contain_text("Look at the corners again")
    expect(closing).to_contain_text("never above")
    closing.get_by_role("radio", name="Mended").tap()
    expect(closing).to_contain_text("It will close as not proved: loaded spin.")
    with phone.expect_response(re.compile("/entries$")):
        closing.get_by_role("button", name="Close the job").tap()
    expect(closing).to_contain_text("Closed: mended, not proved.")
    kept = fetched(server, f"/api/jobs/{job}")
    assert kept["any_time"]["closed"] == "mended"  # type: ignore[index]
    assert kept["proof"]["found"]["faults"] == ["suspension_off"]  # type: ignore[index]
    phone.goto("/")
    expect(phone.get_by_text(re.compile("back on"))).to_be_visible()


def test_a_failed_proof_opens_the_call_again(phone: Page, server: RunningServer) -> None:
    job = rods(server)
    phone.goto(f"/jobs/{job}/proof")
    phone.get_by_role("button", name="Failed", exact=True).tap()
    expect(phone.get_by_role("heading", level=1)).to_have_text("A proof failed: the call is open again.")
    phone.get_by_role("main").get_by_role("link", name="call").tap()
    expect(phone).to_have_url(re.compile(r"/call$"))
