"""Weigh all jobs again after a change of knowledge, and say what that changed."""

from __future__ import annotations

import sys

from eager_ear.core.units import percent
from eager_ear.host.running.at_hand import database_at_hand
from eager_ear.host.running.mariadb import MariaDbProblem
from eager_ear.knowledge import load_knowledge
from eager_ear.store import CallSummary, StoreError
from eager_ear.use_cases.diagnosis.weighing import Change, reweigh_all


def run_reweigh() -> int:
    """Weigh all of them; returns the exit status."""
    knowledge = load_knowledge()
    changed = 0

    def told(change: Change) -> None:
        nonlocal changed
        changed += 1
        print(f"{change.place}: {_said(change.before)} -> {_said(change.after)}")

    try:
        with database_at_hand() as database:
            count = reweigh_all(database, knowledge=knowledge, on_change=told)
    except (MariaDbProblem, StoreError) as exc:
        print(exc, file=sys.stderr)
        return 1
    print(f"{count} jobs weighed with knowledge {knowledge.version}; {changed} changed.")
    return 0


def _said(call: CallSummary | None) -> str:
    return "no call" if call is None else f"{call.leader} {percent(call.leader_probability)}, {call.advice}"
