"""The web interface's data on the real server: errors in words, whole cases, a kill while it measures."""

from __future__ import annotations

import asyncio
import io
import json
import time
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import httpx
import numpy as np
import pytest

from eager_ear.casefile import write_case_folder
from eager_ear.core.errors import CoreError
from eager_ear.core.simulate import SimulatedCase
from eager_ear.web.actor import who_acts
from eager_ear.web.app import schema_only_app
from eager_ear.web.errors import status_of
from tests.diaries import check, entry, machine, new_id
from tests.support import ROOT, RunningServer
from tests.web.visits import add_recording, finished, new_job, open_job, small_wav, write, zipped_case


@pytest.mark.parametrize(
    ("method", "path", "body", "status"),
    [
        ("GET", "/api/jobs/999", None, 404),
        ("GET", "/api/jobs/999/call", None, 404),
        ("GET", "/api/jobs/999/case.zip", None, 404),
        ("GET", "/api/jobs/999/entries", None, 404),
        ("POST", "/api/jobs/999/entries", {"entries": []}, 404),
        ("GET", "/api/jobs/999/recordings/999", None, 404),
        ("GET", "/api/machines/999", None, 404),
        ("POST", "/api/jobs/999/measuring", None, 404),
        ("GET", "/api/nothing", None, 404),
        ("POST", "/api/jobs", {"id": "first", "entries": []}, 422),
        ("POST", "/api/jobs", {"entries": []}, 422),
        ("POST", "/api/jobs", {"id": "01a227a1-3663-7fbd-83db-850a1a7b3514", "entries": "many"}, 422),
        ("POST", "/api/jobs", {"id": "01a227a1-3663-7fbd-83db-850a1a7b3514", "entries": [], "colour": "white"}, 422),
        ("POST", "/api/jobs", {"id": "01a227a1-3663-7fbd-83db-850a1a7b3514", "entries": [None] * 501}, 422),
    ],
)
def test_every_error_has_a_sentence_and_a_code(
    api: httpx.Client, method: str, path: str, body: Any, status: int
) -> None:
    answer = api.request(method, path, json=body)
    assert answer.status_code == status
    assert answer.json()["message"]
    assert answer.json()["code"]


def test_a_case_goes_in_is_measured_and_comes_out_byte_for_byte(
    api: httpx.Client, tmp_path: Path, simulated: Callable[..., SimulatedCase]
) -> None:
    write_case_folder(tmp_path, simulated("front_belt", "drum_bearing", 7, 0.9).case)
    answer = api.post("/api/cases", params={"place": "Boatyard"}, content=zipped_case(tmp_path))
    assert answer.status_code == 201, answer.text
    job = finished(api, answer.json()["id"])
    assert (job["place"], job["call"]["leader"], job["call"]["advice"]) == ("Boatyard", "drum_bearing", "commit")
    call = api.get(f"/api/jobs/{job['id']}/call").json()
    assert call["result"]["suspects"][0]["evidence"][0]["weight_db"] > 10
    assert len(call["curves"]["t_s"]) == len(call["curves"]["rpm"]) > 10
    exported = zipfile.ZipFile(io.BytesIO(api.get(f"/api/jobs/{job['id']}/case.zip").content))
    for name in ("spin.wav", "spin.csv"):
        assert exported.read(name) == (tmp_path / name).read_bytes()
    case = json.loads(exported.read("case.json"))
    original = json.loads((tmp_path / "case.json").read_text())
    assert case["machine"] == original["machine"]
    for recording in case["recordings"]:
        assert recording.pop("recording")
    assert case["recordings"] == original["recordings"]


def test_a_job_that_was_written_out_is_the_same_job_when_it_comes_back(
    api: httpx.Client, server: RunningServer
) -> None:
    job = open_job(api, machine("Weir house", "top_splined"), entry("contact", {"name": "Ilse Weidmann"}))
    heard = add_recording(api, job, small_wav(1))
    again = add_recording(api, job, small_wav(2))
    wrong = check("rock", gap_mm=[9, 0, 0, 0])
    write(api, job, wrong, {**check("rock", gap_mm=[1, 0, 0, 0]), "replaces": wrong["id"]})
    photo = png()
    picture = new_id()
    assert api.put(f"/api/jobs/{job}/photos/{picture}", params={"name": "plate.png"}, content=photo).status_code == 200
    write(api, job, entry("photo", {"photo": picture, "role": "plate", "about": "story"}))
    packed = api.get(f"/api/jobs/{job}/case.zip").content
    zipped = zipfile.ZipFile(io.BytesIO(packed))
    # Two recordings of one name stay two files; who the customer is stays here.
    names = set(zipped.namelist())
    assert names == {"case.json", "diary.jsonl", "spin.wav", "spin-2.wav", f"photos/{picture}.png"}
    assert b"Weidmann" not in zipped.read("diary.jsonl")
    asked_for = api.get(f"/api/jobs/{job}/case.zip", params={"contact": True}).content
    assert b"Weidmann" in zipfile.ZipFile(io.BytesIO(asked_for)).read("diary.jsonl")
    ours = api.get(f"/api/jobs/{job}/entries").json()["entries"]

    server.reset()  # another shop, which has nothing of it
    assert api.get(f"/api/jobs/{job}").status_code == 404
    for _ in range(2):
        brought = api.post("/api/cases", content=packed)
        assert brought.status_code == 201, brought.text
    assert brought.json()["id"] == job
    assert len(api.get("/api/jobs").json()["jobs"]) == 1
    assert [r["id"] for r in brought.json()["recordings"]] == [heard, again]
    assert brought.json()["checks"][0]["values"] == {"gap_mm": [1.0, 0.0, 0.0, 0.0]}
    assert brought.json()["photos"][0]["id"] == picture
    assert api.get(f"/api/jobs/{job}/recordings/{again}").content == small_wav(2)
    theirs = api.get(f"/api/jobs/{job}/entries").json()["entries"]
    assert [e["id"] for e in theirs] == [e["id"] for e in ours if e["kind"] != "contact"]


def png() -> bytes:
    from PIL import Image

    sink = io.BytesIO()
    Image.new("RGB", (60, 40), "teal").save(sink, format="PNG")
    return sink.getvalue()


def test_spins_of_one_layout_are_laid_side_by_side(
    api: httpx.Client, tmp_path: Path, simulated: Callable[..., SimulatedCase]
) -> None:
    def visit(name: str, place: str, *drawn: Any) -> str:
        (tmp_path / name).mkdir()
        write_case_folder(tmp_path / name, simulated(*drawn).case)
        answer = api.post("/api/cases", params={"place": place}, content=zipped_case(tmp_path / name))
        return str(finished(api, answer.json()["id"])["id"])

    worn = visit("worn", "Weir house", "top_splined", "gearcase_bearing", 7, 0.9)
    alone = api.get(f"/api/jobs/{worn}/beside").json()
    assert (alone["choices"], alone["comparison"]) == ([], None)
    assert "no other spin" in alone["reason"]
    earlier = visit("earlier", "Weir House", "top_splined", "none", 8, 0.9)
    visit("elsewhere", "Toll bridge", "top_pulsator", "none", 8, 0.9)
    found = api.get(f"/api/jobs/{worn}/beside", params={"other": earlier}).json()
    # A place of the same name is not the same machine until somebody says so.
    assert [(c["job_id"], c["same_machine"]) for c in found["choices"]] == [(earlier, False)]
    known = api.get(f"/api/jobs/{earlier}").json()["machine_id"]
    write(api, worn, entry("machine", {"known_as": known}))
    found = api.get(f"/api/jobs/{worn}/beside", params={"other": earlier}).json()
    assert [(c["job_id"], c["same_machine"]) for c in found["choices"]] == [(earlier, True)]
    assert found["against"] == [earlier]
    high = [b["db"] for b in found["comparison"]["bands"] if 1000.0 < b["centre_hz"] < 4000.0]
    low = [b["db"] for b in found["comparison"]["bands"] if b["centre_hz"] < 250.0]
    assert np.mean(high) > np.mean(low) + 5.0
    assert found["comparison"]["shake"]["sigma_db"] >= 1.0
    # The register lays the machine's own spins over each other, the older one first.
    spins = api.get(f"/api/machines/{known}/spins").json()["spins"]
    assert {s["job"] for s in spins} == {earlier, worn}
    assert [s["at"] for s in spins] == sorted(s["at"] for s in spins)
    for spin in spins:
        rpm = [level["speed_rpm"] for level in spin["levels"]]
        assert rpm == sorted(rpm)
    # At the same speeds the worn one hisses and growls where the sound one does not.
    bright = {
        spin["job"]: {
            level["speed_rpm"]: level["bright_db"] for level in spin["levels"] if level["bright_db"] is not None
        }
        for spin in spins
    }
    shared = set(bright[worn]) & set(bright[earlier])
    assert len(shared) >= 3
    assert np.mean([bright[worn][rpm] - bright[earlier][rpm] for rpm in shared]) > 3.0
    # A job without a spin of its own, another layout, and a job that does not exist.
    assert "No spin of this job" in api.get(f"/api/jobs/{new_job(api)}/beside").json()["reason"]
    assert api.get(f"/api/jobs/{worn}/beside", params={"other": worn}).status_code == 404
    assert api.get("/api/jobs/999999/beside").status_code == 404


def test_a_bad_case_is_refused_whole(api: httpx.Client, tmp_path: Path) -> None:
    (tmp_path / "case.json").write_text(
        json.dumps(
            {
                "format": "eager-ear-case/1",
                "machine": {"layout": "front_belt"},
                "recordings": [
                    {"kind": "audio", "file": "good.wav", "test": "spin"},
                    {"kind": "audio", "file": "bad.wav", "test": "spin"},
                ],
            }
        )
    )
    (tmp_path / "good.wav").write_bytes(small_wav())
    (tmp_path / "bad.wav").write_bytes(b"not sound")
    answer = api.post("/api/cases", content=zipped_case(tmp_path))
    assert (answer.status_code, "bad.wav" in answer.json()["message"]) == (422, True)
    (tmp_path / "bad.wav").write_bytes(small_wav())
    (tmp_path / "diary.jsonl").write_text(json.dumps(check("rock", gap_mm=[1, 2])) + "\n")
    answer = api.post("/api/cases", content=zipped_case(tmp_path))
    assert (answer.status_code, "gap_mm" in answer.json()["message"]) == (422, True)
    assert api.get("/api/jobs").json()["jobs"] == []


def test_a_kill_while_it_measures_loses_nothing(
    server: RunningServer, tmp_path: Path, simulated: Callable[..., SimulatedCase]
) -> None:
    write_case_folder(tmp_path, simulated("front_belt", "drum_bearing", 7, 0.9).case)
    server.forget()
    with httpx.Client(base_url=server.url, timeout=60) as api:
        job_id = api.post("/api/cases", content=zipped_case(tmp_path)).json()["id"]
        deadline = time.monotonic() + 30
        while api.get(f"/api/jobs/{job_id}").json()["measuring"]["state"] != "running":
            assert time.monotonic() < deadline
        server.kill()
        server.start()
        job = finished(api, job_id)
        assert (job["measuring"]["state"], job["call"]["leader"]) == ("done", "drum_bearing")
        sound = next(r for r in job["recordings"] if r["name"] == "spin.wav")
        stored = api.get(f"/api/jobs/{job_id}/recordings/{sound['id']}").content
        assert stored == (tmp_path / "spin.wav").read_bytes()


def test_measuring_can_be_stopped_and_begun_again(
    server: RunningServer, api: httpx.Client, tmp_path: Path, simulated: Callable[..., SimulatedCase]
) -> None:
    write_case_folder(tmp_path, simulated("front_belt", "drum_bearing", 7, 0.9).case)
    server.forget()
    job = api.post("/api/cases", content=zipped_case(tmp_path)).json()["id"]
    stopped = api.delete(f"/api/jobs/{job}/measuring").json()
    assert stopped["measuring"]["state"] in ("cancelled", "done")
    # What is known without the recordings is weighed all the same.
    assert stopped["call"] is not None
    again = api.post(f"/api/jobs/{job}/measuring")
    assert (again.status_code, again.json()["measuring"]["state"]) == (202, "queued")
    assert finished(api, job)["call"]["leader"] == "drum_bearing"


def test_machines_stand_by_when_they_were_met_however_late_that_was_sent(api: httpx.Client) -> None:
    met = {"Swing bridge": "2026-02-03", "Towpath 9": "2026-02-05", "Reed house": "2026-02-04"}
    for place, day in met.items():
        body = {"place": place, "layout": "front_belt"}
        open_job(api, entry("machine", body, made_at=f"{day}T09:00:00+00:00"))
    listed = [m["place"] for m in api.get("/api/machines").json()["machines"] if m["place"] in met]
    assert listed == ["Towpath 9", "Reed house", "Swing bridge"]


def test_a_known_machine_is_chosen_and_what_is_learnt_stays_with_it(api: httpx.Client) -> None:
    first = open_job(api, machine("Ferry café, back kitchen", "front_belt", bearings={"front": "6206", "rear": "6205"}))
    [known] = api.get("/api/machines", params={"place": "ferry CAFÉ"}).json()["machines"]
    assert known["facts"]["bearings"] == {"front": "6206", "rear": "6205"}
    assert [v["id"] for v in known["visits"]] == [first]
    found = [
        api.get("/api/machines", params={"q": q}).json()["machines"] for q in ("kitch caf", "front belt ferry", "weir")
    ]
    assert [[m["id"] for m in machines] for machines in found] == [[known["id"]], [known["id"]], []]
    today = entry("machine", {"known_as": known["id"]}, made_at="2026-11-01T09:00:00+00:00")
    second = open_job(api, today)
    job = api.get(f"/api/jobs/{second}").json()
    assert (job["place"], job["machine"]["layout"], job["machine_id"]) == (
        "Ferry café, back kitchen",
        "front_belt",
        known["id"],
    )
    assert job["learnt_here"] == ["known_as"]
    write(api, second, entry("machine", {"pulley_ratio": 11.5}, made_at="2026-11-01T09:01:00+00:00"))
    found = api.get(f"/api/machines/{known['id']}").json()
    assert (found["facts"]["pulley_ratio"], len(found["visits"])) == (11.5, 2)
    # From then on: the visit before it knows nothing of it.
    assert api.get(f"/api/jobs/{first}").json()["machine"]["pulley_ratio"] is None
    # It was another one after all.
    answer = write(api, second, entry("machine", None, replaces=today["id"]))["job"]
    assert answer["machine_id"] != known["id"]
    assert (answer["machine"]["layout"], answer["call"]) == (None, None)
    assert len(api.get(f"/api/machines/{known['id']}").json()["visits"]) == 1
    refused = write(api, second, entry("machine", {"known_as": new_id()}))["entries"][0]
    assert refused["problem"]["field"] == "body.known_as"


def test_every_error_class_has_a_status() -> None:
    def walk(kind: type[CoreError]) -> list[type[CoreError]]:
        return [kind, *(found for child in kind.__subclasses__() for found in walk(child))]

    assert all(400 <= status_of(kind) < 600 for kind in walk(CoreError))


# Asked before anybody is known: whether it is well, and to be let in.
DOOR = {"/api/health", "/api/sign-in", "/api/join"}


def test_every_route_and_the_socket_ask_who_acts() -> None:
    class AskedWhoActs(Exception):
        pass

    def asked() -> None:
        raise AskedWhoActs

    app = schema_only_app()
    app.dependency_overrides[who_acts] = asked
    described = {path: methods for path, methods in app.openapi()["paths"].items() if path not in DOOR}
    assert len(described) > 15

    async def call_all() -> None:
        async with httpx.AsyncClient(transport=httpx.ASGITransport(app=app), base_url="http://127.0.0.1") as client:
            for path, methods in described.items():
                for method in methods:
                    with pytest.raises(AskedWhoActs):
                        await client.request(method.upper(), path.replace("{what}", "recordings"))

    asyncio.run(asyncio.wait_for(call_all(), timeout=30.0))
    told: list[dict[str, Any]] = [{"type": "websocket.connect"}, {"type": "websocket.disconnect", "code": 1000}]

    async def receive() -> dict[str, Any]:
        return told.pop(0)

    async def send(_: Any) -> None:
        return None

    scope = {"type": "websocket", "path": "/api/jobs/x/live", "headers": [], "query_string": b"", "subprotocols": []}
    with pytest.raises(AskedWhoActs):
        asyncio.run(asyncio.wait_for(app({**scope, "app": app}, receive, send), timeout=30.0))


def test_the_interface_is_typed_from_the_present_schema() -> None:
    kept = json.loads((ROOT / "frontend" / "src" / "api" / "openapi.json").read_text())
    assert kept == json.loads(json.dumps(schema_only_app().openapi()))
