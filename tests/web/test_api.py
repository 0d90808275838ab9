"""The web interface's data on the real server: bad input, whole cases, a kill in mid-analysis."""

from __future__ import annotations

import contextlib
import io
import json
import time
import zipfile
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import httpx
import numpy as np
import pytest
import soundfile

from eager_ear.casefile import write_case_folder
from eager_ear.core.errors import CoreError
from eager_ear.core.simulate import SimulatedCase
from eager_ear.web.app import schema_only_app
from eager_ear.web.errors import status_of
from tests.support import ROOT, RunningServer
from tests.web.visits import finished, new_job, zipped_case


def send(api: httpx.Client, job_id: int, content: bytes, **query: Any) -> httpx.Response:
    values = {"name": "spin.wav", "kind": "audio", "load": "empty", "position": "top_centre", "run": "1", **query}
    return api.post(f"/api/jobs/{job_id}/recordings", params=values, content=content)


def small_wav() -> bytes:
    sink = io.BytesIO()
    noise = np.random.default_rng(0).uniform(-0.1, 0.1, 16000)
    soundfile.write(sink, noise, 16000, format="WAV", subtype="PCM_16")
    return sink.getvalue()


def test_bad_recordings_are_refused_in_words_and_leave_nothing(api: httpx.Client) -> None:
    job_id = new_job(api)
    csv = {"kind": "acceleration", "name": "a.csv"}
    refused = [
        (b"\xff\xd8\xff\xe0 photograph", {}, 422, "neither WAV nor FLAC"),
        (b"", {}, 422, "is empty"),
        (b"t_s,ax_m_s2\n0,1\n0.01,fast\n", csv, 422, "“fast” is not a number"),
        (b"t_s,ax_m_s2\n0.02,1\n0.01,1\n", csv, 422, "not increasing"),
        (small_wav(), {"kind": "video"}, 422, "recording.kind"),
        (small_wav(), {"position": "moon"}, 422, "recording.position"),
        (small_wav(), {"name": "../spin.wav"}, 422, "cannot be the name"),
        (small_wav(), {"start_s": "soon"}, 422, "start_s"),
        (b"x" * 61_000_000, {}, 413, "larger than the limit of 60 MB"),
    ]
    for content, query, status, says in refused:
        answer = send(api, job_id, content, **query)
        assert (answer.status_code, says in answer.json()["message"]) == (status, True), answer.text
    assert api.get(f"/api/jobs/{job_id}").json()["recordings"] == []


def test_recordings_sent_at_the_same_moment_are_all_taken(api: httpx.Client, server: RunningServer) -> None:
    job_id = new_job(api)
    # Long enough that storing them overlaps: whoever comes later waits for the job instead of failing.
    sink = io.BytesIO()
    soundfile.write(sink, np.random.default_rng(0).uniform(-0.1, 0.1, 1_500_000), 48000, format="WAV", subtype="PCM_24")

    def sent(k: int) -> int:
        with httpx.Client(base_url=server.url, timeout=60.0) as own:
            return send(own, job_id, sink.getvalue(), name=f"spin-{k}.wav").status_code

    with ThreadPoolExecutor(6) as pool:
        assert list(pool.map(sent, range(6))) == [201] * 6
    names = [recording["name"] for recording in api.get(f"/api/jobs/{job_id}").json()["recordings"]]
    assert sorted(names) == [f"spin-{k}.wav" for k in range(6)]


def test_two_gigabytes_announced_are_refused_before_they_are_sent(api: httpx.Client, server: RunningServer) -> None:
    import socket

    job_id = new_job(api)
    head = (
        f"POST /api/jobs/{job_id}/recordings?name=a.wav&kind=audio HTTP/1.1\r\nHost: x\r\n"
        "Content-Length: 2000000000\r\nContent-Type: application/octet-stream\r\n\r\n"
    )
    with socket.create_connection(("127.0.0.1", server.port), timeout=20) as connection:
        connection.sendall(head.encode())
        assert b" 413 " in connection.recv(4096)


def test_a_stream_that_never_said_its_size_is_cut_off(api: httpx.Client) -> None:
    job_id = new_job(api)

    def endless():  # type: ignore[no-untyped-def]
        for _ in range(70):
            yield b"\x00" * 1_000_000

    path = f"/api/jobs/{job_id}/recordings"
    # Either the answer is read, or the connection is cut while still sending: both stop the stream.
    with contextlib.suppress(httpx.WriteError, httpx.ReadError):
        assert api.post(path, params={"name": "a.wav", "kind": "audio"}, content=endless()).status_code == 413
    assert api.get(f"/api/jobs/{job_id}").json()["recordings"] == []


@pytest.mark.parametrize(
    ("method", "path", "body", "status"),
    [
        ("GET", "/api/jobs/999", None, 404),
        ("GET", "/api/jobs/999/call", None, 404),
        ("GET", "/api/jobs/999/case.zip", None, 404),
        ("PATCH", "/api/jobs/999", {"note": "x"}, 404),
        ("GET", "/api/recordings/999/file", None, 404),
        ("DELETE", "/api/recordings/999", None, 404),
        ("POST", "/api/analyses/999/cancel", None, 404),
        ("GET", "/api/nothing", None, 404),
        ("GET", "/api/jobs/first", None, 422),
        ("POST", "/api/jobs", {"place": "x", "machine": {"layout": "nope"}}, 422),
        ("POST", "/api/jobs", {"place": "", "machine": {"layout": "front_belt"}}, 422),
        ("POST", "/api/jobs", {"place": "x", "machine": {"layout": "front_belt", "max_spin_rpm": 1e9}}, 422),
        ("POST", "/api/jobs", {"place": "x", "machine": {"layout": "front_belt"}, "symptoms": ["hisses"]}, 422),
        ("POST", "/api/jobs", {"place": "x", "machine": {"layout": "front_belt"}, "colour": "white"}, 422),
    ],
)
def test_every_error_has_a_sentence_and_a_code(
    api: httpx.Client, method: str, path: str, body: Any, status: int
) -> None:
    answer = api.request(method, path, json=body)
    assert answer.status_code == status
    assert answer.json()["message"]
    assert answer.json()["code"]


def test_checks_are_validated_and_weighed(api: httpx.Client) -> None:
    job_id = new_job(api)
    bad = api.patch(f"/api/jobs/{job_id}", json={"checks": [{"check": "bounce", "values": {"swings": "many"}}]})
    assert (bad.status_code, "bounce.swings" in bad.json()["message"]) == (422, True)
    good = api.patch(
        f"/api/jobs/{job_id}", json={"checks": [{"check": "corner_rest", "values": {"detached": ["rear_left"]}}]}
    )
    assert good.status_code == 200
    assert finished(api, job_id)["call"]["leader"] == "suspension_off"


def test_a_case_goes_in_is_analysed_and_comes_out_byte_for_byte(
    api: httpx.Client, tmp_path: Path, simulated: Callable[..., SimulatedCase]
) -> None:
    write_case_folder(tmp_path, simulated("front_belt", "drum_bearing", 7, 0.9).case)
    answer = api.post("/api/cases", params={"place": "Boatyard"}, content=zipped_case(tmp_path))
    assert answer.status_code == 201, answer.text
    job = finished(api, answer.json()["id"])
    assert (job["place"], job["call"]["leader"], job["call"]["advice"]) == ("Boatyard", "drum_bearing", "commit")
    call = api.get(f"/api/jobs/{job['id']}/call").json()
    assert call["result"]["suspects"][0]["evidence"][0]["weight_db"] > 10
    assert len(call["curves"]["t_s"]) == len(call["curves"]["rpm"])
    exported = zipfile.ZipFile(io.BytesIO(api.get(f"/api/jobs/{job['id']}/case.zip").content))
    for name in ("spin.wav", "spin.csv"):
        assert exported.read(name) == (tmp_path / name).read_bytes()
    case = json.loads(exported.read("case.json"))
    original = json.loads((tmp_path / "case.json").read_text())
    assert case["machine"] == original["machine"]
    assert case["recordings"] == original["recordings"]


def test_spins_of_one_layout_are_laid_side_by_side(
    api: httpx.Client, tmp_path: Path, simulated: Callable[..., SimulatedCase]
) -> None:
    def visit(name: str, place: str, *machine: Any) -> int:
        (tmp_path / name).mkdir()
        write_case_folder(tmp_path / name, simulated(*machine).case)
        answer = api.post("/api/cases", params={"place": place}, content=zipped_case(tmp_path / name))
        return int(finished(api, answer.json()["id"])["id"])

    worn = visit("worn", "Weir house", "top_splined", "gearcase_bearing", 7, 0.9)
    alone = api.get(f"/api/jobs/{worn}/beside").json()
    assert (alone["choices"], alone["comparison"]) == ([], None)
    assert "no other spin" in alone["reason"]
    earlier = visit("earlier", " weir House", "top_splined", "none", 8, 0.9)
    visit("elsewhere", "Toll bridge", "top_pulsator", "none", 8, 0.9)
    found = api.get(f"/api/jobs/{worn}/beside", params={"other": earlier}).json()
    assert [(c["job_id"], c["same_place"]) for c in found["choices"]] == [(earlier, True)]
    assert found["against"] == [earlier]
    high = [b["db"] for b in found["comparison"]["bands"] if 1000.0 < b["centre_hz"] < 4000.0]
    low = [b["db"] for b in found["comparison"]["bands"] if b["centre_hz"] < 250.0]
    assert np.mean(high) > np.mean(low) + 5.0
    assert found["comparison"]["shake"]["sigma_db"] >= 1.0
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
    assert api.get("/api/jobs").json()["jobs"] == []


def test_files_are_served_in_ranges(api: httpx.Client) -> None:
    job_id = new_job(api)
    content = small_wav()
    recording = send(api, job_id, content).json()
    path = f"/api/recordings/{recording['id']}/file"
    assert api.get(path).content == content
    part = api.get(path, headers={"Range": "bytes=100-199"})
    assert (part.status_code, part.content) == (206, content[100:200])
    tail = api.get(path, headers={"Range": "bytes=-50"})
    assert tail.content == content[-50:]


def test_a_kill_in_mid_analysis_loses_nothing(
    server: RunningServer, tmp_path: Path, simulated: Callable[..., SimulatedCase]
) -> None:
    write_case_folder(tmp_path, simulated("front_belt", "drum_bearing", 7, 0.9).case)
    with httpx.Client(base_url=server.url, timeout=60) as api:
        job_id = api.post("/api/cases", content=zipped_case(tmp_path)).json()["id"]
        deadline = time.monotonic() + 30
        while api.get(f"/api/jobs/{job_id}").json()["analysis"]["state"] != "running":
            assert time.monotonic() < deadline
        server.kill()
        server.start()
        job = finished(api, job_id)
        assert (job["analysis"]["state"], job["call"]["leader"]) == ("done", "drum_bearing")
        sound = next(r for r in job["recordings"] if r["name"] == "spin.wav")
        stored = api.get(f"/api/recordings/{sound['id']}/file").content
        assert stored == (tmp_path / "spin.wav").read_bytes()


def test_an_analysis_can_be_stopped(api: httpx.Client) -> None:
    job_id = new_job(api)
    finished(api, job_id)
    again = api.post(f"/api/jobs/{job_id}/analyses").json()["analysis"]
    stopped = api.post(f"/api/analyses/{again['id']}/cancel").json()
    assert stopped["state"] in ("cancelled", "done")


def test_every_error_class_has_a_status() -> None:
    def walk(kind: type[CoreError]) -> list[type[CoreError]]:
        return [kind, *(found for child in kind.__subclasses__() for found in walk(child))]

    assert all(400 <= status_of(kind) < 600 for kind in walk(CoreError))


def test_the_interface_is_typed_from_the_present_schema() -> None:
    kept = json.loads((ROOT / "frontend" / "src" / "api" / "openapi.json").read_text())
    assert kept == json.loads(json.dumps(schema_only_app().openapi()))
