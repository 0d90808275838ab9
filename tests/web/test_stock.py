"""Machines without a customer and used parts, over HTTP on the real server: graded, kept, fitted once, priced apart."""

from __future__ import annotations

from typing import Any

import httpx

from tests.diaries import check, entry, machine, told
from tests.web.visits import open_job, problem, write


def intake(**results: str) -> list[dict[str, Any]]:
    return [entry("intake", {"row": row, "result": result}) for row, result in results.items()]


def stock(api: httpx.Client) -> dict[str, Any]:
    answer = api.get("/api/shop/stock")
    assert answer.status_code == 200, answer.text
    return dict(answer.json())


def offer(api: httpx.Client, job: str) -> dict[str, Any]:
    answer = api.get(f"/api/jobs/{job}/offer")
    assert answer.status_code == 200, answer.text
    return dict(answer.json())


def lines(api: httpx.Client, job: str, code: str) -> list[dict[str, Any]]:
    return [x for o in offer(api, job)["offer"]["options"] for x in o["lines"] if x["code"] == code]


def a_donor(api: httpx.Client, layout: str = "top_coupler") -> tuple[str, str]:
    """A machine that gave its motor: its job, and the entry that says so."""
    kept = entry("kept_part", {"part": "motor", "condition": "tested", "shelf": "shelf 3"})
    job = open_job(api, machine("Shed", layout=layout), told("leak_centre"), entry("taken_in", {"how": "given"}), kept)
    return job, str(kept["id"])


def test_a_machine_that_was_taken_in_is_graded_and_has_a_ceiling(api: httpx.Client) -> None:
    bought = entry("taken_in", {"how": "bought", "paid": 3000, "currency": "EUR"})
    shed = machine("Shed", layout="top_coupler", age_years=4.0)
    job = open_job(api, shed, bought, check("coupler_look", broken=True))
    write(api, job, *intake(clean="good", lock="good", own_test="good", codes="good", spin="bad"))
    [own] = stock(api)["machines"]
    assert (own["job"]["id"], own["grade"], own["paid"]["minor"]) == (job, "parts", 3000)
    assert own["why"] == ["Empty spin by ear: does not spin, or is loud"]
    made = offer(api, job)["offer"]
    assert (made["proposed"], made["stock"]["grade_then"]) == ("coupler_kit", "A")
    settings = api.get("/api/shop").json()["settings"]
    assert made["stock"]["ceiling"]["minor"] == settings["resale"] - settings["margin"] - 3000
    assert api.get("/api/jobs").json()["jobs"][0]["ours"]
    # Given back to its owner after all, it is a visit as any other.
    write(api, job, entry("taken_in", {"how": "customers"}))
    assert stock(api)["machines"] == []
    assert offer(api, job)["offer"]["stock"] is None


def test_a_used_part_is_offered_to_its_layout_and_fitted_once(api: httpx.Client) -> None:
    donor, kept = a_donor(api)
    [part] = stock(api)["parts"]
    assert (part["entry"], part["place"], part["condition"], part["shelf"]) == (kept, "Shed", "tested", "shelf 3")
    first, second = (
        open_job(api, machine(place, layout="top_coupler"), told("burnt_smell")) for place in ("Mill", "Weir")
    )
    other = open_job(api, machine("Quay", layout="front_belt"), told("burnt_smell"))
    assert [u["entry"] for u in offer(api, first)["used"]] == [kept]
    assert offer(api, other)["used"] == []
    fitted = entry("fitted_used", {"kept": kept, "part": "motor"})
    assert write(api, first, fitted)["entries"][0]["problem"] is None
    assert stock(api)["parts"] == []
    again = entry("fitted_used", {"kept": kept, "part": "motor"})
    assert "another machine" in problem(write(api, second, again))["message"]
    # Taken back, it lies on the shelf again; what never lay there cannot be fitted.
    write(api, first, entry("fitted_used", None, replaces=fitted["id"]))
    assert [p["entry"] for p in stock(api)["parts"]] == [kept]
    not_there = entry("fitted_used", {"kept": kept, "part": "pump"})
    assert "no such used part" in problem(write(api, second, not_there))["message"]
    # And what was kept by mistake is not there.
    write(api, donor, entry("kept_part", None, replaces=kept))
    assert stock(api)["parts"] == []


def test_hours_told_later_are_of_the_same_part(api: httpx.Client) -> None:
    donor, kept = a_donor(api)
    assert offer(api, donor)["run"] == []
    write(api, donor, machine("Shed", layout="top_coupler", age_years=10.0))
    assert {run["loads_a_week"]: run["hours"] for run in offer(api, donor)["run"]}[2] == 1550
    again = entry("kept_part", {"part": "motor", "condition": "tested", "shelf": "shelf 3", "hours": 1550})
    write(api, donor, again)
    [part] = stock(api)["parts"]
    assert (part["entry"], part["hours"]) == (kept, 1550)
    told = api.get(f"/api/jobs/{donor}").json()["stock"]["kept"][0]
    assert told["entries"] == [kept, again["id"]]
    write(api, donor, *(entry("kept_part", None, replaces=one) for one in told["entries"]))
    assert stock(api)["parts"] == []


def test_hours_of_a_part_are_whole_and_not_below_zero(api: httpx.Client) -> None:
    donor, _ = a_donor(api)
    for hours in (-1, 1.5, 1e9):
        body = {"part": "pump", "condition": "tested", "hours": hours}
        assert "hours" in problem(write(api, donor, entry("kept_part", body)))["message"]


def test_papers_say_what_is_used_and_as_what_it_is_sold(api: httpx.Client) -> None:
    _, kept = a_donor(api)
    job = open_job(
        api,
        machine("Shed 2", layout="top_coupler", age_years=3.0),
        entry("taken_in", {"how": "bought"}),
        entry("fitted_used", {"kept": kept, "part": "motor"}),
        *intake(clean="bad", lock="good", own_test="good", codes="good", spin="good"),
    )
    for paper in ("report.pdf", "label.pdf", "quote.pdf"):
        assert api.get(f"/api/jobs/{job}/{paper}").status_code == 200, paper
    told = len(api.get(f"/api/jobs/{job}/label.pdf").content)
    # A customer's has no grade on its label, and without a used part there is none to be named.
    write(api, job, entry("taken_in", {"how": "customers"}))
    ungraded = len(api.get(f"/api/jobs/{job}/label.pdf").content)
    plain = open_job(api, machine("Shed 2", layout="top_coupler", age_years=3.0))
    assert told > ungraded > len(api.get(f"/api/jobs/{plain}/label.pdf").content)


def test_practice_keeps_nothing_on_the_shelf(api: httpx.Client) -> None:
    kept = entry("kept_part", {"part": "motor", "condition": "tested"})
    body = {"id": kept["id"][:-1] + "0", "practice": True, "entries": [machine(layout="top_coupler"), kept]}
    assert api.post("/api/jobs", json=body).status_code == 200
    assert stock(api)["parts"] == []


def test_a_price_belongs_to_its_platform(api: httpx.Client) -> None:
    front = open_job(api, machine("Mill", layout="front_belt"), check("belt_look", state="frayed"))
    top = open_job(api, machine("Weir", layout="top_shifter"), check("belt_look", state="frayed"))
    write(api, front, entry("priced", {"part": "belt", "amount": 2400, "currency": "EUR", "source": "Quay spares"}))
    assert {line["amount"]["low"]["minor"] for line in lines(api, front, "belt")} == {2400}
    assert all(line["typical"] for line in lines(api, top, "belt"))
    write(api, top, entry("priced", {"part": "belt", "amount": 1700, "currency": "EUR"}))
    named = {p["platform"]: p["amount"] for p in api.get("/api/shop").json()["prices"]}
    assert named == {"Front loader, belt": 2400, "Top loader, belt and shifter": 1700}
    another = open_job(api, machine("Toll", layout="front_belt"), check("belt_look", state="frayed"))
    assert {line["amount"]["low"]["minor"] for line in lines(api, another, "belt")} == {2400}


def test_what_was_seen_spent_is_ready_to_be_added(api: httpx.Client) -> None:
    job = open_job(api, machine(layout="front_belt"), check("drum_lift_play", play_mm=4.0))
    write(api, job, entry("called", {"faults": ["drum_bearing"], "advice": "commit"}))

    def pressed() -> dict[str, Any]:
        return next(dict(o) for o in offer(api, job)["offer"]["options"] if o["code"] == "bearings_pressed")

    assert "belt" not in [x["code"] for x in pressed()["prepared"]]
    write(api, job, entry("seen", {"part": "belt", "condition": "frayed"}))
    [ready] = [x for x in pressed()["prepared"] if x["code"] == "belt"]
    assert ready["why"] == "Belt: frayed"
    before = pressed()["total"]["low"]["minor"]
    write(api, job, entry("renewed_too", {"part": "belt", "wanted": True}))
    assert pressed()["total"]["low"]["minor"] == before + ready["amount"]["low"]["minor"]
    write(api, job, entry("renewed_too", {"part": "belt", "wanted": False}))
    assert pressed()["total"]["low"]["minor"] == before


def test_how_the_machine_stands_changes_its_plan(api: httpx.Client) -> None:
    job = open_job(api, machine(layout="front_belt"), check("drum_lift_play", play_mm=4.0))
    path = {"path": "bearings_pressed"}

    def steps() -> set[str]:
        plan = api.get(f"/api/jobs/{job}/strip", params=path).json()
        return {p["step"].split("/")[1] for p in plan["off"]}

    assert "cross_rail_out" not in steps()
    write(api, job, entry("stands", {"exit": "exit_top"}))
    assert "cross_rail_out" in steps()
    refused = problem(write(api, job, entry("stands", {"exit": "by_the_window"})))
    assert refused["code"] == "unknown_code"
