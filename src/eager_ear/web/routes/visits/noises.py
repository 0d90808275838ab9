"""Examples of noises, for the one who tells to point at."""

from __future__ import annotations

from fastapi import APIRouter
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import Response

from eager_ear.core.machine import find_layout
from eager_ear.use_cases.visits.noises import noise
from eager_ear.web.sounds_out import DAY, wav
from eager_ear.web.state import State

router = APIRouter(prefix="/api", tags=["catalogue"])


@router.get(
    "/noises/{layout}/{symptom}/{phase}",
    response_class=Response,
    responses={200: {"content": {"audio/wav": {"schema": {"type": "string", "format": "binary"}}}}},
)
async def example(layout: str, symptom: str, phase: str, state: State) -> Response:
    """How a typical machine of that layout sounds in that phase, where that is told of it; as WAV."""
    find_layout(layout)
    # Making a spin takes memory and seconds: by turns with whatever else does.
    async with state.looking:
        heard = await run_in_threadpool(
            lambda: noise(layout=layout, symptom=symptom, phase=phase, knowledge=state.knowledge)
        )
    return wav(heard, DAY)
