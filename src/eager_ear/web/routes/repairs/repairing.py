"""What to do, what it costs and how it is done: the decision, offers, plans, proofs."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query

from eager_ear.store import UnitOfWork
from eager_ear.use_cases.diagnosis.deciding import decision_for, what_if
from eager_ear.use_cases.repairs.offering import offer_for, used_parts_for
from eager_ear.use_cases.repairs.proving import Proving, proof_for
from eager_ear.use_cases.repairs.stripping import strip_for
from eager_ear.web.actor import Acting
from eager_ear.web.schemas.diagnosis.deciding import DecisionIn, DecisionOut, WhatIfOut
from eager_ear.web.schemas.repairs.offering import OfferIn, OfferOut
from eager_ear.web.schemas.repairs.stripping import StripOut
from eager_ear.web.state import State

router = APIRouter(prefix="/api", tags=["repairing"])


@router.post("/jobs/{job_id}/decision")
def decision(job_id: str, body: DecisionIn, state: State) -> DecisionOut:
    """What to do now, as a sum; with other prices, what would be."""
    with UnitOfWork(state.database) as work:
        decided = decision_for(work, work.jobs.get(job_id), knowledge=state.knowledge, changes=body.tried)
    return DecisionOut.of(decided, knowledge=state.knowledge)


@router.get("/jobs/{job_id}/what-if")
def supposing(
    job_id: str,
    state: State,
    check: Annotated[str | None, Query(max_length=40)] = None,
    level: Annotated[str, Query(max_length=60)] = "",
    taught: bool = True,
) -> WhatIfOut:
    """The call as it would be if that check came out so, or without what the shop's record taught; nothing is kept."""
    with UnitOfWork(state.database) as work:
        job = work.jobs.get(job_id)
        result = what_if(work, job, check=check, level=level, by_record=taught, knowledge=state.knowledge)
    return WhatIfOut.model_validate(result)


@router.get("/jobs/{job_id}/offer")
def offer(job_id: str, state: State) -> OfferOut:
    """All that can be put to the customer, each with its sum."""
    return tried_offer(job_id, OfferIn(), state)


@router.post("/jobs/{job_id}/offer")
def tried_offer(job_id: str, body: OfferIn, state: State) -> OfferOut:
    """The same for other faults, or if the shop had settled something else; nothing is kept."""
    with UnitOfWork(state.database) as work:
        job = work.jobs.get(job_id)
        offered = offer_for(work, job, knowledge=state.knowledge, faults=tuple(body.faults), changes=body.tried)
        used = used_parts_for(work, offered.machine)
    return OfferOut.of(offered, used=used, repair=state.knowledge.repair)


@router.get("/jobs/{job_id}/strip")
def strip(
    job_id: str, acting: Acting, state: State, path: Annotated[list[str] | None, Query(max_length=10)] = None
) -> StripOut:
    """The plan of what was agreed to, and how far it is; with `path`, of other repairs."""
    with UnitOfWork(state.database) as work:
        pace = acting.person.pace if acting.person is not None else None
        job = work.jobs.get(job_id)
        stripping = strip_for(work, job, knowledge=state.knowledge, asked=tuple(path or ()), pace=pace)
    return StripOut.of(stripping, knowledge=state.knowledge)


@router.get("/jobs/{job_id}/proof")
def proof(job_id: str, state: State) -> Proving:
    """Which tests the repair asks for, how each stands, and the machine before and after."""
    with UnitOfWork(state.database) as work:
        return proof_for(work, work.jobs.get(job_id), knowledge=state.knowledge)
