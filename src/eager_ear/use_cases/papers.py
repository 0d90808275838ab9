"""Papers of a job, made from what is known of it when they are asked for."""

from __future__ import annotations

from datetime import timedelta

from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.machine import find_layout
from eager_ear.core.visit import Visit
from eager_ear.paper import QuoteFacts, Size, job_sheet_pdf, quote_pdf
from eager_ear.store import JobRecord, UnitOfWork
from eager_ear.use_cases.clock import now_utc
from eager_ear.use_cases.folding import folded
from eager_ear.use_cases.offering import offer_for
from eager_ear.use_cases.stripping import strip_for


def quote_of(work: UnitOfWork, job: JobRecord, *, knowledge: Knowledge, size: Size) -> bytes:
    """The quote of a job. Raises NothingToOffer where too little is known."""
    found = folded(work, job, knowledge=knowledge)
    offered = offer_for(work, job, knowledge=knowledge, found=found)
    result = work.calls.get(job.call.id).result if job.call is not None else {}
    today = now_utc().date()
    facts = QuoteFacts(
        place=found.visit.story.place,
        machine=_machine(found.visit),
        headline=str(result.get("headline", "")),
        because=str(result.get("because", "")),
        suspects=[(knowledge.faults[s["fault"]].short, float(s["probability"])) for s in result.get("suspects", ())],
        made_on=today,
        valid_until=today + timedelta(days=offered.shop.valid_days),
    )
    return quote_pdf(facts, offered.offer, decided=found.visit.cost.decided, size=size)


def job_sheet_of(work: UnitOfWork, job: JobRecord, *, knowledge: Knowledge, size: Size) -> bytes:
    """The job sheet of a job. Raises NothingToOffer where its layout is not known."""
    stripping = strip_for(work, job, knowledge=knowledge)
    visit = stripping.visit
    return job_sheet_pdf(
        stripping.plan, place=visit.story.place, machine=_machine(visit), repair=knowledge.repair, size=size
    )


def _machine(visit: Visit) -> str:
    machine = visit.story.machine
    if machine is None:
        return ""
    parts = [find_layout(machine.layout).name]
    if machine.age_years is not None:
        parts.append(f"{machine.age_years:g} years old")
    if machine.stacked:
        parts.append("below a dryer")
    return ", ".join(parts)
