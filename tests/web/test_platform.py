"""What the shop knows of machines alike: offered to a person, never taken over by itself."""

from __future__ import annotations

from typing import Any

import httpx
import pytest

from tests.diaries import entry, machine, new_id
from tests.web.visits import open_job, photographed, problem, write

BEARINGS = {"front": "6206", "rear": "6205"}


def platform(api: httpx.Client, job: str) -> dict[str, Any]:
    answer = api.get(f"/api/jobs/{job}/platform")
    assert answer.status_code == 200, answer.text
    return dict(answer.json())


def test_what_was_read_at_machines_of_one_layout_and_plate_speed_is_offered(api: httpx.Client) -> None:
    open_job(api, machine("Weir house", max_spin_rpm=1400, bearings=BEARINGS, pulley_ratio=11.4))
    open_job(api, machine("Mill lane", max_spin_rpm=1200, bearings=BEARINGS))
    open_job(api, machine("Ferry steps", "front_direct", max_spin_rpm=1400, bearings=BEARINGS))
    open_job(api, machine("Boatyard", max_spin_rpm=1400))
    job = open_job(api, machine("Toll bridge", max_spin_rpm=1400, pulley_ratio=12.0))
    [alike] = platform(api, job)["alike"]
    assert (alike["place"], alike["because"]) == ("Weir house", "plate")
    # What is known of this one already is not offered against it.
    assert alike["facts"]["bearings"] == BEARINGS
    assert alike["facts"]["pulley_ratio"] is None


def test_without_a_layout_or_a_plate_nothing_is_alike(api: httpx.Client) -> None:
    open_job(api, machine("Weir house", max_spin_rpm=1400, bearings=BEARINGS))
    assert platform(api, open_job(api, entry("machine", {"place": "Toll bridge"}))) == {"alike": [], "codes": {}}
    assert platform(api, open_job(api, machine("Toll bridge")))["alike"] == []


def test_a_machine_by_the_same_sheet_goes_before_one_by_its_plate(api: httpx.Client) -> None:
    open_job(api, machine("Weir house", max_spin_rpm=1400, bearings=BEARINGS))
    by_sheet = open_job(api, machine("Mill lane", max_spin_rpm=1200, bearings=BEARINGS))
    job = open_job(api, machine("Toll bridge", max_spin_rpm=1400))
    photo, sheet = photographed(api, job), new_id()
    body = {"layout": "front_belt", "name": "Sheet 4", "photo": photo, "enter": [{"act": "left"}]}
    assert api.put(f"/api/jobs/{job}/service-mode/sheets/{sheet}", json=body).status_code == 200
    for one in (job, by_sheet):
        assert api.put(f"/api/jobs/{one}/service-mode/chosen", json={"sheet": sheet}).status_code == 200
    alike = platform(api, job)["alike"]
    assert [(a["place"], a["because"]) for a in alike] == [("Mill lane", "sheet"), ("Weir house", "plate")]


def test_the_shop_remembers_what_a_code_means_on_a_layout(api: httpx.Client) -> None:
    job = open_job(api, machine("Weir house"), entry("code_shown", {"text": "F 07", "means": "does_not_drain"}))
    write(api, job, entry("code_shown", {"text": "F 09"}))
    again = open_job(api, machine("Toll bridge"))
    assert platform(api, again)["codes"] == {"F 07": "does_not_drain"}
    assert platform(api, open_job(api, machine("Mill lane", "top_pulsator")))["codes"] == {}
    # Said otherwise later, the newer word holds; the owner may put it right or take it out.
    write(api, again, entry("code_shown", {"text": "F 07", "means": "suds_code"}))
    assert platform(api, job)["codes"] == {"F 07": "suds_code"}
    settled = api.put("/api/shop/codes", json={"layout": "front_belt", "text": "F 09", "means": "walks"}).json()
    assert settled["codes"] == [
        {"layout": "front_belt", "text": "F 07", "means": "suds_code"},
        {"layout": "front_belt", "text": "F 09", "means": "walks"},
    ]
    api.put("/api/shop/codes", json={"layout": "front_belt", "text": "F 07", "means": None})
    assert platform(api, job)["codes"] == {"F 09": "walks"}
    # What was taken out stays out, whatever else is entered in a visit that told it; told anew, it is back.
    write(api, job, entry("machine", {"age_years": 4}), entry("code_shown", {"text": "F 11", "means": "squeal"}))
    assert platform(api, job)["codes"] == {"F 09": "walks", "F 11": "squeal"}
    write(api, job, entry("code_shown", {"text": "F 07", "means": "walks"}))
    assert platform(api, job)["codes"]["F 07"] == "walks"


def test_a_code_told_before_the_layout_is_remembered_with_it(api: httpx.Client) -> None:
    job = open_job(
        api, entry("machine", {"place": "Weir house"}), entry("code_shown", {"text": "E 1", "means": "walks"})
    )
    assert api.get("/api/shop").json()["codes"] == []
    write(api, job, entry("machine", {"layout": "top_pulsator"}))
    assert platform(api, job)["codes"] == {"E 1": "walks"}


@pytest.mark.parametrize(
    ("change", "field"),
    [({"layout": "no_such"}, "layout"), ({"means": "no_such"}, "means"), ({"text": " "}, "text")],
)
def test_a_code_that_cannot_be_is_refused(api: httpx.Client, change: dict[str, str], field: str) -> None:
    body = {"layout": "front_belt", "text": "F 07", "means": "walks", **change}
    answer = api.put("/api/shop/codes", json=body)
    assert answer.status_code == 422
    assert answer.json()["field"] == field
    assert api.get("/api/shop").json()["codes"] == []


def test_two_machines_of_a_column_lead_to_each_other(api: httpx.Client) -> None:
    lower = open_job(api, machine("Hostel, basement", layout="top_coupler", stacked=True))
    upper = open_job(api, machine("Hostel, basement, upper", layout="front_belt"))
    ids = [api.get(f"/api/jobs/{job}").json()["machine_id"] for job in (lower, upper)]

    def beside(which: int) -> str | None:
        found = api.get(f"/api/machines/{ids[which]}").json()["column_with"]
        return None if found is None else str(found["id"])

    assert (beside(0), beside(1)) == (None, None)
    assert write(api, lower, entry("machine", {"column_with": ids[1]}))["entries"][0]["problem"] is None
    assert (beside(0), beside(1)) == (ids[1], ids[0])
    assert api.get(f"/api/jobs/{lower}").json()["machine"]["column_with"] == ids[1]
    itself = problem(write(api, lower, entry("machine", {"column_with": ids[0]})))
    assert (itself["field"], itself["message"]) == ("body.column_with", "body.column_with: is this very machine.")
    nobody = problem(write(api, lower, entry("machine", {"column_with": new_id()})))
    assert "no such machine" in nobody["message"]
    # The other one is taken away for good: this one stands alone again.
    place = "Hostel, basement, upper"
    assert api.post(f"/api/machines/{ids[1]}/forget", json={"place": place}).status_code == 204
    assert beside(0) is None
