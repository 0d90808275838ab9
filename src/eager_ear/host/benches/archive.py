"""How fast the server answers once a shop has a hundred thousand jobs and a million recordings: made up in bulk, asked
over HTTP, timed. Of recordings there is what is known of them, ten a job; their bytes are one file for all.

Every fiftieth job, and the newest, are whole, with a simulated spin's measurement and call; the others hold the same
diary and a short call, so that the tables are as long as an archive's while the disk stays a laptop's.
"""

from __future__ import annotations

import json
import time
import urllib.parse
import urllib.request
from collections.abc import Callable, Iterator, Mapping
from dataclasses import asdict, replace
from datetime import UTC, datetime, timedelta
from typing import Any

import numpy as np
from sqlalchemy import insert

from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.diagnosis.evidence import shown_to_json
from eager_ear.core.machine import LAYOUT_CODES, Machine
from eager_ear.core.measure import measure_recordings, runs_of
from eager_ear.core.result import result_dict
from eager_ear.core.simulate import simulate_case
from eager_ear.core.visit import facts_of_body
from eager_ear.core.weigh import weigh
from eager_ear.host.running.mariadb import temporary_mariadb
from eager_ear.host.running.run import served
from eager_ear.ids import uuid7
from eager_ear.knowledge import load_knowledge
from eager_ear.store import Database, Need, migrate
from eager_ear.store.repositories.job_words import kept_words
from eager_ear.store.tables import (
    AttachmentRow,
    CallRow,
    EntryRow,
    FileRow,
    JobMeasurementRow,
    JobRow,
    MachineRow,
    MeasurementRow,
    OutcomeRow,
)
from eager_ear.use_cases.diagnosis.versions import code_version
from eager_ear.use_cases.diagnosis.weighing import need_of

BATCH = 1000
WHOLE_EVERY = 50
WHOLE_NEWEST = 400
ASKED = 200
RECORDINGS = 10
PLACES = ("Lock cottage", "Weir house", "Toll bridge", "Ferry steps", "Mill lane", "Boatyard", "Chandler's shop")
OWNERS = tuple(f"{first}{last}" for first in ("Al", "Ber", "Cor", "Dor") for last in ("bridge", "ford", "lock", "weir"))
SIZE_BYTES = 6_000_000
CHECKSUM = "0" * 64
PLATE_RPM = 1200
RECORDING = {"kind": "audio", "file": "spin.wav", "test": "spin", "run": "1", "load": "empty"}
ATTACHMENT = {
    "purpose": "recording",
    "name": "spin.wav",
    "total_bytes": SIZE_BYTES,
    "file_id": 1,
    "small_file_id": None,
    "facts": {"kinds": ["audio"], "duration_s": 62.5, "rate_hz": 48000.0, "warnings": []},
}
BEGAN = datetime(2016, 1, 1, 8, 0, 0, tzinfo=UTC)


def run_archive(*, jobs: int) -> None:
    """Make the archive in a temporary place, time its answers, print them, and take it away again."""
    knowledge = load_knowledge()
    with temporary_mariadb() as private:
        url = private.start()
        database = Database(url)
        migrate(database)
        begin = time.perf_counter()
        ids = _fill(database, jobs, knowledge)
        database.close()
        print(f"{jobs} jobs with {jobs * RECORDINGS} recordings made in {time.perf_counter() - begin:.0f} s")
        with served(url) as address:
            _time_answers(address.url, ids)


def _time_answers(url: str, ids: list[str]) -> None:
    rng = np.random.default_rng(1)
    whole = ids[-WHOLE_NEWEST:]
    picked = [str(rng.choice(whole)) for _ in range(ASKED)]
    anywhere = [ids[int(k)] for k in rng.integers(0, len(ids), ASKED)]
    machines = [json.loads(_get(f"{url}/api/jobs/{job}"))["machine_id"] for job in picked[:60]]
    print(f"{'':<10}{'median':>9}{'95th percentile':>18}")
    for name, paths in (
        ("board", ["/api/jobs"] * ASKED),
        ("page", [f"/api/jobs?after={_moment(k)}" for k in rng.integers(0, len(ids), ASKED)]),
        ("waiting", ["/api/jobs?waits_for=decision"] * ASKED),
        ("name", [f"/api/jobs?limit=40&q={rng.choice(OWNERS)}" for _ in range(ASKED)]),
        ("place", [f"/api/jobs?limit=40&q=ferry+{int(k)}" for k in rng.integers(1, 997, ASKED)]),
        ("common", ["/api/jobs?limit=40&q=walks"] * 20),
        ("job", [f"/api/jobs/{job}" for job in anywhere]),
        ("call", [f"/api/jobs/{job}/call" for job in picked]),
        ("beside", [f"/api/jobs/{job}/beside" for job in picked]),
        ("register", ["/api/machines?place=lock%20cottage"] * 20),
        ("found", [f"/api/machines?q={rng.choice(OWNERS)}" for _ in range(40)]),
        ("history", [f"/api/jobs/{job}/entries" for job in anywhere]),
        ("offer", [f"/api/jobs/{job}/offer" for job in picked]),
        ("strip", [f"/api/jobs/{job}/strip" for job in picked]),
        ("proof", [f"/api/jobs/{job}/proof" for job in picked]),
        ("platform", [f"/api/jobs/{job}/platform" for job in picked[:60]]),
        ("machine", [f"/api/machines/{machine}" for machine in machines]),
        ("spins", [f"/api/machines/{machine}/spins" for machine in machines]),
        ("record", ["/api/record"] * 40),
        ("stock", ["/api/shop/stock"] * 20),
        ("due", ["/api/follow-ups.ics"] * 20),
    ):
        _say(name, [_timed(lambda path=path: _get(url + path)) for path in paths])  # type: ignore[misc]
    _say("entry", [_timed(lambda job=job: _write_check(url, job)) for job in picked[:60]])  # type: ignore[misc]


def _moment(number: int) -> str:
    """How a page before that visit is named."""
    at = BEGAN + timedelta(minutes=50 * int(number))
    return urllib.parse.quote(f"{at.isoformat()}/{int(number) + 1}")


def _say(name: str, took_s: list[float]) -> None:
    took_ms = 1000.0 * np.array(took_s[5:])
    print(f"{name:<10}{np.median(took_ms):6.1f} ms{np.percentile(took_ms, 95):15.1f} ms")


def _timed(action: Callable[[], object]) -> float:
    begin = time.perf_counter()
    action()
    return time.perf_counter() - begin


def _get(url: str) -> bytes:
    with urllib.request.urlopen(url, timeout=60) as answer:
        return bytes(answer.read())


def _write_check(url: str, job: str) -> bytes:
    """A hand check, whose answer holds the new call."""
    now = datetime.now(UTC)
    body = {"check": "rock", "values": {"gap_mm": [0, 0, 1.5, 0]}}
    entry = {"id": uuid7(now), "kind": "check", "made_at": now.isoformat(), "device": "bench", "body": body}
    request = urllib.request.Request(
        f"{url}/api/jobs/{job}/entries",
        data=json.dumps({"entries": [entry]}).encode(),
        headers={"Content-Type": "application/json"},
    )
    with urllib.request.urlopen(request, timeout=60) as answer:
        return bytes(answer.read())


def _fill(database: Database, count: int, knowledge: Knowledge) -> list[str]:
    """All tables of an archive; returns the jobs' ids, oldest first."""
    spins = {layout: _spin(layout, knowledge) for layout in LAYOUT_CODES}
    ids: list[str] = []
    with database.engine.begin() as connection:
        connection.execute(insert(FileRow).values(id=1, sha256=CHECKSUM, size_bytes=SIZE_BYTES, begun_at=BEGAN))
        for k, (layout, spin) in enumerate(spins.items(), start=1):
            need = _need(layout)
            connection.execute(insert(MeasurementRow).values(id=k, content=need.content, **_measurement(spin)))
            spins[layout] = {**spin, "id": k, "run": need.run}
    for first in range(0, count, BATCH):
        rows: dict[Any, list[dict[str, Any]]] = {}
        for number in range(first, min(first + BATCH, count)):
            for table, row in _visit(number, count, spins):
                rows.setdefault(table, []).append(row)
        with database.engine.begin() as connection:
            for table in (MachineRow, JobRow, AttachmentRow, EntryRow, JobMeasurementRow, CallRow, OutcomeRow):
                if rows.get(table):
                    connection.execute(insert(table), rows[table])
        ids += [row["uuid"] for row in rows[JobRow]]
    return ids


def _need(layout: str) -> Need:
    """The ten recordings of a visit, as one run that was measured once for all machines of the layout."""
    facts = facts_of_body(RECORDING)
    sent = {"sha256": CHECKSUM, "pa_per_fs": None, **asdict(facts)}
    return need_of(facts.run_key, [sent] * RECORDINGS, Machine(layout=layout, max_spin_rpm=PLATE_RPM))


def _spin(layout: str, knowledge: Knowledge) -> dict[str, Any]:
    case = simulate_case(layout=layout, faults=["none"], seed=3).case
    measured = [
        measure_recordings(r, machine=case.machine, knowledge=knowledge) for r in runs_of(case.recordings).values()
    ]
    weighed = weigh(replace(case, recordings=()), shown=[m.shown for m in measured], knowledge=knowledge)
    shown = measured[0].shown
    return {
        "shown": shown_to_json(shown),
        "curves": dict(shown.curves),
        "result": result_dict(weighed),
    }


def _measurement(spin: dict[str, Any]) -> dict[str, Any]:
    return {
        "code_version": code_version(),
        "state": "done",
        "attempts": 1,
        "request": {"recordings": []},
        "shown": spin["shown"],
        "curves": spin["curves"],
        "profile": spin["curves"].get("profile"),
        "queued_at": BEGAN,
        "finished_at": BEGAN,
    }


def _visit(number: int, count: int, spins: dict[str, dict[str, Any]]) -> Iterator[tuple[Any, dict[str, Any]]]:
    """The rows of one visit; every third one is to a machine met before."""
    key = number + 1
    machine = key if number % 3 else max(1, key - 3 * (number % 500))
    layout = LAYOUT_CODES[machine % len(LAYOUT_CODES)]
    spin = spins[layout]
    place = f"{PLACES[machine % len(PLACES)]} {machine % 997}"
    at = BEGAN + timedelta(minutes=50 * number)
    # All but the newest have ended.
    recent = number >= count - WHOLE_NEWEST
    whole = number % WHOLE_EVERY == 0 or recent
    leader = spin["result"]["suspects"][0]
    call = {"headline": spin["result"]["headline"], "advice": spin["result"]["advice"], "leader": leader["fault"]}
    facts = {"layout": layout, "max_spin_rpm": PLATE_RPM, "age_years": number % 15}
    yield MachineRow, {"id": key, "uuid": uuid7(at), "place": place, "layout": layout, "facts": facts, "changed_at": at}
    yield (
        JobRow,
        {
            "id": key,
            "uuid": uuid7(at),
            "machine_id": machine,
            "case_id": "",
            "created_at": at,
            "changed_at": at,
            "practice": False,
            "last_seq": 6 + RECORDINGS,
            "revision": 1,
            "place": place,
            "layout": layout,
            "check_count": 2,
            "recording_count": RECORDINGS,
            "bridged": False,
            "closed": None if recent else "mended",
            "rings_at": None,
            "due_on": None,
            "waits_for": "nothing" if not recent else "evidence" if number % 2 else "decision",
            "part_on": None,
            "ours": False,
            "words": kept_words(
                f"{place} shakes walks {call['headline']} Walks out of its row {OWNERS[number % len(OWNERS)]}"
            ),
            "measuring": "done",
            "call_id": key,
            **call,
            "leader_probability": leader["probability"],
        },
    )
    bodies = [
        ("machine", {**facts, "place": place}),
        ("told", {"symptom": "shakes", "present": True}),
        ("told", {"symptom": "walks", "present": True}),
        ("note", {"text": "Walks out of its row.", "about": "story"}),
        ("check", {"check": "rock", "values": {"gap_mm": [0.0, 0.0, 1.0, 0.0]}}),
        ("check", {"check": "bounce", "values": {"corner": "centre", "swings": 3.0}}),
    ]
    sent = [uuid7(at + timedelta(milliseconds=k)) for k in range(RECORDINGS)]
    bodies += [("recording", {**RECORDING, "recording": uuid}) for uuid in sent]
    for uuid in sent:
        yield AttachmentRow, {**ATTACHMENT, "id": uuid, "job_id": key, "created_at": at}
    for seq, (kind, body) in enumerate(bodies, start=1):
        moment = at + timedelta(microseconds=seq)
        yield (
            EntryRow,
            {
                "id": uuid7(moment),
                "job_id": key,
                "seq": seq,
                "kind": kind,
                "made_at": moment,
                "zone_minutes": 0,
                "received_at": moment,
                "clock_off": False,
                "device": "phone",
                "body": body,
            },
        )
    if whole:
        yield JobMeasurementRow, {"job_id": key, "run": spin["run"], "measurement_id": spin["id"], "is_lead": True}
    if not recent:
        yield OutcomeRow, _outcome(key, machine, layout, at, spin["result"])
    result = spin["result"] if whole else {**call, "suspects": [leader]}
    versions = {"code_version": code_version(), "knowledge_version": "archive"}
    yield (
        CallRow,
        {"id": key, "job_id": key, "seq": 6, **versions, "result": result, "stood_by": False, "weighed_at": at},
    )


def _outcome(job: int, machine: int, layout: str, at: datetime, result: Mapping[str, Any]) -> dict[str, Any]:
    """What became of a job: three times of four what was called first, else what was called second."""
    first, second = result["suspects"][:2]
    return {
        "job_id": job,
        "machine_id": machine,
        "layout": layout,
        "day": at.date(),
        "outcome": "mended",
        "faults": [(first if job % 4 else second)["fault"]],
        "called": {suspect["fault"]: suspect["probability"] for suspect in result["suspects"]},
        "advice": result["advice"],
        "opened": True,
        "own_view": [],
        "levels": {"rock_gap": [0.1, 0.8, 0.1]},
        "minutes": 35.0,
        "proof_failed": False,
        "by": None,
        "left_out": None,
        "changed_at": at,
    }
