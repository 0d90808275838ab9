"""The shop's record over HTTP: what ended jobs teach, counted, left out, switched off, and seen on a call."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

import httpx
import pytest

from eager_ear.core.diagnosis import Knowledge
from eager_ear.host.village.past import make_past, past_as_bytes, read_past, tell_past
from eager_ear.store import Database
from tests.diaries import check, entry, machine, told
from tests.support import RunningServer
from tests.web.visits import open_job, write


def record(api: httpx.Client) -> dict[str, Any]:
    answer = api.get("/api/record")
    assert answer.status_code == 200, answer.text
    return dict(answer.json())


def ended(
    api: httpx.Client, *faults: str, sure: bool = True, outcome: str = "mended", layout: str = "top_coupler"
) -> str:
    """A job whose coupler was seen broken, closed with what was really there."""
    at = datetime.now(UTC)
    job = open_job(api, machine(layout=layout), told("no_spin"), check("coupler_look", broken=True))
    write(
        api,
        job,
        entry("found", {"faults": list(faults), "not_there": [], "sure": sure}, made_at=at),
        entry("closed", {"outcome": outcome}, made_at=at),
    )
    return job


def chance(api: httpx.Client, fault: str, *, taught: bool = True) -> float:
    """What a fresh machine of that layout is called, with nothing but a word from its owner."""
    job = open_job(api, machine(layout="top_coupler"), told("clothes_wet"))
    answer = api.get(f"/api/jobs/{job}/what-if", params={"taught": taught}).json()
    return next(float(s["probability"]) for s in answer["suspects"] if s["fault"] == fault)


def test_an_ended_job_is_held_against_its_call_before_anything_was_known(api: httpx.Client) -> None:
    assert record(api)["ended"] == 0
    job = ended(api, "motor_coupler")
    wrong = ended(api, "gearcase")
    unsure = ended(api, "none", sure=False, outcome="no_fault")
    told_of = record(api)
    assert (told_of["ended"], told_of["known"]) == (3, 2)
    assert (told_of["right"]["hits"], told_of["right"]["of"]) == (1, 2)
    jobs = {j["job"]: j for j in told_of["jobs"]}
    assert jobs[job]["called"] == "Motor coupler"
    assert jobs[job]["right"] is True
    assert jobs[wrong]["right"] is False
    assert jobs[unsure]["right"] is None
    assert {"found": "Gearcase", "called": "Motor coupler", "count": 1} in told_of["taken"]
    write(api, job, entry("reopened", {}, made_at=datetime.now(UTC)))
    assert record(api)["ended"] == 2


def test_what_was_found_moves_the_next_call_and_one_switch_takes_it_back(api: httpx.Client) -> None:
    before = chance(api, "gearcase_bearing")
    for _ in range(12):
        ended(api, "gearcase_bearing")
    after = chance(api, "gearcase_bearing")
    assert after > 1.2 * before
    assert chance(api, "gearcase_bearing", taught=False) == pytest.approx(before, abs=1e-4)
    odds = next(o for o in record(api)["odds"] if o["layout"] == "top_coupler")
    row = next(r for r in odds["odds"] if r["fault"] == "gearcase_bearing")
    assert row["counted"] == 12
    assert row["now"] > row["built_in"]
    job = open_job(api, machine(layout="top_coupler"), told("clothes_wet"))
    assert api.get(f"/api/jobs/{job}").json()["call"]["knowledge_version"].endswith("~12")
    assert api.put("/api/shop", json={"settings": {"learns": False}}).status_code == 200
    assert chance(api, "gearcase_bearing") == pytest.approx(before, abs=1e-4)
    assert record(api)["learns"] is False


def test_the_next_visit_to_a_machine_sees_what_the_last_one_found(api: httpx.Client) -> None:
    job = ended(api, "motor_coupler")
    known = api.get(f"/api/jobs/{job}").json()["machine_id"]
    again = open_job(api, machine(layout="top_coupler", known_as=known), told("no_spin"))
    assert api.get(f"/api/jobs/{again}").json()["machine_id"] == known
    found = api.get(f"/api/machines/{known}").json()
    assert {v["id"] for v in found["visits"]} == {job, again}
    assert found["found"] == {job: ["motor_coupler"]}


def test_a_job_is_left_out_by_hand_with_a_reason_and_counted_again(api: httpx.Client) -> None:
    job = ended(api, "motor_coupler")
    refused = api.put(f"/api/record/{job}/left-out", json={"why": "  "})
    assert refused.status_code == 422
    out = api.put(f"/api/record/{job}/left-out", json={"why": "practice machine"}).json()
    assert (out["left_out"], out["known"], out["odds"]) == (1, 0, [])
    assert out["jobs"][0]["left_out"] == "practice machine"
    # A later word in its diary does not bring it back.
    write(api, job, entry("note", {"text": "was the practice machine"}), entry("found", {"faults": ["gearcase"]}))
    assert record(api)["left_out"] == 1
    again = api.put(f"/api/record/{job}/left-out", json={"why": None}).json()
    assert (again["left_out"], again["known"]) == (0, 1)
    assert api.put("/api/record/nobody/left-out", json={"why": "x"}).status_code == 404


def test_an_outcome_supposed_moves_the_board_and_nothing_is_kept(api: httpx.Client) -> None:
    job = open_job(api, machine(layout="top_coupler"), told("no_spin"), told("no_agitation"))
    before = api.get(f"/api/jobs/{job}/call").json()["result"]["suspects"]
    supposed = api.get(f"/api/jobs/{job}/what-if", params={"check": "coupler_look", "level": "broken"}).json()
    assert supposed["suspects"][0]["fault"] == "motor_coupler"
    assert supposed["suspects"][0]["probability"] > before[0]["probability"]
    assert api.get(f"/api/jobs/{job}/call").json()["result"]["suspects"] == before
    for query in ({"check": "coupler_look", "level": "wet"}, {"check": "nothing", "level": "broken"}):
        assert api.get(f"/api/jobs/{job}/what-if", params=query).status_code == 422


def test_the_villages_past_ships_as_it_is_made(knowledge: Knowledge) -> None:
    shipped = {job["case"]: job for job in read_past()}
    assert len([j for j in shipped.values() if any(kind == "closed" for _, kind, _ in j["entries"])]) >= 60
    for job in make_past(knowledge, count=3):
        assert job == _as_plain(shipped[job["case"]], job), job["case"]
    assert past_as_bytes([{"a": 1}]) == past_as_bytes([{"a": 1}])


def _as_plain(shipped: dict[str, Any], made: dict[str, Any]) -> dict[str, Any]:
    """Lists of a file stand for what was made as tuples."""
    return {**shipped, "entries": [type(m)(s) for s, m in zip(shipped["entries"], made["entries"], strict=True)]}


def test_a_past_that_is_told_is_a_record(api: httpx.Client, server: RunningServer, knowledge: Knowledge) -> None:
    jobs = read_past()[:12]
    database = Database(server.database_url)
    tell_past(database, knowledge, jobs=jobs)
    tell_past(database, knowledge, jobs=jobs)
    database.close()
    told_of = record(api)
    assert told_of["ended"] == 12
    days = [j["day"] for j in told_of["jobs"]]
    assert days == sorted(days, reverse=True)
    assert days[-1] < datetime.now(UTC).date().isoformat()
    assert 0 < told_of["right"]["of"] <= 12
