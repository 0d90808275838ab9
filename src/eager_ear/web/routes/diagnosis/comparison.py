"""A job's spin beside those of other visits."""

from __future__ import annotations

from fastapi import APIRouter

from eager_ear.store import UnitOfWork
from eager_ear.use_cases.diagnosis.beside import spins_beside
from eager_ear.web.schemas.diagnosis.comparison import BesideOut
from eager_ear.web.state import State

router = APIRouter(prefix="/api", tags=["jobs"])


@router.get("/jobs/{job_id}/beside")
def beside(job_id: str, state: State, other: str | None = None) -> BesideOut:
    """The spin beside another visit's, or beside all of the layout that were called sound."""
    with UnitOfWork(state.database) as work:
        return BesideOut.of(spins_beside(work, job_id, other=other))
