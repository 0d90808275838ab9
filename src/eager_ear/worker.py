"""The worker process: has measured what is queued, one run at a time, until its parent is gone.

Each measurement runs in a process of its own with limits of memory and computing time, so that none takes the worker,
or the others, with it. A claim is a lease of one owner, kept alive while that process runs; when a worker is killed its
lease runs out and the next one takes the measurement again. What ends from outside does not count against a
measurement, what ends by itself does.
"""

from __future__ import annotations

import argparse
import logging
import multiprocessing
import os
import resource
import signal
import sys
import time
from multiprocessing.process import BaseProcess

import scipy

from eager_ear import logs
from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.errors import CoreError
from eager_ear.ids import uuid7
from eager_ear.knowledge import load_knowledge
from eager_ear.processes import Orphaned, end_with
from eager_ear.store import Damaged, Database, MeasurementRecord, StoreError, UnitOfWork, in_unit
from eager_ear.use_cases.clock import now_utc
from eager_ear.use_cases.diagnosis.measuring import (
    crashed,
    failed,
    measure,
    measured,
    released,
    take_up_asked,
    tell,
    try_again,
)
from eager_ear.use_cases.visits.bytes_in import sweep

POLL_S = 0.25
LOOK_S = 0.5
GRACE_S = 2.0
# Half an hour of stereo at 48 kHz needs 1.6 GB; a minute of computing is a long recording.
MOST_BYTES = 3 << 30
MOST_COMPUTING_S = 600
# As kernels and people end a process that did nothing wrong.
FROM_OUTSIDE = (signal.SIGKILL, signal.SIGTERM, signal.SIGINT, signal.SIGHUP)
# A copy of this process has the libraries loaded already: those that measure from its first claim on.
FORK = multiprocessing.get_context("fork")
NUMERICS = ("fft", "linalg", "ndimage", "optimize", "signal", "special", "stats")
logger = logging.getLogger("eager_ear.worker")


class Cancelled(Exception):
    """The measurement was cancelled or superseded while it ran."""


def process_one(database: Database, *, knowledge: Knowledge, owner: str | None = None) -> bool:
    """Claim and finish one measurement; False when none waits."""
    owner = owner or uuid7(now_utc())

    def claim(work: UnitOfWork) -> MeasurementRecord | None:
        found = work.measurements.claim(owner=owner)
        if found is not None:
            tell(work, found.id)
        return found

    claimed = in_unit(database, claim)
    if claimed is None:
        return False
    for part in NUMERICS:
        getattr(scipy, part)
    child = FORK.Process(target=_alone, args=(os.getpid(), database.url, claimed, knowledge))
    child.start()
    try:
        _keep_while(child, database, claimed)
    finally:
        if child.is_alive():
            child.kill()
        child.join()
    _settle(database, claimed, child.exitcode or 0)
    return True


def _keep_while(child: BaseProcess, database: Database, claimed: MeasurementRecord) -> None:
    """Renew the lease as long as the child runs; end it when nobody wants its result any more."""
    while child.is_alive():
        child.join(LOOK_S)
        try:
            wanted = in_unit(database, lambda work: work.measurements.keep(claimed.id, owner=claimed.owner, stage=None))
        except StoreError as exc:
            logger.warning("the lease of measurement %d could not be renewed: %s", claimed.id, exc.sentence())
        else:
            if not wanted:
                # It may just have finished; one that was cancelled notices at its next stage.
                child.join(GRACE_S)
                child.kill()


def _settle(database: Database, claimed: MeasurementRecord, exit_code: int) -> None:
    """Say what became of a measurement that did not say it itself."""
    if exit_code == 0:
        return
    logger.warning("measurement %d ended with %d", claimed.id, exit_code)
    if exit_code == -signal.SIGXCPU:
        minutes = MOST_COMPUTING_S // 60
        failed(database, claimed, error=f"Measuring took more than {minutes} minutes. Record a shorter stretch.")
    elif -exit_code in FROM_OUTSIDE:
        released(database, claimed)
    else:
        crashed(database, claimed)


def _alone(parent_pid: int, url: str, claimed: MeasurementRecord, knowledge: Knowledge) -> None:
    """The measurement, in a process of its own."""
    for number in (signal.SIGINT, signal.SIGTERM):
        signal.signal(number, signal.SIG_DFL)
    end_with(parent_pid, by=signal.SIGKILL)
    resource.setrlimit(resource.RLIMIT_DATA, (MOST_BYTES, resource.RLIM_INFINITY))
    resource.setrlimit(resource.RLIMIT_CPU, (MOST_COMPUTING_S, MOST_COMPUTING_S + 30))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    database = Database(url)
    try:
        _measure(database, claimed, knowledge)
    except Cancelled:
        logger.info("measurement %d was cancelled", claimed.id)
    finally:
        database.close()


def _measure(database: Database, claimed: MeasurementRecord, knowledge: Knowledge) -> None:
    def on_stage(stage: str) -> None:
        if not in_unit(database, lambda work: work.measurements.keep(claimed.id, owner=claimed.owner, stage=stage)):
            raise Cancelled

    try:
        found = measure(database, claimed, knowledge=knowledge, on_stage=on_stage)
    except Damaged as exc:
        failed(database, claimed, error=exc.sentence())
    except (Cancelled, StoreError):
        raise
    except CoreError as exc:
        failed(database, claimed, error=exc.sentence())
    except MemoryError:
        resource.setrlimit(resource.RLIMIT_DATA, (resource.RLIM_INFINITY, resource.RLIM_INFINITY))
        failed(database, claimed, error="These recordings need more memory than there is. Record a shorter stretch.")
    except Exception:
        logger.exception("measurement %d failed", claimed.id)
        failed(database, claimed, error="The measuring met a recording it cannot handle. The recordings are kept.")
    else:
        measured(database, claimed, found, knowledge=knowledge)


def main() -> int:
    """Work until the parent process is gone."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--parent", type=int, required=True, help="process id of who started this")
    parser.add_argument("--number", type=int, default=1, help="of several")
    options = parser.parse_args()
    logs.set_up(f"worker-{options.number}")
    try:
        end_with(options.parent)
    except Orphaned:
        return 0
    database = Database(os.environ["EAGER_EAR_DATABASE_URL"])
    knowledge, owner = load_knowledge(), uuid7(now_utc())
    begun = False
    while True:
        try:
            if not begun:
                # Jobs that an earlier version left, and what an earlier worker gave up: once, before anything else.
                try_again(database)
                while take_up_asked(database, knowledge=knowledge):
                    pass
                while sweep(database):
                    pass
                begun = True
            if not process_one(database, knowledge=knowledge, owner=owner):
                time.sleep(POLL_S)
        except StoreError as exc:
            logger.warning("%s", exc.sentence())
            time.sleep(1.0)


if __name__ == "__main__":
    sys.exit(main())
