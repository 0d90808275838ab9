"""The register of machines."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from pydantic import BaseModel, Field

from eager_ear.use_cases.register import KnownMachine
from eager_ear.web.schemas.base import Strict
from eager_ear.web.schemas.jobs import JobShortOut, MachineFacts


class MachineOut(BaseModel):
    """One machine, what is known of it, its visits, newest first, and what was surely found at each, by its id."""

    id: str
    place: str
    facts: MachineFacts
    changed_at: datetime
    visits: list[JobShortOut]
    found: dict[str, list[str]]
    platform_notes: list[str]

    @classmethod
    def of(cls, known: KnownMachine) -> MachineOut:
        return cls(
            id=known.machine.uuid,
            place=known.machine.place,
            facts=MachineFacts.model_validate(known.machine.facts),
            changed_at=known.machine.changed_at,
            visits=[JobShortOut.of(job) for job in known.visits],
            found={job: list(faults) for job, faults in known.found.items()},
            platform_notes=list(known.platform_notes),
        )


class MachinesOut(BaseModel):
    machines: list[MachineOut]


class ForgetIn(Strict):
    """place : as it stands in the register, typed by whoever takes the machine away."""

    place: Annotated[str, Field(max_length=200)]


class MergeIn(Strict):
    """into : the machine that it really is."""

    into: Annotated[str, Field(max_length=36)]
