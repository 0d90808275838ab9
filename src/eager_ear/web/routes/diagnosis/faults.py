"""The library of faults: what each is, how it sounds at each stage, what it is mistaken for."""

from __future__ import annotations

from fastapi import APIRouter
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import Response

from eager_ear.core.diagnosis.library import fault_page, separators
from eager_ear.core.machine import find_layout
from eager_ear.core.simulate import faults_of_layout
from eager_ear.use_cases.visits.noises import fault_noise
from eager_ear.web.schemas.diagnosis.faults import ApartOut, FaultPageOut, separator_out
from eager_ear.web.sounds_out import DAY, wav
from eager_ear.web.state import State

router = APIRouter(prefix="/api", tags=["catalogue"])


@router.get("/faults/{layout}/{fault}")
def page(layout: str, fault: str, state: State) -> FaultPageOut:
    """One fault on one layout."""
    find_layout(layout)
    found = fault_page(fault, layout=layout, knowledge=state.knowledge)
    sounds = fault in faults_of_layout(layout, knowledge=state.knowledge)
    return FaultPageOut.of(found, sounds=sounds, knowledge=state.knowledge)


@router.get("/faults/{layout}/{fault}/apart/{other}")
def apart(layout: str, fault: str, other: str, state: State) -> ApartOut:
    """What tells two faults apart."""
    find_layout(layout)
    found = separators(fault, other, layout=layout, knowledge=state.knowledge)
    return ApartOut(separators=[separator_out(s) for s in found])


@router.get(
    "/faults/{layout}/{fault}/heard/{stage}/{phase}",
    response_class=Response,
    responses={200: {"content": {"audio/wav": {"schema": {"type": "string", "format": "binary"}}}}},
)
async def heard(layout: str, fault: str, stage: str, phase: str, state: State) -> Response:
    """How it sounds, just begun, well on, or far gone; as WAV."""
    find_layout(layout)
    # Making a spin takes memory and seconds: by turns with whatever else does.
    async with state.looking:
        sound = await run_in_threadpool(
            lambda: fault_noise(layout=layout, fault=fault, stage=stage, phase=phase, knowledge=state.knowledge)
        )
    return wav(sound, DAY)
