"""How it stands: what runs where, what is kept and how much of it, what waits, what went wrong lately."""

from __future__ import annotations

import json
import os
import shutil
from collections.abc import Iterator
from dataclasses import asdict, dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path

from sqlalchemy import text

from eager_ear import __version__
from eager_ear.host.keeping.folder import home
from eager_ear.host.running.mariadb import MariaDbProblem, PrivateMariaDb
from eager_ear.store import Database, StoreError, UnitOfWork

SERVING = "serving.json"
LOGS = "logs"
LATELY = timedelta(days=1)
WRONG = ("warning", "error", "critical")


@dataclass(frozen=True, kw_only=True)
class Status:
    """address : where it is served, None where it is not; problem : why the database does not answer

    waiting : measurements that are queued or run; wrong : warnings and errors in the logs of a day
    """

    version: str
    folder: str
    address: str | None
    problem: str | None
    tables: str | None
    jobs: int | None
    recordings: int | None
    waiting: int | None
    data_mb: int
    free_mb: int
    wrong: int


def note_serving(folder: Path, address: str) -> None:
    """Say where it is served from now on."""
    (folder / SERVING).write_text(json.dumps({"address": address, "process": os.getpid()}))


def note_ended(folder: Path) -> None:
    (folder / SERVING).unlink(missing_ok=True)


def look(now: datetime) -> Status:
    """Look around, starting nothing."""
    folder = home()
    problem, tables, jobs, recordings, waiting = None, None, None, None, None
    try:
        url = _database_url(folder)
        if url is None:
            problem = "It does not run: ./ear serve starts it."
        else:
            database = Database(url)
            try:
                with database.engine.connect() as connection:
                    tables = str(connection.execute(text("SELECT version_num FROM alembic_version")).scalar())
                    recordings = int(
                        connection.execute(
                            text("SELECT COUNT(*) FROM attachments WHERE purpose = 'recording'")
                        ).scalar_one()
                    )
                with UnitOfWork(database) as work:
                    jobs, waiting = work.jobs.count(), work.measurements.unfinished()
            finally:
                database.close()
    except StoreError as trouble:
        problem = trouble.sentence()
    except (MariaDbProblem, OSError) as trouble:
        problem = str(trouble)
    usage = shutil.disk_usage(folder if folder.is_dir() else Path("/"))
    return Status(
        version=__version__,
        folder=str(folder),
        address=_served_at(folder),
        problem=problem,
        tables=tables,
        jobs=jobs,
        recordings=recordings,
        waiting=waiting,
        data_mb=_size_mb(folder),
        free_mb=usage.free // 1_000_000,
        wrong=sum(1 for _ in _wrong_since(folder / LOGS, now - LATELY)),
    )


def run_status(*, as_json: bool) -> int:
    """Print it; 1 where it does not run."""
    status = look(datetime.now(UTC))
    if as_json:
        print(json.dumps(asdict(status), indent=1))
    else:
        print("\n".join(_lines(status)))
    return 0 if status.address is not None and status.problem is None else 1


def _lines(status: Status) -> Iterator[str]:
    yield f"version    {status.version}"
    yield f"data       {status.folder}, {status.data_mb} MB, {status.free_mb} MB free"
    yield f"served     {status.address or 'not at the moment'}"
    if status.problem is not None:
        yield f"database   {status.problem}"
        return
    yield f"database   answers, tables of version {status.tables}"
    yield f"kept       {status.jobs} jobs, {status.recordings} recordings"
    yield f"measuring  {status.waiting} queued or running"
    wrong = f"{status.wrong} warnings or errors in a day, in {status.folder}/{LOGS}" if status.wrong else "nothing"
    yield f"went wrong {wrong}"


def _database_url(folder: Path) -> str | None:
    """Where the database answers, None where it does not run."""
    url = os.environ.get("EAGER_EAR_DATABASE_URL")
    if url:
        return url
    if not (folder / "db").is_dir():
        return None
    private = PrivateMariaDb(folder / "db")
    # It runs already: this finds it and starts nothing.
    return private.start() if private.pid() is not None else None


def _served_at(folder: Path) -> str | None:
    try:
        noted = json.loads((folder / SERVING).read_text())
        os.kill(int(noted["process"]), 0)
    except PermissionError:
        return str(noted["address"])
    except (OSError, ValueError, KeyError):
        return None
    return str(noted["address"])


def _size_mb(folder: Path) -> int:
    total = 0
    for path in folder.rglob("*"):
        try:
            total += path.stat().st_size if path.is_file() else 0
        except OSError:
            continue  # Gone, or somebody else's.
    return total // 1_000_000


def _wrong_since(logs: Path, since: datetime) -> Iterator[dict[str, object]]:
    for path in sorted(logs.glob("*.jsonl*")):
        try:
            lines = path.read_text(encoding="utf-8", errors="replace").splitlines()
        except OSError:
            continue
        for line in lines:
            try:
                event = json.loads(line)
                at = datetime.fromisoformat(str(event["at"]))
            except (ValueError, KeyError, TypeError):
                continue
            if event.get("level") in WRONG and at >= since:
                yield event
