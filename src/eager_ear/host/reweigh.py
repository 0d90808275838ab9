"""Weigh all jobs again after a change of knowledge, and say what that changed."""

from __future__ import annotations

import os
import sys

from eager_ear.core.diagnosis import percent
from eager_ear.host.folder import home
from eager_ear.host.mariadb import MariaDbProblem, PrivateMariaDb
from eager_ear.knowledge import load_knowledge
from eager_ear.store import CallSummary, Database, StoreError, migrate
from eager_ear.use_cases.weighing import Change, reweigh_all


def run_reweigh() -> int:
    """Use the database that runs, or start the private one for as long as it takes; returns the exit status."""
    url = os.environ.get("EAGER_EAR_DATABASE_URL")
    private = None if url else PrivateMariaDb(home() / "db")
    ran = private is None or private.pid() is not None
    knowledge = load_knowledge()
    changed = 0

    def told(change: Change) -> None:
        nonlocal changed
        changed += 1
        print(f"{change.place}: {_said(change.before)} -> {_said(change.after)}")

    try:
        database = Database(url or (private.start() if private is not None else ""))
        migrate(database)
        count = reweigh_all(database, knowledge=knowledge, on_change=told)
        database.close()
    except (MariaDbProblem, StoreError) as exc:
        print(exc, file=sys.stderr)
        return 1
    finally:
        if private is not None and not ran:
            private.stop()
    print(f"{count} jobs weighed with knowledge {knowledge.version}; {changed} changed.")
    return 0


def _said(call: CallSummary | None) -> str:
    return "no call" if call is None else f"{call.leader} {percent(call.leader_probability)}, {call.advice}"
