"""From a call to a signed yes, a strip, and the power back: over HTTP, on the real server with a real database."""

from __future__ import annotations

from typing import Any

import httpx
import pytest

from tests.diaries import check, entry, machine
from tests.web.visits import open_job, problem, write


@pytest.fixture
def job(api: httpx.Client) -> str:
    """A coupler that was seen broken."""
    return open_job(
        api,
        machine(layout="top_coupler", age_years=6.0),
        check("coupler_look", broken=True),
        check("hand_turn", feel="smooth"),
    )


def offer(api: httpx.Client, job: str) -> dict[str, Any]:
    answer = api.get(f"/api/jobs/{job}/offer")
    assert answer.status_code == 200, answer.text
    return dict(answer.json())


def strip(api: httpx.Client, job: str) -> dict[str, Any]:
    answer = api.get(f"/api/jobs/{job}/strip")
    assert answer.status_code == 200, answer.text
    return dict(answer.json())


def say_yes(api: httpx.Client, job: str, *paths: str) -> None:
    option = {"path": list(paths), "total": 10000, "currency": "EUR"}
    answer = write(
        api,
        job,
        entry("offered", {"options": [option]}),
        entry("decided", {"option": 0, "answer": "yes", "who": "Ida Weir", "consents": [], "signature": "M0 0L9 9"}),
    )
    assert [e["problem"] for e in answer["entries"]] == [None, None]


def step(code: str, way: str = "off", state: str = "done") -> dict[str, Any]:
    return entry("step", {"step": f"top_coupler/{code}", "way": way, "state": state})


def take_off(api: httpx.Client, job: str) -> list[str]:
    codes = [p["step"].split("/")[1] for p in strip(api, job)["off"]]
    write(api, job, *[step(code) for code in codes])
    return codes


def test_an_offer_follows_the_call(api: httpx.Client, job: str) -> None:
    made = offer(api, job)
    assert made["faults"] == ["motor_coupler"]
    assert made["offer"]["proposed"] == "coupler_kit"
    codes = [o["code"] for o in made["offer"]["options"]]
    assert {"coupler_kit", "replace", "scrap"} <= set(codes)
    assert "coupler_kit" in made["offer"]["missing"]


def test_without_a_layout_there_is_no_sum(api: httpx.Client) -> None:
    blank = open_job(api, entry("machine", {"place": "Sluice 4"}))
    answer = api.get(f"/api/jobs/{blank}/offer")
    assert (answer.status_code, answer.json()["code"]) == (422, "nothing_to_offer")
    assert api.get(f"/api/jobs/{blank}/strip").status_code == 422


def test_a_price_said_once_is_remembered_for_the_next_job(api: httpx.Client, job: str) -> None:
    priced = entry("priced", {"part": "coupler_kit", "amount": 1990, "currency": "EUR", "source": "Quay spares"})
    write(api, job, priced)
    [line] = [x for o in offer(api, job)["offer"]["options"] for x in o["lines"] if x["code"] == "coupler_kit"]
    assert (line["amount"]["low"]["minor"], line["source"], line["typical"]) == (1990, "Quay spares", False)
    other = open_job(api, machine("Mill 2", layout="top_coupler"), check("coupler_look", broken=True))
    [line] = [x for o in offer(api, other)["offer"]["options"] for x in o["lines"] if x["code"] == "coupler_kit"]
    assert line["amount"]["high"]["minor"] == 1990
    [known] = api.get("/api/shop").json()["prices"]
    assert (known["code"], known["source"]) == ("coupler_kit", "Quay spares")
    # An older word that arrives later changes nothing.
    older = entry("priced", {"part": "coupler_kit", "amount": 900, "currency": "EUR"}, made_at="2026-03-03T08:00:00Z")
    write(api, job, older)
    assert api.get("/api/shop").json()["prices"][0]["amount"] == 1990


def test_settings_are_kept_and_change_the_sum(api: httpx.Client, job: str) -> None:
    before = offer(api, job)["offer"]["options"][0]["total"]["low"]["minor"]
    kept = api.put("/api/shop", json={"settings": {"hour": 9000, "schools": {"bearings": "press"}}})
    assert kept.status_code == 200, kept.text
    assert kept.json()["settings"]["hour"] == 9000
    assert offer(api, job)["offer"]["options"][0]["total"]["low"]["minor"] > before
    again = api.get("/api/shop").json()
    assert again["settings"]["schools"] == {"bearings": "press"}
    assert again["settings"]["visit"] == 2500
    refused = api.put("/api/shop", json={"settings": {"hour": "much"}})
    assert (refused.status_code, refused.json()["code"]) == (422, "bad_field")
    assert api.get("/api/shop").json()["settings"]["hour"] == 9000


def test_what_would_follow_is_tried_without_being_kept(api: httpx.Client, job: str) -> None:
    tried = api.post(f"/api/jobs/{job}/offer", json={"tried": {"age_years": 30, "replacement": 10000}}).json()
    assert tried["offer"]["proposed"] == "replace"
    assert offer(api, job)["offer"]["proposed"] == "coupler_kit"


def test_what_the_technician_called_is_what_is_priced(api: httpx.Client, job: str) -> None:
    write(api, job, entry("called", {"faults": ["gearcase"], "advice": "commit", "own_view": "It is stiff as well."}))
    made = offer(api, job)
    assert (made["faults"], made["called"]) == (["gearcase"], True)


def test_the_plan_is_of_what_was_agreed_to(api: httpx.Client, job: str) -> None:
    before = strip(api, job)
    assert [p["code"] for p in before["paths"]] == ["coupler_kit"]
    assert not before["agreed"]
    say_yes(api, job, "motor_new")
    after = strip(api, job)
    assert ([p["code"] for p in after["paths"]], after["agreed"]) == (["motor_new"], True)
    assert after["off"][0]["step"] == "top_coupler/baseline_saved"
    other = api.get(f"/api/jobs/{job}/strip", params={"path": "belt_rigid"})
    assert other.status_code == 422


def test_the_power_stays_off_until_what_was_opened_is_closed(api: httpx.Client, job: str) -> None:
    say_yes(api, job, "coupler_kit")
    take_off(api, job)
    refused = problem(write(api, job, entry("power_back", {})))
    assert refused["code"] == "not_now"
    assert "All covers are on" in refused["message"]
    plan = strip(api, job)
    back = [p["step"].split("/")[1] for p in (*plan["fit"], *plan["on"]) if p["step"]]
    write(api, job, *[step(code, "on") for code in back])
    # Everything is back, but nobody has turned the drum since.
    assert "Turned by hand" in problem(write(api, job, entry("power_back", {})))["message"]
    write(api, job, check("hand_turn", feel="smooth"))
    assert write(api, job, entry("power_back", {}))["entries"][0]["problem"] is None
    assert all(g["missing"] == "" for g in strip(api, job)["gates"])


def test_a_screw_that_did_not_go_in_keeps_the_power_off(api: httpx.Client, job: str) -> None:
    say_yes(api, job, "coupler_kit")
    take_off(api, job)
    plan = strip(api, job)
    back = [p["step"].split("/")[1] for p in (*plan["fit"], *plan["on"]) if p["step"]]
    count = {"step": "top_coupler/motor_out", "group": "straps"}
    write(api, job, entry("counted", {**count, "out": 2}), *[step(code, "on") for code in back])
    write(api, job, entry("counted", {**count, "in": 1}), check("hand_turn", feel="smooth"))
    refused = problem(write(api, job, entry("power_back", {})))
    assert "2 out, 1 in" in refused["message"]
    closed = problem(write(api, job, entry("closed", {"outcome": "mended"})))
    assert closed["code"] == "not_now"
    # A reason is taken, and kept.
    assert write(api, job, entry("power_back", {"why": "Light is needed to find it."}))["entries"][0]["problem"] is None


def test_a_bridge_is_never_given_a_reason(api: httpx.Client, job: str) -> None:
    write(api, job, entry("bridged", {"where": "lid switch"}))
    refused = problem(write(api, job, entry("power_back", {"why": "only for a moment"})))
    assert "still bridged" in refused["message"]


def test_a_step_without_a_way_back_asks_for_part_photo_and_yes(api: httpx.Client) -> None:
    seals = open_job(api, machine(layout="top_coupler"), check("staged_fill", leaks_at="upper", dwell_min=[20]))
    [gate] = [g for g in strip(api, seals)["gates"] if g["code"] == "no_way_back"]
    assert gate["steps"] == ["shaft_seal_out"]
    assert gate["missing"] == "the customer’s yes, a new part compared with the old one, the photo"
    say_yes(api, seals, "seals_column")
    write(api, seals, entry("compared", {"part": "shaft_seal_top", "same": True}))
    [gate] = [g for g in strip(api, seals)["gates"] if g["code"] == "no_way_back"]
    assert gate["missing"] == "the photo"


def test_what_is_seen_on_opening_is_weighed_as_the_check_that_says_the_same(api: httpx.Client) -> None:
    bearing = open_job(api, machine(layout="front_belt"), entry("told", {"symptom": "thump_in_spin", "present": True}))
    before = api.get(f"/api/jobs/{bearing}/call").json()["result"]["suspects"]
    answer = write(api, bearing, entry("seen", {"part": "spider_arms", "condition": "cracked"}))
    assert answer["job"]["call"]["leader"] == "spider"
    after = api.get(f"/api/jobs/{bearing}/call").json()["result"]["suspects"]
    chance = {s["fault"]: s["probability"] for s in after}
    assert chance["spider"] > 0.8 > {s["fault"]: s["probability"] for s in before}["spider"]
    # A part that nobody weighs is kept all the same.
    kept = write(api, bearing, entry("seen", {"part": "heater_scale", "condition": "scaled"}))
    assert kept["entries"][0]["problem"] is None


def test_a_second_fault_found_half_way_is_priced_by_what_it_adds(api: httpx.Client) -> None:
    job = open_job(api, machine(layout="front_belt"), check("drum_lift_play", play_mm=4.0))
    say_yes(api, job, "bearings_pressed")
    assert strip(api, job)["also"] is None
    write(api, job, entry("seen", {"part": "spider_arms", "condition": "cracked"}))
    also = strip(api, job)["also"]
    assert also["faults"] == ["spider"]
    alone = api.post(f"/api/jobs/{job}/offer", json={"faults": ["spider"]}).json()["offer"]["options"]
    whole = next(o for o in alone if o["paths"] == also["paths"])
    # The tub is open already: less work than by itself, and no second way there.
    assert 0 <= also["minutes"]["high"] < 0.5 * whole["minutes"]["high"]
    assert 0 < also["more"]["low"]["minor"] < whole["total"]["low"]["minor"]


def test_a_later_check_by_hand_outweighs_what_was_seen(api: httpx.Client) -> None:
    belt = open_job(api, machine(layout="front_belt"), entry("seen", {"part": "belt", "condition": "frayed"}))
    assert api.get(f"/api/jobs/{belt}").json()["call"]["leader"] == "belt"
    write(api, belt, check("belt_look", state="good"))
    assert api.get(f"/api/jobs/{belt}").json()["call"]["leader"] != "belt"


def test_settings_that_are_not_named_stay(api: httpx.Client) -> None:
    assert api.put("/api/shop", json={"settings": {"visit": 3000}}).status_code == 200
    assert api.put("/api/shop", json={"settings": {"people": 2}}).status_code == 200
    settings = api.get("/api/shop").json()["settings"]
    assert (settings["visit"], settings["people"]) == (3000, 2)


def decision(api: httpx.Client, job: str, **tried: Any) -> dict[str, Any]:
    answer = api.post(f"/api/jobs/{job}/decision", json={"tried": tried})
    assert answer.status_code == 200, answer.text
    return dict(answer.json())


def test_the_sum_is_in_the_shops_money_and_flips_with_its_prices(api: httpx.Client) -> None:
    bearing = open_job(api, machine(), check("hand_turn", feel="rumble"), check("drum_lift_play", play_mm=2.0))
    plain = decision(api, bearing)
    assert plain["advice"] == api.get(f"/api/jobs/{bearing}").json()["call"]["advice"]
    for one in plain["choices"]:
        assert one["total"]["minor"] == pytest.approx(one["spent"]["minor"] + one["lost"]["minor"], abs=1)
    dear = decision(api, bearing, wrong_teardown=500_000)
    cheap = decision(api, bearing, wrong_teardown=0)
    assert (cheap["advice"], dear["advice"]) == ("commit", "check_more")
    # What was tried is not kept; what is settled moves the call at its next weighing.
    assert decision(api, bearing) == plain
    api.put("/api/shop", json={"settings": {"wrong_teardown": 500_000}})
    assert write(api, bearing, entry("told", {"symptom": "growl_in_spin", "present": True}))["job"]["call"]
    assert decision(api, bearing)["wrong_teardown"]["minor"] == 500_000


def test_a_price_that_cannot_be_is_refused(api: httpx.Client, job: str) -> None:
    answer = api.post(f"/api/jobs/{job}/decision", json={"tried": {"hour": -5}})
    assert (answer.status_code, answer.json()["code"]) == (422, "bad_field")


def test_a_yes_to_a_new_machine_leaves_no_plan_agreed_and_every_page_standing(api: httpx.Client, job: str) -> None:
    say_yes(api, job, "replace")
    plan = strip(api, job)
    assert ([p["code"] for p in plan["paths"]], plan["agreed"]) == (["coupler_kit"], False)
    for page in ("offer", "proof", "quote.pdf", "job-sheet.pdf"):
        assert api.get(f"/api/jobs/{job}/{page}").status_code == 200, page


def test_a_layout_that_was_corrected_after_the_yes_leaves_no_plan_agreed(api: httpx.Client, job: str) -> None:
    say_yes(api, job, "coupler_kit")
    write(api, job, entry("machine", {"layout": "front_belt"}), check("belt_look", state="frayed"))
    plan = strip(api, job)
    assert (plan["layout"], plan["agreed"]) == ("front_belt", False)


def test_an_age_that_cannot_be_is_refused(api: httpx.Client, job: str) -> None:
    for age in ("old", -3, 4000, [1], True):
        answer = api.post(f"/api/jobs/{job}/offer", json={"tried": {"age_years": age}})
        assert (answer.status_code, answer.json()["code"]) == (422, "bad_field"), age


def test_the_schools_that_decide_between_the_options_come_with_them_and_can_be_tried(api: httpx.Client) -> None:
    bearing = open_job(api, machine(layout="front_belt", age_years=3.0), check("drum_lift_play", play_mm=4.0))
    write(api, bearing, entry("called", {"faults": ["drum_bearing"], "advice": "commit"}))
    plain = offer(api, bearing)
    [school] = plain["schools"]
    assert (school["code"], school["way"]) == ("bearings", "")
    for way in (w["code"] for w in school["ways"]):
        tried = api.post(f"/api/jobs/{bearing}/offer", json={"tried": {"schools": {"bearings": way}}}).json()
        assert [s["way"] for s in tried["schools"]] == [way]
    assert offer(api, bearing)["schools"] == plain["schools"]
    # Where nothing of it decides, nobody is asked.
    loose = open_job(api, machine(layout="front_belt"), check("hose_clips", loose=True))
    write(api, loose, entry("called", {"faults": ["loose_hose"], "advice": "commit"}))
    assert offer(api, loose)["schools"] == []
