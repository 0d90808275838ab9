"""What is led through at the machine, over HTTP: wet loads, marks over looks, sheets kept with their platform."""

from __future__ import annotations

from typing import Any

import httpx
import pytest

from tests.diaries import check, entry, machine, new_id
from tests.web.visits import open_job, photographed, write

SHEET: dict[str, Any] = {
    "layout": "top_pulsator",
    "name": "Four lamps in a row",
    "enter": [{"act": "left", "count": 3}, {"act": "right"}, {"act": "press", "key": "start"}],
    "time_limit_s": 5,
    "confirm": "All lamps flash",
    "auto_test": "Knob at the second mark",
}


def test_a_wet_load_is_weighed_against_the_plate(api: httpx.Client) -> None:
    asked = {"cloth": "towels", "dry_litres": 60, "rated_kg": 7}
    told = api.post("/api/wet-load", json=asked).json()
    assert told["verdict"] == "right"
    assert told["dry_kg"] == pytest.approx([5.4, 7.8])
    assert api.post("/api/wet-load", json={**asked, "cloth": "wool"}).status_code == 422
    refused = api.post("/api/wet-load", json={**asked, "rated_kg": 0.2})
    assert (refused.status_code, refused.json()["field"]) == (422, "rated_kg")


def test_a_sheet_needs_its_photograph_and_is_kept_with_its_platform(api: httpx.Client) -> None:
    job = open_job(api, machine(layout="top_pulsator"))
    uuid = new_id()
    place = f"/api/jobs/{job}/service-mode"
    before = api.get(place).json()
    assert (before["sheets"], before["chosen"]) == ([], None)
    for photo in ("", new_id()):
        refused = api.put(f"{place}/sheets/{uuid}", json={**SHEET, "photo": photo})
        assert (refused.status_code, refused.json()["field"]) == (422, "photo"), refused.text
    kept = api.put(f"{place}/sheets/{uuid}", json={**SHEET, "photo": photographed(api, job)})
    assert kept.status_code == 200, kept.text
    assert kept.json()["chosen"] == uuid
    [sheet] = kept.json()["sheets"]
    assert [p["says"] for p in sheet["beat"]["prompts"]] == [
        "left 1 of 3",
        "left 2 of 3",
        "left 3 of 3",
        "right",
        "press start",
    ]
    assert sheet["beat"]["lasts_s"] == pytest.approx(4.0)

    # Another machine of the layout finds it and goes by it only once somebody says so; one of another layout never.
    other = open_job(api, machine("Weir cottage", layout="top_pulsator"))
    found = api.get(f"/api/jobs/{other}/service-mode").json()
    assert ([s["uuid"] for s in found["sheets"]], found["chosen"]) == ([uuid], None)
    chosen = api.put(f"/api/jobs/{other}/service-mode/chosen", json={"sheet": uuid}).json()
    assert chosen["chosen"] == uuid
    assert api.put(f"/api/jobs/{other}/service-mode/chosen", json={"sheet": None}).json()["chosen"] is None
    front = open_job(api, machine("Mill", layout="front_belt"))
    assert api.get(f"/api/jobs/{front}/service-mode").json()["sheets"] == []
    assert api.put(f"/api/jobs/{front}/service-mode/chosen", json={"sheet": uuid}).status_code == 422


def test_a_sheet_read_again_takes_the_place_of_its_first_reading(api: httpx.Client) -> None:
    job = open_job(api, machine(layout="top_pulsator"))
    uuid, photo = new_id(), photographed(api, job)
    place = f"/api/jobs/{job}/service-mode/sheets/{uuid}"
    assert api.put(place, json={**SHEET, "photo": photo}).status_code == 200
    again = api.put(place, json={**SHEET, "photo": photo, "time_limit_s": 10, "name": "Four lamps"}).json()
    mine = [s for s in again["sheets"] if s["uuid"] == uuid]
    assert [(s["sheet"]["name"], s["beat"]["limit_s"]) for s in mine] == [("Four lamps", 10.0)]


def test_rows_are_those_of_the_layout(api: httpx.Client) -> None:
    front = open_job(api, machine(layout="front_direct"))
    top = open_job(api, machine(layout="top_shifter"))
    rows = {job: [r["code"] for r in api.get(f"/api/jobs/{job}/service-mode").json()["rows"]] for job in (front, top)}
    assert "shift" in rows[top]
    assert "shift" not in rows[front]
    assert rows[front][0] == "lock"
    assert rows[front][-1] == "brake"


def test_marks_are_counted_over_their_looks_and_stop_when_one_moves(api: httpx.Client) -> None:
    job = open_job(api, machine(layout="top_pulsator"), check("axial_play", play_mm=3))
    option = {"path": ["shim_and_lock"], "total": 20000, "currency": "EUR"}
    write(api, job, entry("offered", {"options": [option]}), entry("decided", {"option": 0, "answer": "yes"}))

    def look(loads: int, *, moved: bool = False) -> dict[str, Any]:
        values = {"loads": loads, "moved": moved, "photo": new_id()}
        write(api, job, entry("proved", {"test": "p_witness", "passed": not moved, "values": values}))
        return dict(api.get(f"/api/jobs/{job}/proof").json()["marks"])

    assert "Paint a line" in api.get(f"/api/jobs/{job}/proof").json()["marks"]["says"]
    assert look(0)["next_at_loads"] == 1
    assert look(1)["next_at_loads"] == 5
    third = look(4)
    assert (third["loads"], third["next_at_loads"], len(third["looks"])) == (5, 20, 3)
    last = look(3, moved=True)
    assert last["stop"]
    assert "unplug" in last["says"]
    assert [
        t["passed"] for t in api.get(f"/api/jobs/{job}/proof").json()["tests"] if t["test"]["code"] == "p_witness"
    ] == [False]


def test_odd_values_of_a_look_count_as_none(api: httpx.Client) -> None:
    job = open_job(api, machine(layout="top_pulsator"), check("axial_play", play_mm=3))
    option = {"path": ["shim_and_lock"], "total": 20000, "currency": "EUR"}
    write(api, job, entry("offered", {"options": [option]}), entry("decided", {"option": 0, "answer": "yes"}))
    odd = {"loads": "many", "play_mm": True, "photo": 3}
    write(api, job, entry("proved", {"test": "p_witness", "passed": True, "values": odd}))
    [seen] = api.get(f"/api/jobs/{job}/proof").json()["marks"]["looks"]
    assert (seen["loads"], seen["play_mm"], seen["photo"]) == (0, None, None)
