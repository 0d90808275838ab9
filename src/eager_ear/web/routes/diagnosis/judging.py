"""A hand check judged while it is entered; nothing is kept."""

from __future__ import annotations

from fastapi import APIRouter

from eager_ear.core.diagnosis.verdict import Judged, judge
from eager_ear.web.schemas.diagnosis.judging import JudgeIn
from eager_ear.web.state import State

router = APIRouter(prefix="/api", tags=["catalogue"])


@router.post("/judge")
def judge_(body: JudgeIn, state: State) -> Judged:
    """What these values say by themselves."""
    return judge(body.check, body.values, layout=body.layout, knowledge=state.knowledge)
