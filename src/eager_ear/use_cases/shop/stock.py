"""Machines without a customer, and used parts: what the shop has, how each machine stands, where a part went."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from eager_ear.core.cost import LEAST_CHANCE, Money, Shop
from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.stock import Graded, State, grade_of
from eager_ear.core.visit import Visit
from eager_ear.store import JobRecord, UnitOfWork, UsedPartRecord
from eager_ear.use_cases.shop.shop import shop_of
from eager_ear.use_cases.visits.folding import FoldedJob, folded

MOST_MACHINES = 60
MOST_PARTS = 500
# A note about a proof says why it was left out.
LEFT_OUT = "proof:"


@dataclass(frozen=True, kw_only=True)
class OwnMachine:
    """A machine that was taken in: its visit, its grade as it stands, what it would fetch so, what was paid."""

    job: JobRecord
    graded: Graded
    fetches: Money
    paid: Money


@dataclass(frozen=True, kw_only=True)
class StockShown:
    machines: tuple[OwnMachine, ...]
    parts: tuple[UsedPartRecord, ...]


def stock_of(work: UnitOfWork, *, knowledge: Knowledge) -> StockShown:
    """Machines that were taken in and are not gone yet, last touched first, and the parts on the shelf."""
    shop = shop_of(work, repair=knowledge.repair)
    machines = []
    for job in work.jobs.ours(limit=MOST_MACHINES):
        visit = folded(work, job, knowledge=knowledge).visit
        graded = graded_of(work, job, visit, shop=shop, knowledge=knowledge)
        share = knowledge.repair.stock.grades[graded.code].share
        fetches = Money(minor=round(shop.resale * share), currency=shop.currency)
        machines.append(OwnMachine(job=job, graded=graded, fetches=fetches, paid=paid_for(visit, shop=shop)))
    return StockShown(machines=tuple(machines), parts=tuple(work.used_parts.on_the_shelf(limit=MOST_PARTS)))


def paid_for(visit: Visit, *, shop: Shop) -> Money:
    """What was paid for the machine of a visit; what was paid in another currency is not known in this one."""
    taken = visit.stock.taken_in or {}
    same = taken.get("currency", shop.currency) == shop.currency
    return shop.money(int(taken.get("paid") or 0) if same else 0)


def graded_of(work: UnitOfWork, job: JobRecord, visit: Visit, *, shop: Shop, knowledge: Knowledge) -> Graded:
    """The grade of the machine of a visit, as it stands."""
    suspects = work.calls.get(job.call.id).result["suspects"] if job.call is not None else []
    chances = {s["fault"]: float(s["probability"]) for s in suspects}
    state = state_of(visit, chances=chances, knowledge=knowledge)
    return grade_of(state, rules=knowledge.repair.stock, life_years=shop.life_years)


def state_of(visit: Visit, *, chances: Mapping[str, float], knowledge: Knowledge) -> State:
    """What a visit tells of a machine that is to be sold."""
    paths = [knowledge.repair.paths[code] for code in visit.cost.chosen_paths if code in knowledge.repair.paths]
    repaired = bool(paths) and visit.repair_from is not None
    mended = {fault for path in paths for fault in path.faults} if repaired else set()
    likely = [f for f, chance in chances.items() if f != "none" and chance >= LEAST_CHANCE and f not in mended]
    proved = visit.proof.proved
    left_out = any(str(note.about or "").startswith(LEFT_OUT) for note in visit.any_time.notes)
    return State(
        intake=visit.stock.intake,
        unmended=tuple(knowledge.faults[f].name for f in likely),
        proved=None if not repaired else bool(proved) and all(p.passed for p in proved) and not left_out,
        workaround=repaired and any(path.kind == "workaround" for path in paths),
        age_years=visit.story.facts.get("age_years"),
    )


def note_parts(work: UnitOfWork, found: FoldedJob) -> None:
    """Keep the shelf as the diary of a job says: what came off its machine, what went into it."""
    if found.job.practice:
        return
    sheet = work.machines.by_id(found.job.machine_id).sheet
    stock, story = found.visit.stock, found.visit.story
    work.used_parts.keep(
        found.job.id,
        [
            UsedPartRecord(
                entry=kept.entry,
                job=found.job.uuid,
                place=story.place,
                layout=story.facts.get("layout"),
                sheet=sheet,
                part=kept.part,
                condition=kept.condition,
                shelf=kept.shelf,
                hours=kept.hours,
                kept_at=kept.at,
            )
            for kept in stock.kept
        ],
    )
    work.used_parts.fit(found.job.id, stock.fitted)
