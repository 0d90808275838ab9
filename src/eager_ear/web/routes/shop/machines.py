"""The register: machines at a place that sounds like this one, and one machine with its visits."""

from __future__ import annotations

import tempfile

from fastapi import APIRouter, Query
from fastapi.responses import StreamingResponse

from eager_ear.store import UnitOfWork
from eager_ear.use_cases.shop.machine_data import export_machine, forget_machine, merge_machines
from eager_ear.use_cases.shop.platform import platform_of
from eager_ear.use_cases.shop.register import MOST_LISTED, known_machine, machines_found, machines_like, spins_of
from eager_ear.web.actor import Acting
from eager_ear.web.files_out import ZIP, zip_answer
from eager_ear.web.schemas.shop.machines import ForgetIn, MachineOut, MachinesOut, MergeIn, PlatformOut, SpinsOut
from eager_ear.web.state import State

router = APIRouter(prefix="/api", tags=["machines"])


@router.get("/machines")
def machines(
    state: State, place: str = Query(default="", max_length=200), q: str = Query(default="", max_length=200)
) -> MachinesOut:
    """Machines of which a visit holds all the words of `q`; or whose place shares words with `place`, for a person to
    choose from; the last changed ones without either."""
    with UnitOfWork(state.database) as work:
        found = machines_found(work, looked_for=q) if q.strip() else machines_like(work, place=place)
        return MachinesOut(machines=[MachineOut.of(known) for known in found], most=MOST_LISTED)


@router.get("/machines/{machine_id}")
def one_machine(machine_id: str, state: State) -> MachineOut:
    with UnitOfWork(state.database) as work:
        return MachineOut.of(known_machine(work, machine_id))


@router.get("/machines/{machine_id}/spins")
def spins(machine_id: str, state: State) -> SpinsOut:
    """The spins of all visits to a machine, by speed, the oldest first: what the years have done to it."""
    with UnitOfWork(state.database) as work:
        return SpinsOut.of(spins_of(work, machine_id))


@router.get("/machines/{machine_id}/all.zip", response_class=StreamingResponse, responses=ZIP)
def everything(machine_id: str, state: State, acting: Acting) -> StreamingResponse:
    """Everything that is kept of a machine and its people, as one zip; who asked is noted."""
    scratch = tempfile.TemporaryFile(prefix="eager-ear-export-")  # noqa: SIM115  closed once it was sent
    try:
        name = export_machine(
            state.database, machine_uuid=machine_id, sink=scratch, knowledge=state.knowledge, who=acting.name or ""
        )
    except BaseException:
        scratch.close()
        raise
    return zip_answer(scratch, name=name)


@router.post("/machines/{machine_id}/forget", status_code=204)
def forget(machine_id: str, body: ForgetIn, state: State, acting: Acting) -> None:
    """Take a machine away with its visits, recordings, photos and people, for good; who did is noted."""
    forget_machine(state.database, machine_uuid=machine_id, place=body.place, who=acting.name or "")


@router.post("/machines/{machine_id}/merge")
def merge(machine_id: str, body: MergeIn, state: State, acting: Acting) -> MachineOut:
    """Lay a machine that was entered twice together with the other; each visit can take that back."""
    merge_machines(state.database, machine_uuid=machine_id, into=body.into, who=acting.name, knowledge=state.knowledge)
    return one_machine(body.into, state)


@router.get("/jobs/{job_id}/platform")
def platform(job_id: str, state: State) -> PlatformOut:
    """What machines like this one have in common with it, for a person to take over, and what its codes mean."""
    with UnitOfWork(state.database) as work:
        return PlatformOut.of(platform_of(work, work.jobs.get(job_id), knowledge=state.knowledge))
