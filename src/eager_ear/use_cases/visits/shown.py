"""What a job's recordings were measured to show, read from the store."""

from __future__ import annotations

from dataclasses import replace

from eager_ear.core.diagnosis.evidence import Shown, shown_from_json
from eager_ear.store import UnitOfWork

# Runs of the mended machine.
AFTER = "after "


def shown_of(work: UnitOfWork, job_id: int, *, after: bool) -> list[Shown]:
    """What was measured of the machine as it was found, or as it was mended; each under the key of its run."""
    return [
        replace(shown_from_json(data), key=run)
        for run, data in work.measurements.shown(job_id).items()
        if run.startswith(AFTER) is after
    ]
