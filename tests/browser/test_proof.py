"""A repair proved and closed on a phone: passed, left out, failed; what was found; when somebody comes back."""

from __future__ import annotations

import re
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import httpx
from playwright.sync_api import Page, expect

from eager_ear.casefile import write_case_folder
from eager_ear.core.simulate import SimulatedCase
from tests.diaries import check, entry, machine
from tests.support import RunningServer, until
from tests.web.visits import finished, open_job, write, zipped_case


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


def step(code: str, way: str = "off") -> dict[str, Any]:
    """Done at this moment, as the recordings of an imported case are."""
    body = {"step": f"front_belt/{code}", "way": way, "state": "done"}
    return entry("step", body, made_at=datetime.now(UTC))


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
    closing.get_by_role("button", name="Close the job").tap()
    expect(closing).to_contain_text("Closed: mended, not proved.")

    def closed() -> dict[str, Any] | None:
        found: Any = fetched(server, f"/api/jobs/{job}")
        return found if found["any_time"]["closed"] is not None else None

    kept = until(closed)
    assert kept["any_time"]["closed"] == "mended"
    assert kept["proof"]["found"]["faults"] == ["suspension_off"]
    phone.goto("/")
    expect(phone.get_by_text(re.compile("back on"))).to_be_visible()


def test_a_failed_proof_opens_the_call_again(phone: Page, server: RunningServer) -> None:
    job = rods(server)
    phone.goto(f"/jobs/{job}/proof")
    phone.get_by_role("button", name="Failed", exact=True).tap()
    expect(phone.get_by_role("heading", level=1)).to_have_text("A proof failed: the call is open again.")
    phone.get_by_role("main").get_by_role("link", name="call").tap()
    expect(phone).to_have_url(re.compile(r"/call$"))


def test_bearings_are_proved_by_ear_against_the_spin_before(
    phone: Page, server: RunningServer, tmp_path: Path, simulated: Callable[..., SimulatedCase]
) -> None:
    before, after = tmp_path / "before", tmp_path / "after"
    write_case_folder(before, simulated("front_belt", "drum_bearing", 7, 0.9).case)
    write_case_folder(after, simulated("front_belt", "none", 7, 0.9).case)
    option = {"path": ["bearings_pressed"], "total": 40000, "currency": "EUR"}
    with httpx.Client(base_url=server.url, timeout=60.0) as api:
        brought = api.post("/api/cases", params={"place": "Boatyard"}, content=zipped_case(before)).json()
        job = str(finished(api, brought["id"])["id"])
        agreed = entry("offered", {"options": [option]}), entry("decided", {"option": 0, "answer": "yes"})
        write(api, job, *agreed, *(step(code) for code in ("baseline_saved", "plinth_off")))
        write(api, job, step("tray_ready", "on"), step("plinth_off", "on"))
    phone.goto(f"/jobs/{job}/proof")
    expect(phone.get_by_text("Record an empty spin now")).to_be_visible()
    phone.get_by_role("link", name="Record", exact=True).tap()
    phone.get_by_label("Recordings to add").set_input_files(after / "spin.wav")
    phone.get_by_role("button", name="Add and analyse").first.tap()
    # Kept on the phone before the page is left; what is left to send goes on from any page.
    expect(phone.get_by_role("button", name="Add and analyse")).to_have_count(0)
    phone.goto(f"/jobs/{job}/proof")
    side = phone.get_by_role("region", name="Before and after")
    expect(side).to_contain_text(re.compile("gone|dB less"), timeout=60_000)
    for name, told in (("Envelope lines", "Before: envelope lines at"), ("Drum brakes itself", "Changed by")):
        side.locator("summary", has_text=name).tap()
        expect(side).to_contain_text(told)
    with phone.expect_response(re.compile("way=before_after")) as heard:
        side.get_by_role("button", name=re.compile("in turns")).tap()
    assert heard.value.status in (200, 206)

    proofs = phone.get_by_role("list", name="Proofs")
    heading = phone.get_by_role("heading", level=1)
    for _ in range(20):
        stands = heading.inner_text()
        if stands == "Proved on the machine.":
            break
        still = proofs.get_by_role("button", expanded=False).filter(has_text=re.compile(r"min$"))
        if proofs.get_by_role("button", name="Passed", exact=True).count() == 0:
            still.first.tap()
        proofs.get_by_role("button", name="Passed", exact=True).first.tap()
        expect(heading).not_to_have_text(stands)
    expect(heading).to_have_text("Proved on the machine.")
    closing = phone.get_by_role("region", name="Closing")
    closing.get_by_role("radio", name="Handed over").first.tap()
    closing.get_by_role("button", name=re.compile("bearing", re.IGNORECASE)).first.tap()
    closing.get_by_role("radio", name="Mended").tap()
    expect(closing).not_to_contain_text("not proved")
    closing.get_by_role("button", name="Close the job").tap()
    expect(closing).to_contain_text("Closed: mended.")
