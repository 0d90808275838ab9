"""Jobs and whole cases sent to the real server."""

from __future__ import annotations

import io
import time
import zipfile
from pathlib import Path
from typing import Any

import httpx

JOB: dict[str, Any] = {"place": "Lock cottage 1", "machine": {"layout": "front_belt"}, "symptoms": ["shakes"]}


def new_job(api: httpx.Client) -> int:
    answer = api.post("/api/jobs", json=JOB)
    assert answer.status_code == 201
    return int(answer.json()["id"])


def finished(api: httpx.Client, job_id: int, *, within_s: float = 60.0) -> dict[str, Any]:
    deadline = time.monotonic() + within_s
    while time.monotonic() < deadline:
        job: dict[str, Any] = api.get(f"/api/jobs/{job_id}").json()
        if job["analysis"]["state"] not in ("queued", "running"):
            return job
        time.sleep(0.1)
    raise TimeoutError


def zipped_case(folder: Path) -> bytes:
    sink = io.BytesIO()
    with zipfile.ZipFile(sink, "w", zipfile.ZIP_DEFLATED) as archive:
        for path in sorted(folder.iterdir()):
            archive.write(path, path.name)
    return sink.getvalue()
