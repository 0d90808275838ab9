"""What should not be sent is answered with a sentence, never with a failure of the server, and leaves it well."""

from __future__ import annotations

import json
import os
from typing import Any

import httpx
import numpy as np

from tests.diaries import new_id
from tests.faults.odd_input import GOOD_ENTRIES, odd_bytes, odd_json, odd_zip, table
from tests.web.visits import new_job, put, recording, small_wav

JSON_HEADERS = {"Content-Type": "application/json"}
# `./ear faults N` tries N times as many, of other seeds.
TIMES = int(os.environ.get("EAGER_EAR_FAULTS_TIMES", "1"))
FILES_A_JOB = 12
FILES, ENTRIES, CASES, BODIES = 120 * TIMES, 150 * TIMES, 80 * TIMES, 60 * TIMES


def said(answer: httpx.Response, what: Any) -> None:
    assert answer.status_code < 500, (str(what)[:300], answer.text[:300])
    if answer.status_code >= 400:
        assert answer.json()["message"], str(what)[:300]
        assert answer.json()["code"]


def test_files_that_are_not_what_they_should_be(api: httpx.Client) -> None:
    rng, job = np.random.default_rng([1, TIMES]), ""
    taken = 0
    for number in range(FILES):
        # A visit has a dozen recordings, not hundreds, over all of which every entry is weighed.
        job = new_job(api) if number % FILES_A_JOB == 0 else job
        good, name, kind = (small_wav(), "spin.wav", "audio") if number % 2 else (table(), "log.csv", "acceleration")
        content, uuid = odd_bytes(rng, good), new_id()
        answer = put(api, job, content, name=name, uuid=uuid)
        said(answer, content[:80])
        if answer.status_code == 200:
            # What is taken can be measured as well, or is refused by its entry.
            taken += 1
            body = json.dumps({"entries": [recording(uuid, kind=kind, file=name, run=str(number))]})
            said(api.post(f"/api/jobs/{job}/entries", content=body, headers=JSON_HEADERS), content[:80])
    assert 0 < taken < FILES
    assert api.get("/api/health").json() == {"state": "well"}


def test_entries_with_something_odd_in_them(api: httpx.Client) -> None:
    rng, job = np.random.default_rng([2, TIMES]), new_job(api)
    refused = 0
    for _ in range(ENTRIES):
        odd = odd_json(rng, GOOD_ENTRIES[int(rng.integers(len(GOOD_ENTRIES)))]())
        body = json.dumps({"entries": [odd]})
        answer = api.post(f"/api/jobs/{job}/entries", content=body, headers=JSON_HEADERS)
        said(answer, odd)
        if answer.status_code == 200:
            [outcome] = answer.json()["entries"]
            refused += outcome["problem"] is not None
            assert outcome["problem"] is None or outcome["problem"]["message"]
    assert refused > ENTRIES / 4
    # What was taken can be shown, written out and read back.
    assert api.get(f"/api/jobs/{job}").status_code == 200
    packed = api.get(f"/api/jobs/{job}/case.zip")
    said(packed, "export")


def test_cases_with_something_odd_in_them(api: httpx.Client) -> None:
    rng = np.random.default_rng([3, TIMES])
    for _ in range(CASES):
        content = odd_zip(rng)
        said(api.post("/api/cases", content=content), content[:80])
    board = api.get("/api/jobs").json()["jobs"]
    assert all(api.get(f"/api/jobs/{job['id']}").status_code == 200 for job in board)


def test_bodies_and_addresses_that_are_odd(api: httpx.Client) -> None:
    rng = np.random.default_rng([4, TIMES])
    job = new_job(api)
    for _ in range(BODIES):
        body = json.dumps(odd_json(rng, {"id": new_id(), "entries": [], "sent_at": "2026-03-04T08:00:00Z"}))
        said(api.post("/api/jobs", content=body, headers=JSON_HEADERS), body)
    for text in ("{", "[]", "nan", '{"entries": NaN}', "\x00", "[" * 5000):
        said(api.post(f"/api/jobs/{job}/entries", content=text.encode(), headers=JSON_HEADERS), text[:50])
    for path in (
        f"/api/jobs/{job}/entries?after=-1",
        f"/api/jobs/{job}/entries?after=99999999999999999999",
        "/api/jobs?limit=1e9",
        "/api/jobs/%00",
        "/api/jobs/%F0%9F%94%A9",
        "/api/jobs/" + "x" * 3000,
        "/api/machines?place=" + "x" * 3000,
        "/api/machines?place=%00%25%5C",
        f"/api/jobs/{job}/beside?other=%00",
        f"/api/jobs/{job}/listen?way=band&begin_s=nan&end_s=1",
        f"/api/jobs/{job}/recordings/%00",
    ):
        said(api.get(path), path)
