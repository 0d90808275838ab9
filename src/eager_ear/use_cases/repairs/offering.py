"""What can be put to the customer of a job, from its call, its machine, the shop's settings and its price book."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import date
from typing import Any, ClassVar

from eager_ear.core.cost import (
    Also,
    Money,
    MoneyRange,
    Offer,
    Price,
    Question,
    Shop,
    also,
    leading_faults,
    make_offer,
    read_shop,
)
from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.errors import InputError
from eager_ear.core.fields import Number
from eager_ear.core.machine import Machine
from eager_ear.core.repair import Path
from eager_ear.core.stock import HoursRun, Taken, hours_run, make_stock_offer
from eager_ear.core.visit import Visit
from eager_ear.store import JobRecord, UnitOfWork, UsedPartRecord
from eager_ear.use_cases.clock import now_utc
from eager_ear.use_cases.shop.shop import platforms_of, shop_of
from eager_ear.use_cases.shop.stock import paid_for, state_of
from eager_ear.use_cases.visits.folding import FoldedJob, folded

AGE = Number(low=0, high=80)
MOST_USED = 100


@dataclass(frozen=True, kw_only=True)
class Offered:
    """An offer, and from where its faults come: the call, or what the technician called.

    run : hours that this machine has run, by how much it washed
    """

    machine: Machine
    offer: Offer
    shop: Shop
    faults: tuple[str, ...]
    chances: Mapping[str, float]
    called: bool
    run: tuple[HoursRun, ...]


@dataclass(eq=False, kw_only=True)
class NothingToOffer(InputError):
    """Too little is known of the job for a sum."""

    code: ClassVar[str] = "nothing_to_offer"
    reason: str

    def sentence(self) -> str:
        return self.reason


def offer_for(
    work: UnitOfWork,
    job: JobRecord,
    *,
    knowledge: Knowledge,
    faults: tuple[str, ...] = (),
    changes: Mapping[str, Any] | None = None,
    found: FoldedJob | None = None,
) -> Offered:
    """Options for a job.

    Parameters
    ----------
    faults : to be mended, where not those of the call
    changes : of the shop's settings and of `age_years`, to try what would follow

    Raises
    ------
    NothingToOffer
        Neither layout nor call is known.
    """
    found = found if found is not None else folded(work, job, knowledge=knowledge)
    question = _question(work, job, found, knowledge=knowledge)
    called = found.visit.call.called
    mended = faults or (called.faults if called is not None else leading_faults(question.chances))
    chances = question.chances
    tried = dict(changes or {})
    if (age := tried.pop("age_years", None)) is not None:
        aged = replace(question.machine, age_years=float(AGE.read(age, field="age_years")))
        question = replace(question, machine=aged)
    shop = read_shop(tried, now=shop_of(work, repair=knowledge.repair), repair=knowledge.repair)
    question = replace(question, faults=tuple(f for f in mended if f in chances) or ("none",))
    prices = _prices(work, found, shop)
    taken = _taken(found, question, shop=shop, knowledge=knowledge)
    offer = (
        make_offer(question, shop=shop, prices=prices, repair=knowledge.repair)
        if taken is None
        else make_stock_offer(question, taken, shop=shop, prices=prices, repair=knowledge.repair)
    )
    return Offered(
        machine=question.machine,
        offer=offer,
        shop=shop,
        faults=question.faults,
        chances=chances,
        called=called is not None,
        run=hours_run(question.machine.age_years, use=knowledge.repair.stock.use),
    )


def used_parts_for(work: UnitOfWork, machine: Machine) -> list[UsedPartRecord]:
    """Parts on the shelf that came off a machine of this one's layout."""
    return work.used_parts.on_the_shelf(limit=MOST_USED, layout=machine.layout)


def also_for(
    work: UnitOfWork,
    job: JobRecord,
    found: FoldedJob,
    *,
    agreed: tuple[Path, ...],
    faults: tuple[str, ...],
    shop: Shop,
    knowledge: Knowledge,
) -> Also | None:
    """What mending these faults too would add to the repairs agreed to; None where nothing mends them."""
    question = replace(_question(work, job, found, knowledge=knowledge), faults=faults)
    prices = _prices(work, found, shop)
    return also(agreed, question, shop=shop, prices=prices, repair=knowledge.repair)


def _taken(found: FoldedJob, question: Question, *, shop: Shop, knowledge: Knowledge) -> Taken | None:
    """How a machine without a customer stands; None where it has one."""
    if found.visit.stock.taken_in is None:
        return None
    state = state_of(found.visit, chances=question.chances, knowledge=knowledge)
    return Taken(paid=paid_for(found.visit, shop=shop), state=state)


def _question(work: UnitOfWork, job: JobRecord, found: FoldedJob, *, knowledge: Knowledge) -> Question:
    """What is known of the machine and its call, with no fault chosen. Raises NothingToOffer."""
    machine = found.visit.story.machine
    if machine is None or job.call is None:
        raise NothingToOffer(reason="First say which machine it is: without its layout there is no sum.")
    suspects = work.calls.get(job.call.id).result["suspects"]
    return Question(
        machine=machine,
        faults=("none",),
        chances={s["fault"]: float(s["probability"]) for s in suspects},
        stage=next((s.get("stage") for s in suspects if s.get("stage")), None),
        day=now_utc().date(),
        condemned=condemned(found.visit, knowledge=knowledge),
        added=found.visit.cost.added,
    )


def condemned(visit: Visit, *, knowledge: Knowledge) -> dict[str, str]:
    """Parts that were seen to be spent, on opening or by hand before, each with what was seen."""
    found: dict[str, str] = {}
    seen = {s.part: s.condition for s in visit.strip.seen}
    checked = {c.check: c.values for c in visit.hands.checks}
    for look in knowledge.looks.values():
        for condition in look.conditions.values():
            by_hand = checked.get(condition.check or "")
            as_checked = by_hand is not None and all(by_hand.get(k) == v for k, v in condition.values.items())
            if seen.get(look.part) == condition.code or (look.part not in seen and as_checked):
                found |= {part: f"{look.name}: {condition.name.lower()}" for part in condition.renews}
    return found


def _prices(work: UnitOfWork, found: FoldedJob, shop: Shop) -> dict[str, Price]:
    """The price book, and over it what was said in this job; amounts in another currency do not count."""
    out = {
        code: Price(
            amount=MoneyRange.sure(Money(minor=p.amount, currency=p.currency)),
            source=p.source or "price book",
            available_on=p.available_on,
            returnable=p.returnable,
        )
        for code, p in work.shop.prices_for((*platforms_of(work, found), "")).items()
        if p.currency == shop.currency
    }
    for body in found.visit.cost.priced:
        if body["currency"] != shop.currency:
            continue
        code = str(body.get("part") or body.get("service") or "")
        day = body.get("available_on")
        out[code] = Price(
            amount=MoneyRange.sure(Money(minor=int(body["amount"]), currency=body["currency"])),
            source=str(body.get("source") or "this job"),
            available_on=date.fromisoformat(day) if day else None,
            returnable=bool(body.get("returnable", False)),
        )
    return out
