"""The worker process: measures what is queued, one run at a time, until its parent is gone.

Claims are leases kept alive by a thread; when a worker dies in mid-measurement the lease runs out and the next worker
takes it again, so a kill loses nothing.
"""

from __future__ import annotations

import logging
import os
import sys
import threading
import time

from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.errors import CoreError
from eager_ear.knowledge import load_knowledge
from eager_ear.store import Damaged, Database, MeasurementRecord, MeasuringState, StoreError, UnitOfWork, in_unit
from eager_ear.use_cases.clock import now_utc
from eager_ear.use_cases.measuring import failed, measure, measured, take_up_asked, tell

POLL_S = 0.25
RENEW_S = 2.0
logger = logging.getLogger("eager_ear.worker")


class Cancelled(Exception):
    """The measurement was cancelled or superseded while it ran."""


def process_one(database: Database, *, knowledge: Knowledge) -> bool:
    """Claim and finish one measurement; False when none waits."""

    def claim(work: UnitOfWork) -> MeasurementRecord | None:
        found = work.measurements.claim(now=now_utc())
        if found is not None:
            tell(work, found.id)
        return found

    claimed = in_unit(database, claim)
    if claimed is None:
        return False
    if claimed.state is MeasuringState.FAILED:
        return True
    stop = threading.Event()
    keeper = threading.Thread(target=_keep_lease, args=(database, claimed.id, stop), daemon=True)
    keeper.start()
    try:
        _measure(database, claimed, knowledge)
    except Cancelled:
        logger.info("measurement %d was cancelled", claimed.id)
    finally:
        stop.set()
        keeper.join()
    return True


def _measure(database: Database, claimed: MeasurementRecord, knowledge: Knowledge) -> None:
    def on_stage(stage: str) -> None:
        if not in_unit(database, lambda work: work.measurements.keep(claimed.id, stage=stage, now=now_utc())):
            raise Cancelled

    try:
        found = measure(database, claimed, knowledge=knowledge, on_stage=on_stage)
    except Damaged as exc:
        failed(database, claimed, error=exc.sentence())
        return
    except (Cancelled, StoreError):
        raise
    except CoreError as exc:
        failed(database, claimed, error=exc.sentence())
        return
    except Exception:
        logger.exception("measurement %d failed", claimed.id)
        failed(database, claimed, error="The measuring met a recording it cannot handle. The recordings are kept.")
        return
    measured(database, claimed, found, knowledge=knowledge)


def _keep_lease(database: Database, measurement_id: int, stop: threading.Event) -> None:
    while not stop.wait(RENEW_S):
        try:
            with UnitOfWork(database) as work:
                work.measurements.keep(measurement_id, stage=None, now=now_utc())
        except StoreError:
            logger.warning("the lease of measurement %d could not be renewed", measurement_id)


def main() -> int:
    """Work until the parent process is gone."""
    logging.basicConfig(level=logging.INFO, stream=sys.stderr)
    parent = os.getppid()
    threading.Thread(target=_die_with, args=(parent,), daemon=True).start()
    database = Database(os.environ["EAGER_EAR_DATABASE_URL"])
    knowledge = load_knowledge()
    while os.getppid() == parent:
        try:
            # Jobs that an earlier version left: looked for once, before anything else.
            while take_up_asked(database, knowledge=knowledge):
                pass
            break
        except StoreError as exc:
            logger.warning("%s", exc.sentence())
            time.sleep(1.0)
    while os.getppid() == parent:
        try:
            if not process_one(database, knowledge=knowledge):
                time.sleep(POLL_S)
        except StoreError as exc:
            logger.warning("%s", exc.sentence())
            time.sleep(1.0)
    return 0


def _die_with(parent: int) -> None:
    while os.getppid() == parent:
        time.sleep(0.5)
    os._exit(0)


if __name__ == "__main__":
    sys.exit(main())
