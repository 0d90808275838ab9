"""What to do now at a job, as a sum in the shop's money; what would be, at other prices or after another check."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

from eager_ear.core.cost import Money, Shop, read_shop
from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.diagnosis.decision import Decision
from eager_ear.core.diagnosis.evidence import Reading, supposed
from eager_ear.core.result import result_dict
from eager_ear.core.weigh import Weighed, weigh
from eager_ear.store import JobRecord, UnitOfWork
from eager_ear.use_cases.repairs.offering import NothingToOffer
from eager_ear.use_cases.shop.record import knowledge_of_shop
from eager_ear.use_cases.shop.shop import shop_of
from eager_ear.use_cases.visits.folding import folded
from eager_ear.use_cases.visits.shown import shown_of


@dataclass(frozen=True, kw_only=True)
class Decided:
    """The sum, what it advises, and in whose money it was counted."""

    decision: Decision
    advice: str
    shop: Shop

    def money(self, minutes: float) -> Money:
        """Minutes of work as money."""
        return self.shop.money(self.shop.hour) * (Fraction(round(minutes * 1000), 60_000))


def decision_for(
    work: UnitOfWork, job: JobRecord, *, knowledge: Knowledge, changes: Mapping[str, Any] | None = None
) -> Decided:
    """Weigh a job's actions.

    Raises
    ------
    NothingToOffer
        The layout is not known.
    InputError
        A changed setting that cannot be.
    """
    shop = read_shop(changes or {}, now=shop_of(work, repair=knowledge.repair), repair=knowledge.repair)
    call = _weighed(work, job, knowledge=knowledge, shop=shop).call
    return Decided(decision=call.decision, advice=call.advice, shop=shop)


def what_if(
    work: UnitOfWork, job: JobRecord, *, check: str | None, level: str, by_record: bool, knowledge: Knowledge
) -> dict[str, Any]:
    """The result of a call in which that check had come out at that level; nothing is kept.

    Parameters
    ----------
    by_record : weigh as the shop's own record has taught, where the shop wants that; else by what was brought along

    Raises
    ------
    NothingToOffer
        The layout is not known.
    InputError
        A check or a level that does not exist.
    """
    assumed = (supposed(check, level, knowledge=knowledge),) if check is not None else ()
    shop = shop_of(work, repair=knowledge.repair)
    return result_dict(_weighed(work, job, knowledge=knowledge, shop=shop, assumed=assumed, by_record=by_record))


def _weighed(
    work: UnitOfWork,
    job: JobRecord,
    *,
    knowledge: Knowledge,
    shop: Shop,
    assumed: Sequence[Reading] = (),
    by_record: bool = True,
) -> Weighed:
    visit = folded(work, job, knowledge=knowledge).visit
    case = visit.case(job.case_id or job.uuid)
    if case is None:
        raise NothingToOffer(reason="First say which machine it is: without its layout there is no sum.")
    if by_record:
        knowledge = knowledge_of_shop(work, knowledge=knowledge)
    return weigh(
        case,
        shown=shown_of(work, job.id, after=visit.proof_failed),
        knowledge=knowledge,
        set_aside=[s.finding for s in visit.call.set_aside],
        shop=shop,
        assumed=assumed,
    )
