"""What a machine without a customer is worth: the most that may be put into it, and what each way leaves.

Ceiling for spending = what it fetches once mended - the shop's margin - what was paid for it. A way leaves what it
brings, less its lines, less what it is expected to cost on top, less what was paid. A repair above the ceiling stands
behind one below it, behind selling it as it is, and behind taking it apart.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from eager_ear.core.cost import (
    Between,
    Line,
    Money,
    MoneyRange,
    Offer,
    Option,
    Price,
    Question,
    Shop,
    StockSum,
    make_offer,
    share,
    total,
)
from eager_ear.core.repair import Path, Repair
from eager_ear.core.stock.grade import BEST, PARTS, Graded, State, grade_of, mended
from eager_ear.core.strip import NoSuchWay, plan_below_a_dryer

# What may be the fault is not sold as a good part from this chance on.
LEAST_SUSPECT = 0.3
NO_REPAIR = ("watch", "advice", "replace", "replace_pair", "scrap")


@dataclass(frozen=True, kw_only=True)
class Taken:
    """A machine that was taken in: what was paid, and how it stands."""

    paid: Money
    state: State


def make_stock_offer(
    question: Question, taken: Taken, *, shop: Shop, prices: Mapping[str, Price], repair: Repair
) -> Offer:
    """Every way to make something of it, the one that leaves most first."""
    # Own work in the own shop: nobody drives, nobody is without a washer, and tax is the buyer's.
    at_home = replace(shop, visit=0, tax_percent=0.0, day_without=0)
    offer = make_offer(question, shop=at_home, prices=prices, repair=repair)
    worth = _Worth(question, taken, shop=at_home, prices=prices, repair=repair)
    options = [worth.repaired(o) for o in offer.options if o.kind not in NO_REPAIR]
    options += worth.without_repair(next(o for o in offer.options if o.kind == "scrap"))
    ranked = tuple(sorted(options, key=_rank))
    best = ranked[0]
    summed = worth.sum_of(best)
    return replace(
        offer,
        options=ranked,
        proposed=best.code,
        says=_says(best, ranked, summed),
        missing=tuple(dict.fromkeys(line.code for o in ranked for line in o.lines if line.typical)),
        stock=summed,
    )


class _Worth:
    def __init__(
        self, question: Question, taken: Taken, *, shop: Shop, prices: Mapping[str, Price], repair: Repair
    ) -> None:
        self._question, self._taken, self._shop, self._prices = question, taken, shop, prices
        self._repair, self._rules = repair, repair.stock
        self._none = Money.none(shop.currency)

    def sum_of(self, option: Option) -> StockSum:
        """How the ceiling comes about, for the grade that this way reaches; the best grade where it sells none."""
        now = self._graded(self._taken.state)
        reached = option.grade if option.grade not in ("", PARTS) else self._reached(workaround=False)
        fetches = self._fetches(reached)
        margin = self._shop.money(self._shop.margin)
        return StockSum(
            grade_now=now.code,
            why_now=now.why,
            grade_then=reached,
            best_price=self._shop.money(self._shop.resale),
            fetches=fetches,
            margin=margin,
            paid=self._taken.paid,
            ceiling=self._ceiling(reached),
        )

    def repaired(self, option: Option) -> Option:
        """A repair, with what the machine fetches afterwards."""
        reached = self._reached(workaround=option.kind == "workaround")
        lines = tuple(line for line in option.lines if line.kind != "travel")
        brings = self._fetches(reached)
        return replace(
            option,
            lines=lines,
            share=None,
            a_year=None,
            days_without=0,
            allowed=option.total.middle.minor <= self._ceiling(reached).minor,
            grade=reached,
            brings=brings,
            leaves=brings - option.total.middle - option.extra - self._taken.paid,
        )

    def without_repair(self, scrap: Option) -> list[Option]:
        """Sold as it is where it may be, taken apart, scrapped."""
        out = [self._plain(scrap, name="Scrap it", brings=self._none, lines=self._no_way(scrap), grade=PARTS)]
        now = self._graded(self._taken.state)
        if now.code != PARTS:
            name = "Sell it as it is" if now.code == BEST else f"Sell it as it is, grade {now.code}"
            as_is = replace(scrap, code="as_is", kind="as_is")
            why = "; ".join(now.why)
            out.append(self._plain(as_is, name=name, brings=self._fetches(now.code), lines=(), grade=now.code, why=why))
        donor = self._donor(scrap)
        return [*out, donor] if donor is not None else out

    def _donor(self, scrap: Option) -> Option | None:
        """Taken apart for the parts that are likely sound."""
        worths = dict(self._serving_again())
        if not worths:
            return None
        try:
            minutes = self._opening(tuple(worths))
        except NoSuchWay:
            return None
        hour = self._shop.money(self._shop.hour)
        labour = Line(
            kind="labour",
            code="labour",
            text="Taking the parts off",
            amount=MoneyRange.sure(hour * (share(minutes) / 60)),
            source="shop",
        )
        names = [self._repair.parts[code].name for code in worths]
        brings = total((MoneyRange.sure(w) for w in worths.values()), currency=self._shop.currency).middle
        option = replace(scrap, code="donor", kind="donor", minutes=Between(low=minutes, high=minutes))
        return self._plain(
            option,
            name="Take it apart for its parts",
            brings=brings,
            lines=(labour, *self._no_way(scrap)),
            grade=PARTS,
            why="Serve again: " + ", ".join(name[:1].lower() + name[1:] for name in names) + ".",
        )

    def _serving_again(self) -> Iterator[tuple[str, Money]]:
        """Parts of this layout that serve again, with what each is expected to bring."""
        for code in self._rules.again:
            mends = [p for p in self._paths() if code in p.parts]
            if not mends:
                continue
            suspect = max(self._question.chances.get(f, 0.0) for p in mends for f in p.faults)
            if suspect >= LEAST_SUSPECT:
                continue
            price = self._prices.get(code)
            low, high = self._repair.parts[code].typical
            new = price.amount.middle if price is not None else Money.of((low + high) / 2, self._shop.currency)
            sold = share(self._shop.used_part_percent) / 100 * share(self._shop.used_sold_percent) / 100
            yield code, new * (sold * share(1.0 - suspect))

    def _opening(self, parts: tuple[str, ...]) -> float:
        """Minutes of work until all of these parts are off: the union of what has to be opened. Raises NoSuchWay."""
        layout, stacked = self._question.machine.layout, bool(self._question.machine.stacked)
        chosen = {
            min((p for p in self._paths() if code in p.parts), key=lambda p: (p.minutes[0], p.id)) for code in parts
        }
        plan, _ = plan_below_a_dryer(
            sorted(chosen, key=lambda p: p.id),
            setting=self._shop.setting(layout, stacked=stacked),
            repair=self._repair,
            factor=1.0,
        )
        return sum(p.minutes for p in plan.off) * self._shop.factor

    def _paths(self) -> list[Path]:
        return [p for p in self._repair.paths.values() if self._question.machine.layout in p.layouts]

    def _plain(
        self,
        option: Option,
        *,
        name: str,
        brings: Money,
        lines: tuple[Line, ...],
        grade: str,
        why: str = "",
    ) -> Option:
        whole = total((line.amount for line in lines), currency=self._shop.currency)
        return replace(
            option,
            name=name,
            lines=lines,
            total=whole,
            why=why,
            grade=grade,
            brings=brings,
            leaves=brings - whole.middle - self._taken.paid,
        )

    def _no_way(self, scrap: Option) -> tuple[Line, ...]:
        return tuple(line for line in scrap.lines if line.kind not in ("travel", "tax"))

    def _graded(self, state: State) -> Graded:
        return grade_of(state, rules=self._rules, life_years=self._shop.life_years)

    def _reached(self, *, workaround: bool) -> str:
        return self._graded(mended(self._taken.state, rules=self._rules, workaround=workaround)).code

    def _fetches(self, grade: str) -> Money:
        return self._shop.money(self._shop.resale) * share(self._rules.grades[grade].share)

    def _ceiling(self, grade: str) -> Money:
        return self._fetches(grade) - self._shop.money(self._shop.margin) - self._taken.paid


def _rank(option: Option) -> tuple[bool, int, str]:
    left = option.leaves.minor if option.leaves is not None else 0
    return not option.allowed, -left, option.code


def _says(best: Option, ranked: Sequence[Option], summed: StockSum) -> str:
    if best.kind in ("donor", "scrap"):
        within = any(o.paths and o.allowed for o in ranked)
        why = "it leaves more than any repair" if within else "no repair stays below what may be put into it"
        return f"{best.name}: {why}."
    if best.kind == "as_is":
        return f"{best.name}: nothing that could be done to it brings more than it costs."
    return f"{best.name}, then sell it as grade {summed.grade_then}: it leaves most, and stays below the ceiling."
