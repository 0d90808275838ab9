"""The strip of a job: its plan, and how far it is."""

from __future__ import annotations

from dataclasses import dataclass, replace

from eager_ear.core.cost import LEAST_CHANCE, Also
from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.repair import Path, Repair, Setting
from eager_ear.core.strip import (
    NoSuchWay,
    Plan,
    Way,
    find_paths,
    plan_below_a_dryer,
    told_setting,
    ways_to_stand,
)
from eager_ear.core.strip.progress import GateState, no_way_back_missing, opened_gates
from eager_ear.core.visit import Visit
from eager_ear.store import JobRecord, UnitOfWork
from eager_ear.use_cases.repairs.offering import NothingToOffer, also_for, offer_for
from eager_ear.use_cases.shop.shop import shop_of
from eager_ear.use_cases.visits.folding import folded


@dataclass(frozen=True, kw_only=True)
class Stripping:
    """A plan with its state. agreed : the customer said yes to these paths; unstack : a dryer comes off first.

    lacks : tools that the shop has not got; also : what mending the unmended too would add, once something was agreed
    ways : how it can be gone at; pace : that the minutes are for
    unmended : faults that the call holds likely by now and that none of the paths mends
    """

    plan: Plan
    paths: tuple[Path, ...]
    setting: Setting
    visit: Visit
    agreed: bool
    unstack: bool
    gates: tuple[GateState, ...]
    lacks: tuple[str, ...]
    also: Also | None
    unmended: tuple[str, ...]
    ways: tuple[Way, ...]
    pace: float


def strip_for(
    work: UnitOfWork,
    job: JobRecord,
    *,
    knowledge: Knowledge,
    asked: tuple[str, ...] = (),
    pace: float | None = None,
) -> Stripping:
    """The plan of what the customer agreed to; before that, of what would be proposed, or of what is asked for.

    Parameters
    ----------
    pace : how long whoever works takes, 1 for practised hands; None takes the shop's

    Raises
    ------
    NothingToOffer
        The layout is not known.
    InputError
        A path that the layout does not have.
    """
    found = folded(work, job, knowledge=knowledge)
    visit, repair = found.visit, knowledge.repair
    machine = visit.story.machine
    if machine is None:
        raise NothingToOffer(reason="First say which machine it is: without its layout there is no plan.")
    shop = shop_of(work, repair=repair)
    # A yes may be to a new machine, or be older than what is known of the layout by now: then there is no such repair.
    chosen = tuple(code for code in visit.cost.chosen_paths if _is_repair(code, machine.layout, repair))
    codes = asked or chosen
    if not codes:
        offer = offer_for(work, job, knowledge=knowledge, found=found).offer
        codes = next((o.paths for o in offer.options if o.paths), ())
    paths = find_paths(codes, layout=machine.layout, repair=repair)
    factor = pace if pace is not None else shop.factor
    usual = shop.setting(machine.layout, stacked=bool(machine.stacked))
    setting = told_setting(visit.strip.stands, setting=usual)
    try:
        plan, unstack = plan_below_a_dryer(paths, setting=setting, repair=repair, factor=factor)
    except NoSuchWay:
        # What was said of how it stands does not open this repair: the shop's own way does.
        setting = usual
        plan, unstack = plan_below_a_dryer(paths, setting=setting, repair=repair, factor=factor)
    if unstack:
        setting = replace(setting, posture=None)
    agreed = bool(codes) and set(codes) == set(chosen)
    unmended = _unmended(work, job, paths)
    more = None
    if agreed and unmended:
        more = also_for(work, job, found, agreed=paths, faults=unmended, shop=shop, knowledge=knowledge)
    return Stripping(
        plan=plan,
        paths=paths,
        setting=setting,
        visit=visit,
        agreed=agreed,
        unstack=unstack,
        unmended=unmended,
        gates=(*_no_way_back(plan, visit), *opened_gates(visit, setting=setting, repair=repair)),
        lacks=shop.lacks,
        also=more,
        ways=ways_to_stand(paths, setting=setting, repair=repair, factor=factor),
        pace=factor,
    )


def _is_repair(code: str, layout: str, repair: Repair) -> bool:
    path = repair.paths.get(code)
    return path is not None and layout in path.layouts


def _unmended(work: UnitOfWork, job: JobRecord, paths: tuple[Path, ...]) -> tuple[str, ...]:
    if job.call is None:
        return ()
    mended = {fault for path in paths for fault in path.faults}
    suspects = work.calls.get(job.call.id).result["suspects"]
    return tuple(
        s["fault"]
        for s in suspects
        if s["probability"] >= LEAST_CHANCE and s["fault"] != "none" and s["fault"] not in mended
    )


def _no_way_back(plan: Plan, visit: Visit) -> list[GateState]:
    return [
        GateState(gate=gate, missing=no_way_back_missing(gate, visit, parts=plan.parts))
        for gate in plan.gates
        if gate.code == "no_way_back"
    ]
