"""What is counted has an end, and every answer is one that is described."""

from __future__ import annotations

import re

import httpx
import pytest

from eager_ear.core.diagnosis import Knowledge
from eager_ear.store import Database
from eager_ear.use_cases.visits import pen
from eager_ear.use_cases.visits.diary import open_job, write_entries
from eager_ear.use_cases.visits.pen import Refused, Sender
from eager_ear.web.app import schema_only_app
from eager_ear.web.errors import STATUS, TOLD
from tests.diaries import entry, machine, new_id
from tests.web.visits import new_job


def test_a_diary_is_full_at_last_and_takes_what_it_has_once_more(
    database: Database, knowledge: Knowledge, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(pen, "MOST_OF_A_JOB", 3)
    first = [machine(), entry("note", {"text": "one"}), entry("note", {"text": "two"})]
    job = new_id()
    open_job(database, uuid=job, entries=first, sender=Sender(), knowledge=knowledge)
    again = [first[1], entry("note", {"text": "three"})]
    written = write_entries(database, job_uuid=job, entries=again, sender=Sender(), knowledge=knowledge)
    taken, refused = written.outcomes
    assert taken.id == first[1]["id"]
    assert isinstance(refused, Refused)
    assert "another visit" in refused.message


def test_every_error_has_a_status_that_is_described() -> None:
    assert set(STATUS.values()) <= set(TOLD)
    for path, route in schema_only_app().openapi()["paths"].items():
        for method, described in route.items():
            answers = set(described["responses"])
            assert answers >= {str(status) for status in TOLD}, (method, path)
            for status in TOLD:
                if path.endswith("/live") or method == "head":
                    continue
                content = described["responses"][str(status)]["content"]["application/json"]
                assert content["schema"]["$ref"].endswith("/TroubleOut"), (method, path, status)


@pytest.mark.parametrize(
    "path", ["/api/jobs?limit=0", "/api/jobs?limit=x", "/api/jobs/none", "/api/none", "/api/jobs/a/b/c"]
)
def test_what_is_asked_wrong_is_told_as_described(api: httpx.Client, path: str) -> None:
    answer = api.get(path)
    assert answer.status_code in TOLD
    assert re.fullmatch(r"[a-z_]+", answer.json()["code"])
    assert answer.json()["message"].endswith(".")


def test_a_method_that_is_not_there_is_told(api: httpx.Client) -> None:
    answer = api.request("DELETE", f"/api/jobs/{new_job(api)}")
    assert (answer.status_code, answer.json()["code"]) == (405, "refused")
