"""Jobs, recordings and whole cases sent to the real server."""

from __future__ import annotations

import io
import json
import time
import zipfile
from pathlib import Path
from typing import Any

import httpx
import numpy as np
import soundfile
from PIL import Image

from eager_ear.core.units import FloatArray
from tests.diaries import entry, machine, new_id, told


def open_job(api: httpx.Client, *entries: dict[str, Any]) -> str:
    """A job with these entries; returns its id."""
    job = new_id()
    answer = api.post("/api/jobs", json={"id": job, "entries": list(entries)})
    assert answer.status_code == 200, answer.text
    assert [e.get("problem") for e in answer.json()["entries"]] == [None] * len(entries)
    return job


def new_job(api: httpx.Client) -> str:
    return open_job(api, machine(), told("shakes"))


def write(api: httpx.Client, job: str, *entries: Any, **more: Any) -> dict[str, Any]:
    """Write entries; returns the whole answer."""
    # Escaped, so that what is no text can be sent as well.
    body = json.dumps({"entries": list(entries), **more})
    headers = {"Content-Type": "application/json"}
    answer = api.post(f"/api/jobs/{job}/entries", content=body, headers=headers)
    assert answer.status_code == 200, answer.text
    return dict(answer.json())


def problem(answer: dict[str, Any]) -> dict[str, Any]:
    """Why the only entry of an answer was not taken."""
    [only] = answer["entries"]
    return dict(only["problem"])


def put(api: httpx.Client, job: str, content: bytes, *, name: str = "spin.wav", uuid: str = "") -> httpx.Response:
    """Bring a recording's bytes."""
    return api.put(f"/api/jobs/{job}/recordings/{uuid or new_id()}", params={"name": name}, content=content)


def recording(uuid: str, **more: Any) -> dict[str, Any]:
    """The entry that names a recording."""
    body = {"recording": uuid, "kind": "audio", "file": "spin.wav", "test": "spin", "run": "1", "load": "empty", **more}
    return entry("recording", body)


def add_recording(api: httpx.Client, job: str, content: bytes, **more: Any) -> str:
    """Bring a recording and name it; returns its id."""
    uuid = new_id()
    answer = put(api, job, content, name=more.get("file", "spin.wav"), uuid=uuid)
    assert answer.status_code == 200, answer.text
    assert write(api, job, recording(uuid, **more))["entries"][0]["seq"]
    return uuid


def photographed(api: httpx.Client, job: str) -> str:
    """Bring a photo's bytes; returns its id."""
    uuid, held = new_id(), io.BytesIO()
    Image.new("RGB", (40, 30), "white").save(held, "PNG")
    answer = api.put(f"/api/jobs/{job}/photos/{uuid}", params={"name": "sheet.png"}, content=held.getvalue())
    assert answer.status_code == 200, answer.text
    return uuid


def wav(samples: FloatArray, *, rate_hz: int = 48_000) -> bytes:
    """Sound as a file."""
    sink = io.BytesIO()
    soundfile.write(sink, samples, rate_hz, format="WAV", subtype="PCM_16")
    return sink.getvalue()


def small_wav(seed: int = 0) -> bytes:
    return wav(np.random.default_rng(seed).uniform(-0.1, 0.1, 16000), rate_hz=16_000)


def finished(api: httpx.Client, job_id: str, *, within_s: float = 60.0) -> dict[str, Any]:
    """The job once nothing of it is being measured."""
    deadline = time.monotonic() + within_s
    while time.monotonic() < deadline:
        job: dict[str, Any] = api.get(f"/api/jobs/{job_id}").json()
        if job["measuring"]["state"] not in ("asked", "queued", "running"):
            return job
        time.sleep(0.1)
    raise TimeoutError


def zipped_case(folder: Path) -> bytes:
    sink = io.BytesIO()
    with zipfile.ZipFile(sink, "w", zipfile.ZIP_DEFLATED) as archive:
        for path in sorted(folder.rglob("*")):
            if path.is_file():
                archive.write(path, str(path.relative_to(folder)))
    return sink.getvalue()
