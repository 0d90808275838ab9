"""The register of machines."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from pydantic import BaseModel, Field

from eager_ear.core.signals.sound import LevelAtSpeed
from eager_ear.use_cases.shop.platform import Because, Platform
from eager_ear.use_cases.shop.register import KnownMachine, SpinOfVisit
from eager_ear.web.schemas.base import Strict
from eager_ear.web.schemas.visits.jobs import JobShortOut, MachineFacts


class BesideIt(BaseModel):
    """The other machine of a column."""

    id: str
    place: str
    layout: str | None


class MachineOut(BaseModel):
    """One machine, what is known of it, its visits, newest first, and what was surely found at each, by its id."""

    id: str
    place: str
    facts: MachineFacts
    changed_at: datetime
    visits: list[JobShortOut]
    found: dict[str, list[str]]
    platform_notes: list[str]
    column_with: BesideIt | None

    @classmethod
    def of(cls, known: KnownMachine) -> MachineOut:
        other = known.column_with
        return cls(
            id=known.machine.uuid,
            place=known.machine.place,
            facts=MachineFacts.model_validate(known.machine.facts),
            changed_at=known.machine.changed_at,
            visits=[JobShortOut.of(job) for job in known.visits],
            found={job: list(faults) for job, faults in known.found.items()},
            platform_notes=list(known.platform_notes),
            column_with=BesideIt(id=other.uuid, place=other.place, layout=other.layout) if other is not None else None,
        )


class SpinOut(BaseModel):
    """The spin of one visit, by speed."""

    job: str
    at: datetime
    levels: list[LevelAtSpeed]


class SpinsOut(BaseModel):
    spins: list[SpinOut]

    @classmethod
    def of(cls, spins: list[SpinOfVisit]) -> SpinsOut:
        return cls(spins=[SpinOut(job=s.job.uuid, at=s.job.created_at, levels=list(s.levels)) for s in spins])


class MachinesOut(BaseModel):
    """most : so many are listed at once."""

    machines: list[MachineOut]
    most: int


class AlikeOut(BaseModel):
    """Another machine likely of the same platform; because : of its service sheet, or of layout and plate speed."""

    machine_id: str
    place: str
    because: Because
    facts: MachineFacts


class PlatformOut(BaseModel):
    """What the shop knows of machines like this one. codes : symptoms by what the display shows"""

    alike: list[AlikeOut]
    codes: dict[str, str]

    @classmethod
    def of(cls, platform: Platform) -> PlatformOut:
        alike = [
            AlikeOut(
                machine_id=a.machine.uuid,
                place=a.machine.place,
                because=a.because,
                facts=MachineFacts.model_validate(a.facts),
            )
            for a in platform.alike
        ]
        return cls(alike=alike, codes=dict(platform.codes))


class ForgetIn(Strict):
    """place : as it stands in the register, typed by whoever takes the machine away."""

    place: Annotated[str, Field(max_length=200)]


class MergeIn(Strict):
    """into : the machine that it really is."""

    into: Annotated[str, Field(max_length=36)]
