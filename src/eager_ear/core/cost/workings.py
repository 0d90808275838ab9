"""How the numbers of an option were worked out, in words with every term: whoever doubts one can follow it."""

from __future__ import annotations

from dataclasses import dataclass

from eager_ear.core.cost.money import Money
from eager_ear.core.cost.options import Between, Working
from eager_ear.core.cost.shop import Shop
from eager_ear.core.strip import Plan
from eager_ear.core.units import percent

TRADE = "a judgement of the trade"


@dataclass(frozen=True, kw_only=True)
class Terms:
    """What an option was counted from. wasted, teardown : what a wrong call loses; again : what a call-back costs"""

    plan: Plan
    wrong: float
    callback: float
    wasted: Money
    teardown: Money
    again: Money
    extra: Money
    middle: Money
    full: Money
    years: Between
    days: int
    a_year: Money | None


def workings(terms: Terms, *, shop: Shop) -> tuple[Working, ...]:
    """One for each number that is no price."""
    return (
        Working(of="work", how=_work(terms.plan, shop)),
        Working(of="years it buys", how=f"{terms.years.low:g} to {terms.years.high:g} for this way, {TRADE}."),
        Working(of="on top", how=_extra(terms)),
        *(_days(terms)),
        *(_a_year(terms, shop)),
        Working(
            of="share of a new one",
            how=f"{said(terms.middle)}, the middle of the sum, of {said(terms.full)} with delivery and removal.",
        ),
    )


def _work(plan: Plan, shop: Shop) -> str:
    acts = [f"{len(plan.off)} acts to open", f"{len(plan.fit)} to mend", f"{len(plan.on)} to close"]
    plain = sum(p.minutes for part in (plan.off, plan.fit, plan.on) for p in part)
    pace = f", times {shop.factor:g} for who comes" if shop.factor != 1.0 else ""
    hour = said(shop.money(shop.hour))
    return (
        f"{', '.join(acts)}, {plain:.0f} min where nothing sticks{pace}; up to {plan.minutes[1]:.0f} min where "
        f"something does. At {hour} an hour."
    )


def _extra(terms: Terms) -> str:
    again = f"{percent(terms.callback)} of call-backs ({TRADE}) × {said(terms.again)} for another hour and way"
    # Nothing is lost by waiting where the call is wrong.
    wrong = (
        f"{percent(terms.wrong)} that the call is wrong × ({said(terms.wasted)} for parts that do not go back + "
        f"{said(terms.teardown)} of work) + "
    )
    return f"{wrong if terms.wrong > 0.0 else ''}{again} = {said(terms.extra)}."


def _days(terms: Terms) -> tuple[Working, ...]:
    if terms.days == 0:
        return ()
    return (Working(of="days without it", how="Until the part that takes longest is there, or glue has set."),)


def _a_year(terms: Terms, shop: Shop) -> tuple[Working, ...]:
    if terms.a_year is None:
        return ()
    on_top = f" + {said(terms.extra)} on top"
    return (_year(said(terms.middle) + on_top, terms.days, terms.years, terms.a_year, shop),)


def of_a_new_machine(middle: Money, *, years: Between, days: int, a_year: Money, shop: Shop) -> tuple[Working, ...]:
    """The same where nothing is mended."""
    life = f"{shop.life_years:g} years that one lasts, give or take three in ten, as the shop says."
    return Working(of="years it buys", how=life), _year(said(middle), days, years, a_year, shop)


def _year(spent: str, days: int, years: Between, a_year: Money, shop: Shop) -> Working:
    without = f" + {days} days × {said(shop.money(shop.day_without))}" if days else ""
    return Working(of="a year", how=f"({spent}{without}) ÷ {years.middle:g} years = {said(a_year)}.")


def said(amount: Money) -> str:
    """An amount with its currency's letters."""
    return f"{amount.currency} {amount.in_units}"
