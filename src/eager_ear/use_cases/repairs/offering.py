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
from eager_ear.core.repair import Path, Repair
from eager_ear.store import JobRecord, UnitOfWork
from eager_ear.use_cases.clock import now_utc
from eager_ear.use_cases.shop.shop import shop_of
from eager_ear.use_cases.visits.folding import FoldedJob, folded

AGE = Number(low=0, high=80)


@dataclass(frozen=True, kw_only=True)
class Offered:
    """An offer, and from where its faults come: the call, or what the technician called."""

    offer: Offer
    shop: Shop
    faults: tuple[str, ...]
    chances: Mapping[str, float]
    called: bool


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
    question = _question(work, job, found)
    called = found.visit.call.called
    mended = faults or (called.faults if called is not None else leading_faults(question.chances))
    chances = question.chances
    tried = dict(changes or {})
    if (age := tried.pop("age_years", None)) is not None:
        aged = replace(question.machine, age_years=float(AGE.read(age, field="age_years")))
        question = replace(question, machine=aged)
    shop = read_shop(tried, now=shop_of(work, repair=knowledge.repair), repair=knowledge.repair)
    question = replace(question, faults=tuple(f for f in mended if f in chances) or ("none",))
    offer = make_offer(question, shop=shop, prices=_prices(work, found, shop), repair=knowledge.repair)
    return Offered(offer=offer, shop=shop, faults=question.faults, chances=chances, called=called is not None)


def also_for(
    work: UnitOfWork,
    job: JobRecord,
    found: FoldedJob,
    *,
    agreed: tuple[Path, ...],
    faults: tuple[str, ...],
    shop: Shop,
    repair: Repair,
) -> Also | None:
    """What mending these faults too would add to the repairs agreed to; None where nothing mends them."""
    question = replace(_question(work, job, found), faults=faults)
    return also(agreed, question, shop=shop, prices=_prices(work, found, shop), repair=repair)


def _question(work: UnitOfWork, job: JobRecord, found: FoldedJob) -> Question:
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
    )


def _prices(work: UnitOfWork, found: FoldedJob, shop: Shop) -> dict[str, Price]:
    """The price book, and over it what was said in this job; amounts in another currency do not count."""
    out = {
        code: Price(
            amount=MoneyRange.sure(Money(minor=p.amount, currency=p.currency)),
            source=p.source or "price book",
            available_on=p.available_on,
            returnable=p.returnable,
        )
        for code, p in work.shop.prices().items()
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
