"""Small sums at the bench and tools for the van, over HTTP."""

from __future__ import annotations

import httpx
import pytest

from tests.diaries import machine
from tests.web.visits import open_job


def test_washers_take_up_the_play_and_are_held_against_the_rim(api: httpx.Client) -> None:
    told = api.post("/api/bench/shims", json={"axial_play_mm": 1.6, "rim_clearance_mm": 4.0}).json()
    assert told == {
        "least_mm": pytest.approx(1.5),
        "most_mm": 1.6,
        "rim_left_mm": pytest.approx(2.4),
        "rim_clears": True,
    }
    tight = api.post("/api/bench/shims", json={"axial_play_mm": 3.0, "rim_clearance_mm": 2.0}).json()
    assert tight["rim_clears"] is False
    assert api.post("/api/bench/shims", json={"axial_play_mm": 3.0}).json()["rim_left_mm"] is None
    assert api.post("/api/bench/shims", json={"axial_play_mm": -1}).status_code == 422


def test_a_mass_on_one_side_pulls_by_the_square_of_the_speed(api: httpx.Client) -> None:
    body = {"mass_g": 50, "radius_mm": 200, "spin_rpm": 1200}
    told = api.post("/api/bench/added-mass", json=body).json()
    assert told["force_n"] == pytest.approx(0.05 * 0.2 * (2 * 3.14159265 * 20) ** 2, rel=1e-6)
    assert told["kilograms"] == pytest.approx(told["force_n"] / 9.80665)
    assert api.post("/api/bench/added-mass", json={**body, "spin_rpm": 99999}).status_code == 422


def test_tools_that_the_shop_has_not_got_stand_out_in_the_van(api: httpx.Client) -> None:
    job = open_job(api, machine(layout="top_pulsator"))
    asked = f"/api/jobs/{job}/strip?path=shim_and_lock"
    tools = api.get(asked).json()["tools"]
    assert tools
    assert not any(tool["lacking"] for tool in tools)
    missing = tools[0]["code"]
    assert api.put("/api/shop", json={"settings": {"lacks": [missing]}}).json()["settings"]["lacks"] == [missing]
    assert [t["code"] for t in api.get(asked).json()["tools"] if t["lacking"]] == [missing]
    refused = api.put("/api/shop", json={"settings": {"lacks": ["magic_wand"]}})
    assert (refused.status_code, refused.json()["code"]) == (422, "unknown_code")


def test_steps_say_what_helps_with_them(api: httpx.Client) -> None:
    plan = api.get(f"/api/jobs/{open_job(api, machine(layout='top_pulsator'))}/strip?path=shim_and_lock").json()
    aids = {p["step"]: p["aid"] for part in ("off", "fit", "on") for p in plan[part] if p["aid"]}
    assert aids["top_pulsator/seat_measured"] == "shims"
    assert aids["top_pulsator/flange_locked"] == "added_mass"
