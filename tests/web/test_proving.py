"""A repair proved against the same machine before, on the real server with a real worker."""

from __future__ import annotations

import io
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import httpx
import numpy as np
import pytest
import soundfile
from icalendar import Calendar

from eager_ear.casefile import write_case_folder
from eager_ear.core.simulate import SimulatedCase
from tests.diaries import check, entry, machine, new_id
from tests.web.visits import finished, open_job, problem, put, write, zipped_case


def now(kind: str, body: dict[str, Any] | None, **more: Any) -> dict[str, Any]:
    """An entry of this moment, as the recordings of an imported case are."""
    return entry(kind, body, made_at=datetime.now(UTC), **more)


def step(code: str, way: str = "off") -> dict[str, Any]:
    return now("step", {"step": f"front_belt/{code}", "way": way, "state": "done"})


@pytest.fixture
def bearing(api: httpx.Client, tmp_path: Path, simulated: Callable[..., SimulatedCase]) -> str:
    """A machine with worn bearings, its spin measured, opened."""
    write_case_folder(tmp_path, simulated("front_belt", "drum_bearing", 7, 0.9).case)
    brought = api.post("/api/cases", params={"place": "Boatyard"}, content=zipped_case(tmp_path)).json()
    job = str(finished(api, brought["id"])["id"])
    option = {"path": ["bearings_pressed"], "total": 40000, "currency": "EUR"}
    write(
        api,
        job,
        entry("offered", {"options": [option]}),
        entry("decided", {"option": 0, "answer": "yes"}),
        step("baseline_saved"),
        step("plinth_off"),
    )
    return job


def proof(api: httpx.Client, job: str) -> dict[str, Any]:
    answer = api.get(f"/api/jobs/{job}/proof")
    assert answer.status_code == 200, answer.text
    return dict(answer.json())


def close_up(api: httpx.Client, job: str) -> None:
    write(api, job, step("tray_ready", "on"), step("plinth_off", "on"))


def bring_spin(api: httpx.Client, job: str, simulated: SimulatedCase, folder: Path) -> None:
    """The same machine's next spin, recorded as the first one was."""
    write_case_folder(folder, simulated.case)
    [sound] = [r for r in simulated.case.recordings if r.facts.kind == "audio"]
    content = (folder / sound.facts.name).read_bytes()
    facts = {"position": sound.facts.position, "load": sound.facts.load, "run": sound.facts.run}
    uuid = new_id()
    assert put(api, job, content, uuid=uuid).status_code == 200
    known = {key: value for key, value in facts.items() if value is not None}
    body = {"recording": uuid, "kind": "audio", "file": "after.wav", "test": "spin", **known}
    assert write(api, job, now("recording", body))["entries"][0]["problem"] is None


def test_a_repair_is_proved_against_the_machine_before(
    api: httpx.Client, bearing: str, tmp_path: Path, simulated: Callable[..., SimulatedCase]
) -> None:
    before = proof(api, bearing)
    assert before["before_after"] is None
    assert "before its repair" in before["waiting"]
    codes = [t["test"]["code"] for t in before["tests"]]
    assert codes[:2] == ["p_hand", "p_seam"]
    assert codes[-1] == "p_load"

    too_early = api.get(f"/api/jobs/{bearing}/listen", params={"way": "before_after"})
    assert too_early.status_code == 422
    assert "after the repair" in too_early.json()["message"]

    close_up(api, bearing)
    assert "Record an empty spin now" in proof(api, bearing)["waiting"]
    hurried = {"outcome": "mended", "why": "in a hurry"}
    refused = problem(write(api, bearing, entry("closed", hurried, made_at=datetime.now(UTC))))
    assert (refused["code"], refused["field"]) == ("not_now", "body.outcome")
    assert "then the job can be called mended" in refused["message"]
    write(api, bearing, entry("closed", {"outcome": "declined"}, made_at=datetime.now(UTC)))
    assert "not compared" in proof(api, bearing)["waiting"]
    write(api, bearing, entry("reopened", {}, made_at=datetime.now(UTC)))
    called = api.get(f"/api/jobs/{bearing}").json()["call"]
    bring_spin(api, bearing, simulated("front_belt", "none", 7, 0.9), tmp_path / "after")
    finished(api, bearing)
    after = proof(api, bearing)["before_after"]
    assert after["verdict"] == "better", after
    assert "race" in after["says"].lower() or "dB less" in after["says"]
    # Both for the ear in turns, at one loudness and one speed.
    heard = api.get(f"/api/jobs/{bearing}/listen", params={"way": "before_after"})
    assert heard.status_code == 200, heard.text
    samples, rate = soundfile.read(io.BytesIO(heard.content))
    piece = samples[: int(1.4 * rate)], samples[int(1.7 * rate) : int(3.0 * rate)]
    loud = [float(np.sqrt(np.mean(np.square(p)))) for p in piece]
    assert loud[0] == pytest.approx(loud[1], rel=0.35)
    assert float(heard.headers["x-speed-rpm"]) > 300
    # The call stays what it was: the mended machine does not speak against what was wrong with it.
    now = api.get(f"/api/jobs/{bearing}").json()["call"]
    assert (now["leader"], now["leader_probability"]) == (called["leader"], called["leader_probability"])


def test_a_failed_proof_opens_the_call_with_the_new_recording(
    api: httpx.Client, bearing: str, tmp_path: Path, simulated: Callable[..., SimulatedCase]
) -> None:
    write(api, bearing, now("check", {"check": "hand_turn", "values": {"feel": "grinding"}}))
    close_up(api, bearing)
    bring_spin(api, bearing, simulated("front_belt", "none", 7, 0.9), tmp_path / "after")
    finished(api, bearing)
    leader = api.get(f"/api/jobs/{bearing}").json()["call"]["leader"]
    assert leader == "drum_bearing"
    rocks = now("check", {"check": "rock", "values": {"gap_mm": [0, 0, 6, 0]}})
    answer = write(api, bearing, now("proved", {"test": "p_level", "passed": False}), rocks)
    assert answer["job"]["call"]["leader"] == "not_level"
    # Taken back, the first call stands again.
    failed = answer["job"]["proof"]["proved"][0]["entry"]
    back = write(api, bearing, now("proved", None, replaces=failed))
    assert back["job"]["call"]["leader"] == "drum_bearing"


def test_tests_are_passed_or_left_out_with_a_reason(api: httpx.Client) -> None:
    job = open_job(api, machine(layout="top_coupler"), check("coupler_look", broken=True))
    codes = [t["test"]["code"] for t in proof(api, job)["tests"]]
    assert codes == ["wash_stroke", "drain_look", "p_empty", "p_load"]
    passed = [entry("proved", {"test": code, "passed": True}) for code in codes[:3]]
    write(api, job, *passed, entry("note", {"text": "No load in the house.", "about": "proof:p_load"}))
    state = proof(api, job)
    assert [t["passed"] for t in state["tests"]] == [True, True, True, None]
    assert state["tests"][3]["left_out"] == "No load in the house."
    assert not state["proved"]
    write(api, job, entry("proved", {"test": "p_load", "passed": True}))
    assert proof(api, job)["proved"]


def test_follow_ups_come_from_the_repair_and_stand_on_the_board(api: httpx.Client) -> None:
    job = open_job(api, machine(layout="top_shifter"), check("corner_rest", detached=["rear_left"]))
    proposed = proof(api, job)["follow_ups"]
    assert [f["what"] for f in proposed] == ["Look at the corners", "Look at the corners again"]
    write(api, job, *[entry("follow_up", {"due": f["due"], "what": f["what"]}) for f in proposed])
    assert proof(api, job)["follow_ups"] == []
    [short] = [j for j in api.get("/api/jobs").json()["jobs"] if j["id"] == job]
    assert short["due_on"] == proposed[0]["due"]
    write(api, job, entry("follow_up", {"due": proposed[0]["due"], "what": proposed[0]["what"], "done": True}))
    [short] = [j for j in api.get("/api/jobs").json()["jobs"] if j["id"] == job]
    assert short["due_on"] == proposed[1]["due"]


def test_a_job_is_not_called_mended_with_its_covers_off(api: httpx.Client, bearing: str) -> None:
    refused = problem(write(api, bearing, entry("closed", {"outcome": "mended"})))
    assert "All covers are on" in refused["message"]
    assert write(api, bearing, entry("closed", {"outcome": "declined"}))["entries"][0]["problem"] is None


def test_follow_ups_are_one_event_each_in_a_calendar(api: httpx.Client) -> None:
    first = open_job(api, machine("Weir, 3; “upper”", layout="top_shifter"))
    other = open_job(api, machine("Mill", layout="top_shifter"))
    write(api, first, entry("follow_up", {"due": "2026-06-01", "what": "Look at the corners"}))
    write(api, first, entry("follow_up", {"due": "2026-05-01", "what": "Call", "done": True}))
    write(api, other, entry("follow_up", {"due": "2026-05-20", "what": "Look at the marks, both"}))
    answer = api.get("/api/follow-ups.ics")
    assert (answer.status_code, answer.headers["content-type"]) == (200, "text/calendar; charset=utf-8")
    events = list(Calendar.from_ical(answer.content).walk("VEVENT"))
    assert [(str(e["summary"]), e.decoded("dtstart").isoformat()) for e in events] == [
        ("Mill: Look at the marks, both", "2026-05-20"),
        ("Weir, 3; “upper”: Look at the corners", "2026-06-01"),
    ]
    again = Calendar.from_ical(api.get("/api/follow-ups.ics").content).walk("VEVENT")
    assert [e["uid"] for e in again] == [e["uid"] for e in events]
