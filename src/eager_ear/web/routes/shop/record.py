"""How often the shop was right, and what that taught it."""

from __future__ import annotations

from fastapi import APIRouter

from eager_ear.store import UnitOfWork
from eager_ear.use_cases.shop.record import leave_out, record_of
from eager_ear.web.actor import Acting
from eager_ear.web.schemas.shop.record import LeaveOutIn, RecordOut
from eager_ear.web.state import State

router = APIRouter(prefix="/api", tags=["record"])


@router.get("/record")
def record(state: State, actor: Acting) -> RecordOut:
    """Calls held against what was found, with the odds as they were brought along, as counted, and as they are now.

    Figures by person are told to owners alone.
    """
    with UnitOfWork(state.database) as work:
        found = record_of(work, knowledge=state.knowledge)
    return RecordOut.of(found, knowledge=state.knowledge, sees_names=actor.role == "owner")


@router.put("/record/{job_id}/left-out")
def left_out(job_id: str, body: LeaveOutIn, state: State, actor: Acting) -> RecordOut:
    """Count an ended job no more, and why; or count it again."""
    leave_out(state.database, job_uuid=job_id, why=body.why)
    return record(state, actor)
