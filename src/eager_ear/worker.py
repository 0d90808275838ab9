"""The worker process: takes queued analyses one at a time until its parent is gone.

Claims are leases kept alive by a thread; when a worker dies in mid-analysis the lease runs out and the next worker
takes the analysis again, so a kill loses nothing.
"""

from __future__ import annotations

import logging
import os
import sys
import threading
import time

from eager_ear.core.curves import curves_dict
from eager_ear.core.diagnosis import Knowledge, load_knowledge
from eager_ear.core.errors import CoreError
from eager_ear.core.result import result_dict
from eager_ear.service import analyse_job, now_utc
from eager_ear.store import AnalysisSummary, Database, StoreError, UnitOfWork, in_unit

POLL_S = 0.25
RENEW_S = 2.0
logger = logging.getLogger("eager_ear.worker")


class Cancelled(Exception):
    """The analysis was cancelled or superseded while it ran."""


def process_one(database: Database, *, knowledge: Knowledge) -> bool:
    """Claim and finish one analysis; False when none waits."""
    claimed = in_unit(database, lambda work: work.analyses.claim(now=now_utc()))
    if claimed is None:
        return False
    stop = threading.Event()
    keeper = threading.Thread(target=_keep_lease, args=(database, claimed.id, stop), daemon=True)
    keeper.start()
    try:
        _analyse(database, claimed, knowledge)
    except Cancelled:
        logger.info("analysis %d was cancelled", claimed.id)
    finally:
        stop.set()
        keeper.join()
    return True


def _analyse(database: Database, claimed: AnalysisSummary, knowledge: Knowledge) -> None:
    def on_stage(stage: str) -> None:
        if not in_unit(database, lambda work: work.analyses.keep(claimed.id, stage=stage, now=now_utc())):
            raise Cancelled

    def fail(error: str) -> None:
        in_unit(database, lambda work: work.analyses.fail(claimed.id, error=error, now=now_utc()))

    try:
        analysis = analyse_job(database, job_id=claimed.job_id, knowledge=knowledge, on_stage=on_stage)
        result, curves = result_dict(analysis.weighed), curves_dict(analysis.lead)
    except (Cancelled, StoreError):
        raise
    except CoreError as exc:
        fail(exc.sentence())
        return
    except Exception:
        logger.exception("analysis %d failed", claimed.id)
        fail("The analysis met a case it cannot handle. The recordings are kept.")
        return
    in_unit(database, lambda work: work.analyses.finish(claimed.id, result=result, curves=curves, now=now_utc()))


def _keep_lease(database: Database, analysis_id: int, stop: threading.Event) -> None:
    while not stop.wait(RENEW_S):
        try:
            with UnitOfWork(database) as work:
                work.analyses.keep(analysis_id, stage=None, now=now_utc())
        except StoreError:
            logger.warning("the lease of analysis %d could not be renewed", analysis_id)


def main() -> int:
    """Work until the parent process is gone."""
    logging.basicConfig(level=logging.INFO, stream=sys.stderr)
    parent = os.getppid()
    threading.Thread(target=_die_with, args=(parent,), daemon=True).start()
    database = Database(os.environ["EAGER_EAR_DATABASE_URL"])
    knowledge = load_knowledge()
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
