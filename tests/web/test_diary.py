"""The diary over HTTP: the contract, on the real server with a real database."""

from __future__ import annotations

import json
import threading
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta
from typing import Any

import httpx
import pytest

from tests.diaries import BEGAN, check, entry, machine, new_id, told
from tests.support import RunningServer
from tests.web.visits import new_job, open_job, problem, write


def test_a_job_is_opened_once_however_often_it_is_sent(api: httpx.Client) -> None:
    body = {"id": new_id(), "entries": [machine(), told("shakes")]}
    first = api.post("/api/jobs", json=body).json()
    again = api.post("/api/jobs", json=body).json()
    assert first["entries"] == again["entries"]
    assert [e["seq"] for e in first["entries"]] == [1, 2]
    assert (again["job"]["place"], again["job"]["symptoms"]) == ("Lock cottage 1", ["shakes"])
    assert len(api.get("/api/jobs").json()["jobs"]) == 1


def test_the_same_entry_ten_times_is_one(api: httpx.Client) -> None:
    job, rock = new_job(api), check("rock", gap_mm=[0, 0, 5, 0])
    answers = [write(api, job, rock)["entries"] for _ in range(10)]
    assert all(a == answers[0] for a in answers)
    diary = api.get(f"/api/jobs/{job}/entries").json()["entries"]
    assert [e["kind"] for e in diary] == ["machine", "told", "check"]
    # Spelt otherwise it is the same; saying something else it is refused, and nothing changes.
    same = {**rock, "made_at": datetime.fromisoformat(rock["made_at"]).astimezone().isoformat()}
    assert write(api, job, same)["entries"] == answers[0]
    other = write(api, job, {**rock, "body": {"check": "rock", "values": {"gap_mm": [0, 0, 0, 0]}}})
    assert problem(other)["code"] == "said_otherwise"
    assert other["job"]["checks"][0]["values"] == {"gap_mm": [0, 0, 5, 0]}
    # Nor can another job have it.
    assert problem(write(api, new_job(api), rock))["code"] == "said_otherwise"


def test_ten_connections_that_send_the_same_entries_at_once_leave_one_of_each(
    api: httpx.Client, server: RunningServer
) -> None:
    body = {"id": new_id(), "entries": [machine(), told("shakes"), check("rock", gap_mm=[0, 0, 5, 0])]}
    together = threading.Barrier(10)

    def send(_: int) -> list[Any]:
        with httpx.Client(base_url=server.url, timeout=60.0) as own:
            together.wait(timeout=30.0)
            answer = own.post("/api/jobs", json=body)
            assert answer.status_code == 200, answer.text
            return list(answer.json()["entries"])

    with ThreadPoolExecutor(10) as pool:
        answers = list(pool.map(send, range(10)))
    assert all(a == answers[0] for a in answers)
    assert [e["seq"] for e in api.get(f"/api/jobs/{body['id']}/entries").json()["entries"]] == [1, 2, 3]


def test_a_bad_entry_does_not_stop_the_others(api: httpx.Client) -> None:
    job = new_job(api)
    good, also_good = told("thump_in_spin"), check("bounce", corner="rear_left", swings=5)
    bad = [
        entry("gossip", {"text": "x"}),
        entry("told", {"symptom": "hisses", "present": True}),
        entry("told", {"symptom": "shakes"}),
        entry("note", {"text": "x", "colour": "white"}),
        check("bounce", corner="rear_left", swings="many"),
        check("rock", height_mm=3),
        entry("machine", {"max_spin_rpm": 1e9}),
        entry("note", {"text": "\ud800"}),
        entry("note", None),
        entry("note", {"text": "when?"}, made_at="2026-03-04T08:00:00"),
        {**entry("note", {"text": "x"}), "id": "first"},
        {**entry("note", {"text": "x"}), "weather": "fair"},
        "no entry",
        None,
    ]
    answer = write(api, job, good, *bad, also_good)
    fields = [e["problem"]["field"] if e["problem"] else None for e in answer["entries"]]
    assert fields == [
        None,
        "kind",
        "body.symptom",
        "body.present",
        "body.colour",
        "body.bounce.swings",
        "body.values.height_mm",
        "body.max_spin_rpm",
        "body.text",
        "body",
        "made_at",
        "id",
        "weather",
        "entry",
        "entry",
        None,
    ]
    assert all(e["problem"]["message"] for e in answer["entries"][1:-1])
    assert answer["job"]["symptoms"] == ["shakes", "thump_in_spin"]
    assert [e["seq"] for e in (answer["entries"][0], answer["entries"][-1])] == [3, 4]


def test_a_correction_takes_the_place_and_taking_it_back_is_one_step_back(api: httpx.Client) -> None:
    job = new_job(api)
    first = check("rock", gap_mm=[0, 0, 5, 0])
    corrected = {**check("rock", gap_mm=[0, 0, 1, 0]), "replaces": first["id"]}
    made = write(api, job, first, corrected)["job"]["checks"]
    assert [c["values"] for c in made] == [{"gap_mm": [0, 0, 1, 0]}]
    back = entry("check", None, replaces=corrected["id"])
    assert write(api, job, back)["job"]["checks"][0]["values"] == {"gap_mm": [0, 0, 5, 0]}
    assert write(api, job, entry("check", None, replaces=first["id"]))["job"]["checks"] == []
    history = api.get(f"/api/jobs/{job}/entries").json()["entries"]
    assert [e["counts"] for e in history] == [True, True, False, False, False, False]
    # What is not there, or of another kind, cannot be replaced.
    assert problem(write(api, job, entry("check", None, replaces=new_id())))["field"] == "replaces"
    assert problem(write(api, job, entry("told", None, replaces=first["id"])))["field"] == "replaces"


def test_two_devices_that_disagree_are_both_shown_until_somebody_picks(api: httpx.Client) -> None:
    job = new_job(api)
    phone = check("rock", gap_mm=[0, 0, 5, 0])
    tablet = {**check("rock", gap_mm=[0, 0, 0, 0]), "device": "tablet"}
    [said] = write(api, job, phone, tablet)["job"]["disagreements"]
    assert (said["kind"], said["subject"], said["entries"]) == ("check", "rock", [phone["id"], tablet["id"]])
    # Different facts of one machine do not disagree; another corner is another check.
    more = [
        {**entry("machine", {"max_spin_rpm": 1200}), "device": "tablet"},
        entry("machine", {"age_years": 8}),
        check("bounce", corner="rear_left", swings=2),
        {**check("bounce", corner="rear_right", swings=5), "device": "tablet"},
    ]
    assert len(write(api, job, *more)["job"]["disagreements"]) == 1
    picked = write(api, job, entry("check", None, replaces=tablet["id"]))["job"]
    assert picked["disagreements"] == []
    assert picked["checks"][0]["values"] == {"gap_mm": [0, 0, 5, 0]}
    # Half an hour later it is a second measurement, not a disagreement.
    later = entry("check", phone["body"] | {"values": {"gap_mm": [1, 0, 0, 0]}}, device="tablet")
    later["made_at"] = (BEGAN + timedelta(hours=9)).isoformat()
    again = write(api, job, later)["job"]
    assert again["disagreements"] == []
    assert [b["gap_mm"] for b in again["checks"][0]["before"]] == [[0, 0, 5, 0]]


def test_a_clock_that_is_a_day_off_is_said_and_does_not_decide(api: httpx.Client) -> None:
    job, now = new_job(api), datetime.now(UTC)
    ahead = check("rock", gap_mm=[0, 0, 5, 0])
    ahead["made_at"] = (now + timedelta(days=1)).isoformat()
    answer = write(api, job, ahead)
    assert answer["clock"]["off_s"] == pytest.approx(86400.0, abs=60.0)
    assert "24 hours ahead" in answer["clock"]["message"]
    # The clock that is right writes later, and that counts.
    later = check("rock", gap_mm=[0, 0, 0, 0])
    later["made_at"] = datetime.now(UTC).isoformat()
    answer = write(api, job, later, sent_at=datetime.now(UTC).isoformat())
    assert answer["clock"] is None
    assert answer["job"]["checks"][0]["values"] == {"gap_mm": [0, 0, 0, 0]}
    # A clock that is behind says so itself; entries made without a signal are old and all right.
    behind = check("rock", gap_mm=[2, 0, 0, 0])
    behind["made_at"] = (now - timedelta(days=1)).isoformat()
    answer = write(api, job, behind, sent_at=(datetime.now(UTC) - timedelta(days=1)).isoformat())
    assert "24 hours behind" in answer["clock"]["message"]
    assert answer["job"]["checks"][0]["values"] == {"gap_mm": [2, 0, 0, 0]}
    offline = check("rock", gap_mm=[3, 0, 0, 0])
    offline["made_at"] = (now - timedelta(hours=6)).isoformat()
    answer = write(api, job, offline, sent_at=datetime.now(UTC).isoformat())
    assert (answer["clock"], answer["job"]["checks"][0]["values"]) == (None, {"gap_mm": [2, 0, 0, 0]})


def test_the_call_answers_with_the_entry_itself(api: httpx.Client) -> None:
    job = open_job(api, machine(layout="top_pulsator"), told("bang_at_spin_start"))
    called = write(api, job, check("corner_rest", detached=["rear_left"]))["job"]["call"]
    assert (called["leader"], called["leader_probability"] > 0.5) == ("suspension_off", True)
    assert called["knowledge_version"].startswith("2026.")
    # What the technician does not believe is left out at once.
    aside = entry("set_aside", {"finding": "rod_off", "why": "That is another machine's rod."})
    answer = write(api, job, aside)["job"]
    assert answer["call"]["leader_probability"] < called["leader_probability"]
    assert answer["set_aside"][0]["finding"] == "rod_off"
    assert write(api, job, entry("set_aside", None, replaces=aside["id"]))["job"]["call"]["leader"] == "suspension_off"


def test_without_a_layout_there_is_a_job_but_no_call(api: httpx.Client) -> None:
    job = open_job(api, entry("machine", {"place": "Ferry café"}))
    shown = api.get(f"/api/jobs/{job}").json()
    assert (shown["place"], shown["machine"]["layout"], shown["call"]) == ("Ferry café", None, None)
    assert api.get(f"/api/jobs/{job}/call").status_code == 404
    assert write(api, job, entry("machine", {"layout": "top_splined"}))["job"]["call"] is not None
    # A fact that was wrong can be taken back to not known.
    assert write(api, job, entry("machine", {"layout": None}))["job"]["machine"]["layout"] is None


def test_a_bridged_interlock_keeps_the_job_open(api: httpx.Client) -> None:
    job = new_job(api)
    bridged = entry("bridged", {"where": "lid lock"})
    assert write(api, job, bridged)["job"]["any_time"]["bridged"][0]["where"] == "lid lock"
    assert api.get("/api/jobs").json()["jobs"][0]["bridged"] is True
    refused = problem(write(api, job, entry("closed", {"outcome": "mended"})))
    assert (refused["code"], "lid lock" in refused["message"]) == ("not_now", True)
    assert problem(write(api, job, entry("restored", {"restored": new_id()})))["code"] == "not_now"
    restored = entry("restored", {"restored": bridged["id"]})
    answer = write(api, job, restored, entry("closed", {"outcome": "mended", "why": "new lock"}))
    assert (answer["job"]["any_time"]["closed"], answer["job"]["any_time"]["bridged"]) == ("mended", [])
    assert write(api, job, entry("reopened", {}))["job"]["any_time"]["closed"] is None


def test_another_device_learns_of_an_entry_without_asking(api: httpx.Client, server: RunningServer) -> None:
    job = new_job(api)
    with (
        httpx.Client(base_url=server.url, timeout=10.0) as other,
        other.stream("GET", f"/api/jobs/{job}/changes") as stream,
    ):
        lines = (line for line in stream.iter_lines() if line.startswith("data:"))
        before = json.loads(next(lines)[5:])["revision"]
        write(api, job, told("walks"))
        after = json.loads(next(lines)[5:])["revision"]
    assert after > before
    assert api.get(f"/api/jobs/{new_id()}/changes").status_code == 404


def test_a_kill_while_batches_are_written_loses_nothing_that_was_confirmed(server: RunningServer) -> None:
    confirmed: list[str] = []
    sent: list[list[dict[str, Any]]] = []
    with httpx.Client(base_url=server.url, timeout=20.0) as api:
        job = new_job(api)
        killed = threading.Timer(0.4, server.kill)
        killed.start()
        for number in range(400):
            batch = [entry("note", {"text": f"{number}.{k}", "about": "story"}) for k in range(5)]
            sent.append(batch)
            try:
                answer = api.post(f"/api/jobs/{job}/entries", json={"entries": batch})
            except httpx.TransportError:
                break
            confirmed += [e["id"] for e in answer.json()["entries"] if e["seq"]]
        killed.join()
        server.start()
        kept = [e["id"] for e in api.get(f"/api/jobs/{job}/entries").json()["entries"]]
        assert confirmed
        assert set(confirmed) <= set(kept)
        # A batch is kept whole or not at all, and sending the last one again completes it.
        last = [e["id"] for e in sent[-1]]
        assert len(set(last) & set(kept)) in (0, 5)
        assert all(e["seq"] for e in write(api, job, *sent[-1])["entries"])
        numbers = [e["seq"] for e in api.get(f"/api/jobs/{job}/entries").json()["entries"]]
        assert numbers == list(range(1, len(numbers) + 1))


def test_history_goes_on_from_where_a_device_is(api: httpx.Client) -> None:
    job = new_job(api)
    write(api, job, told("walks"), told("squeal"))
    after = api.get(f"/api/jobs/{job}/entries", params={"after": 2}).json()["entries"]
    assert [e["body"]["symptom"] for e in after] == ["walks", "squeal"]
    assert after[0]["made_at"].startswith("2026-03-04T08:")
