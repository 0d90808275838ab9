"""What the product leads through at the machine: a wet load, the service mode and its sheet."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Path

from eager_ear.core.errors import UnknownCode
from eager_ear.core.proof import WetLoad, wet_load
from eager_ear.store import UnitOfWork
from eager_ear.use_cases.repairs.service_mode import ServiceMode, choose_sheet, keep_sheet, service_mode_of
from eager_ear.web.actor import Acting
from eager_ear.web.schemas.repairs.guiding import ChosenSheetIn, SheetIn, WetLoadIn
from eager_ear.web.state import State

router = APIRouter(prefix="/api", tags=["guiding"])

Uuid = Annotated[str, Path(pattern=r"^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$")]


@router.post("/wet-load")
def weigh_load(body: WetLoadIn, state: State) -> WetLoad:
    """What that cloth weighs, dry and wet, against the plate; nothing is kept."""
    cloths = state.knowledge.repair.guides.cloths
    if body.cloth not in cloths:
        raise UnknownCode(field="cloth", value=body.cloth, known=tuple(cloths))
    return wet_load(
        cloths[body.cloth], dry_litres=body.dry_litres, rated_kg=body.rated_kg, water_litres=body.water_litres
    )


@router.get("/jobs/{job_id}/service-mode")
def service_mode(job_id: str, state: State) -> ServiceMode:
    """The sheets of this layout, the one this machine goes by, and the rows of its own test."""
    with UnitOfWork(state.database) as work:
        return service_mode_of(work, work.jobs.get(job_id), repair=state.knowledge.repair)


@router.put("/jobs/{job_id}/service-mode/sheets/{sheet_id}")
def keep(job_id: str, sheet_id: Uuid, body: SheetIn, state: State, actor: Acting) -> ServiceMode:
    """Keep what was read off a photographed sheet, for all machines of its platform."""
    keep_sheet(state.database, job_id, sheet_id, body.sheet(), who=actor.name)
    return service_mode(job_id, state)


@router.put("/jobs/{job_id}/service-mode/chosen")
def choose(job_id: str, body: ChosenSheetIn, state: State) -> ServiceMode:
    """Say which sheet this machine goes by."""
    choose_sheet(state.database, job_id, body.sheet)
    return service_mode(job_id, state)
