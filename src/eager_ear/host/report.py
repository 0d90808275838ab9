"""A job's report or label as a PDF, from the command line."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Literal

from eager_ear.core.errors import InputError
from eager_ear.host.running.at_hand import database_at_hand
from eager_ear.host.running.mariadb import MariaDbProblem
from eager_ear.knowledge import load_knowledge
from eager_ear.paper import Size
from eager_ear.store import StoreError, UnitOfWork
from eager_ear.use_cases.repairs.papers import label_of, report_of

BAD_INPUT = 2


def run_report(job_id: str, *, out: Path, size: Size, kind: Literal["report", "label"]) -> int:
    """Write the paper of that job; returns the exit status."""
    make = report_of if kind == "report" else label_of
    try:
        with database_at_hand() as database, UnitOfWork(database) as work:
            content = make(work, work.jobs.get(job_id), knowledge=load_knowledge(), size=size)
    except (InputError, StoreError) as exc:
        print(exc.sentence(), file=sys.stderr)
        return BAD_INPUT
    except MariaDbProblem as exc:
        print(exc, file=sys.stderr)
        return 1
    out.write_bytes(content)
    print(out)
    return 0
