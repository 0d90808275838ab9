"""Papers of a job, made from what is known of it when they are asked for."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import date, timedelta
from typing import Any

from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.machine import find_layout
from eager_ear.core.record import found_in
from eager_ear.core.repair import Path
from eager_ear.core.units import percent
from eager_ear.core.visit import Visit
from eager_ear.paper import QuoteFacts, ReportFacts, Size, job_sheet_pdf, label_pdf, quote_pdf, report_pdf
from eager_ear.paper.report import Proof
from eager_ear.store import JobRecord, UnitOfWork, UsedPartRecord
from eager_ear.use_cases.clock import now_utc
from eager_ear.use_cases.repairs.offering import offer_for
from eager_ear.use_cases.repairs.proving import TestState, proof_for
from eager_ear.use_cases.repairs.stripping import strip_for
from eager_ear.use_cases.shop.shop import shop_of
from eager_ear.use_cases.shop.stock import graded_of
from eager_ear.use_cases.visits.folding import folded

# A note about an old part says what became of it.
OLD_PART = "old_part:"


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


def report_of(work: UnitOfWork, job: JobRecord, *, knowledge: Knowledge, size: Size) -> bytes:
    """The customer's report. Raises NothingToOffer where the layout is not known."""
    return report_pdf(_report_facts(work, job, knowledge), size=size)


def label_of(work: UnitOfWork, job: JobRecord, *, knowledge: Knowledge, size: Size) -> bytes:
    """The label for the inside of the cabinet. Raises NothingToOffer where the layout is not known."""
    return label_pdf(_report_facts(work, job, knowledge), size=size)


def _report_facts(work: UnitOfWork, job: JobRecord, knowledge: Knowledge) -> ReportFacts:
    stripping = strip_for(work, job, knowledge=knowledge)
    proving = proof_for(work, job, knowledge=knowledge)
    visit = stripping.visit
    ended = visit.any_time.closed or ""
    mended = ended in ("mended", "workaround") or (not ended and visit.repair_from is not None)
    paths = stripping.paths if stripping.agreed and mended else ()
    result = work.calls.get(job.call.id).result if job.call is not None else {"suspects": []}
    ending = work.outcomes.of_job(job.id)
    chances = ending.called if ending is not None else {s["fault"]: s["probability"] for s in result["suspects"]}
    parts, used = knowledge.repair.parts, _used(work, visit)
    ranked = sorted(chances.items(), key=lambda item: -item[1])
    called = f"{knowledge.faults[ranked[0][0]].name.lower()}, {percent(ranked[0][1])}." if ranked else "nothing yet."
    compared = proving.before_after
    return ReportFacts(
        place=visit.story.place,
        machine=_machine(visit),
        made_on=now_utc().date(),
        ended=ended,
        called=called,
        findings=_decided_by(result, ranked[0][0]) if ranked else (),
        suspects=[(knowledge.faults[fault].short, chance) for fault, chance in ranked],
        found=[knowledge.faults[f].name for f in found_in(visit) or ()],
        done=[path.name for path in paths],
        renewed=[parts[code].name for code in _merged_parts(paths) if code not in used],
        used=[f"{parts[code].name}, {_told_used(part)}" for code, part in used.items()],
        graded=_graded(work, job, visit, knowledge),
        old_parts=_old_parts(visit, knowledge),
        workaround=ended == "workaround",
        proofs=[(t.test.name, _stands(t), t.left_out) for t in proving.tests if not t.optional] if mended else (),
        compared=compared.says if compared is not None else "",
        pegs=[(c.name, c.before_text, c.after_text) for c in compared.changes if c.clear] if compared else (),
        advice=proving.advice,
        due=[(date.fromisoformat(str(f["due"])), str(f["what"])) for f in visit.proof.follow_ups if not f.get("done")],
    )


def _told_used(part: UsedPartRecord) -> str:
    hours = f", has run about {part.hours} h" if part.hours is not None else ""
    return f"{part.condition.replace('_', ' ')}{hours}"


def _used(work: UnitOfWork, visit: Visit) -> dict[str, UsedPartRecord]:
    """Parts that were fitted used, by their codes."""
    found = (work.used_parts.find(entry) for entry in visit.stock.fitted)
    return {part.part: part for part in found if part is not None}


def _graded(work: UnitOfWork, job: JobRecord, visit: Visit, knowledge: Knowledge) -> str:
    """The grade of a machine that is sold, with what keeps it from a better one; nothing for a customer's."""
    if visit.stock.taken_in is None:
        return ""
    shop = shop_of(work, repair=knowledge.repair)
    graded = graded_of(work, job, visit, shop=shop, knowledge=knowledge)
    name = knowledge.repair.stock.grades[graded.code].name
    why = f": {'; '.join(graded.why)}" if graded.why else ""
    return f"Grade {graded.code}, {name}{why}."


def _old_parts(visit: Visit, knowledge: Knowledge) -> list[tuple[str, str]]:
    """What became of the parts that came out, by the last word on each."""
    said = {n.about: n.text for n in visit.any_time.notes if n.about is not None and n.about.startswith(OLD_PART)}
    parts = knowledge.repair.parts
    fates = [(about.removeprefix(OLD_PART), fate) for about, fate in said.items()]
    return [(parts[code].name, fate) for code, fate in fates if code in parts]


def _decided_by(result: Mapping[str, Any], fault: str) -> list[str]:
    """What spoke for the suspect most, in sentences."""
    suspect = next((s for s in result["suspects"] if s["fault"] == fault), None)
    if suspect is None:
        return []
    for_it = [e for e in suspect["evidence"] if e["weight_db"] > 1.0]
    return [str(e["finding"]) for e in sorted(for_it, key=lambda e: -e["weight_db"])]


def _merged_parts(paths: Sequence[Path]) -> list[str]:
    return list(dict.fromkeys(code for path in paths for code in path.parts))


def _stands(state: TestState) -> Proof:
    if state.passed is not None:
        return "passed" if state.passed else "failed"
    return "left out" if state.left_out else "open"


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
