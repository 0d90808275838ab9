"""The register: machines at a place that sounds like this one, and one machine with its visits."""

from __future__ import annotations

from fastapi import APIRouter, Query

from eager_ear.store import UnitOfWork
from eager_ear.use_cases.register import known_machine, machines_like
from eager_ear.web.schemas.machines import MachineOut, MachinesOut
from eager_ear.web.state import State

router = APIRouter(prefix="/api", tags=["machines"])


@router.get("/machines")
def machines(state: State, place: str = Query(default="", max_length=200)) -> MachinesOut:
    """Machines whose place shares words with this one, for a person to choose from; the last changed ones without."""
    with UnitOfWork(state.database) as work:
        return MachinesOut(machines=[MachineOut.of(known) for known in machines_like(work, place=place)])


@router.get("/machines/{machine_id}")
def one_machine(machine_id: str, state: State) -> MachineOut:
    with UnitOfWork(state.database) as work:
        return MachineOut.of(known_machine(work, machine_id))
