"""How it stands, and what the logs hold: every request by its number, what went wrong, nobody's words."""

from __future__ import annotations

import json
import os
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import httpx
import pytest

from eager_ear.host.running.status import LOGS, look, note_ended, note_serving, run_status
from eager_ear.store import Database
from tests.conftest import fresh_database
from tests.diaries import machine
from tests.support import RunningServer, until
from tests.web.visits import open_job


@pytest.fixture(scope="module")
def logs(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return tmp_path_factory.mktemp("logs")


@pytest.fixture(scope="module")
def logged(mariadb_url: str, logs: Path) -> Iterator[RunningServer]:
    with pytest.MonkeyPatch.context() as patched:
        patched.setenv("EAGER_EAR_LOGS", str(logs))
        running = RunningServer(fresh_database(mariadb_url))
    yield running
    running.stop()


def events(folder: Path, *, of_request: str, event: str) -> list[dict[str, Any]]:
    """Those of one request, once that one is among them: they are written after the answer."""

    def told() -> list[dict[str, Any]] | None:
        lines = (folder / "server.jsonl").read_text().splitlines()
        found = [e for line in lines if (e := json.loads(line)).get("request") == of_request]
        return found if any(e["event"] == event for e in found) else None

    return until(told)


def test_a_request_is_found_in_the_log_by_the_number_of_its_answer(logged: RunningServer, logs: Path) -> None:
    with httpx.Client(base_url=logged.url, timeout=60) as api:
        job = open_job(api, machine("Heron island"))
        found = api.get("/api/jobs", params={"q": "heron"})
        missing = api.get("/api/jobs/nowhere")
    [told] = events(logs, of_request=found.headers["x-request-id"], event="answered")
    assert (told["method"], told["path"], told["status"], told["level"]) == ("GET", "/api/jobs", 200, "info")
    assert told["bytes"] == len(found.content)
    assert told["ms"] > 0
    assert datetime.fromisoformat(told["at"]).tzinfo is not None
    [lost] = events(logs, of_request=missing.headers["x-request-id"], event="answered")
    assert lost["status"] == 404
    text = (logs / "server.jsonl").read_text().lower()
    assert "heron" not in text
    assert job


def test_a_failure_tells_its_number_and_the_log_tells_why(logged: RunningServer, logs: Path) -> None:
    database = Database(logged.database_url)
    with database.engine.begin() as connection:
        connection.exec_driver_sql("INSERT INTO shop (id, settings, changed_at) VALUES (1, '[1]', NOW())")
    database.close()
    with httpx.Client(base_url=logged.url, timeout=60) as api:
        failed = api.get("/api/shop")
    assert failed.status_code == 500
    number = failed.headers["x-request-id"]
    assert number in failed.json()["message"]
    assert "Traceback" not in failed.text
    [why] = [e for e in events(logs, of_request=number, event="failed") if e["level"] == "error"]
    assert "Traceback" in why["exception"]


def test_status_says_what_runs_what_is_kept_and_what_went_wrong(
    database_url: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    monkeypatch.setenv("EAGER_EAR_HOME", str(tmp_path))
    monkeypatch.delenv("EAGER_EAR_DATABASE_URL", raising=False)
    now = datetime.now(UTC)
    stopped = look(now)
    assert (stopped.address, stopped.jobs) == (None, None)
    assert "./ear serve" in str(stopped.problem)
    assert run_status(as_json=False) == 1

    monkeypatch.setenv("EAGER_EAR_DATABASE_URL", database_url)
    note_serving(tmp_path, "http://127.0.0.1:8321")
    (tmp_path / LOGS).mkdir()
    lines = [
        {"at": now.isoformat(), "level": "error", "event": "failed"},
        {"at": now.isoformat(), "level": "info", "event": "answered"},
        {"at": (now - timedelta(days=3)).isoformat(), "level": "warning", "event": "old"},
    ]
    (tmp_path / LOGS / "server.jsonl").write_text("\n".join(json.dumps(line) for line in lines) + "\nhalf a li")
    capsys.readouterr()
    assert run_status(as_json=True) == 0
    told = json.loads(capsys.readouterr().out)
    assert (told["address"], told["jobs"], told["recordings"], told["waiting"]) == ("http://127.0.0.1:8321", 0, 0, 0)
    assert (told["wrong"], told["problem"]) == (1, None)
    note_ended(tmp_path)
    assert look(now).address is None
    # Noted by a process that is gone.
    (tmp_path / "serving.json").write_text(json.dumps({"address": "http://x", "process": 2**22 + os.getpid()}))
    assert look(now).address is None
