"""An option counted up: its lines from its plan, what is expected on top, and what a year of it costs.

Expected on top: chance of a wrong call x (parts that do not go back + the teardown), and chance of a call-back x
another visit. A year costs the total, that, and the days without a washer, over the years that the option buys.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import replace
from fractions import Fraction

from eager_ear.core.cost.money import Money, MoneyRange, share, total
from eager_ear.core.cost.options import Between, Kind, Line, LineKind, Option, Price, Question
from eager_ear.core.cost.share import ShareRule
from eager_ear.core.cost.shop import Shop
from eager_ear.core.cost.workings import Terms, of_a_new_machine, workings
from eager_ear.core.repair import Path, Repair
from eager_ear.core.strip import Plan, plan_below_a_dryer

# Somebody comes again for an hour.
CALLBACK_HOURS = 1
DELIVERY_DAYS = 4
# Sealant is tested with water the day after.
CURE_DAYS = 1


class Counter:
    """Counts up options for one question."""

    def __init__(self, question: Question, *, shop: Shop, prices: Mapping[str, Price], repair: Repair) -> None:
        self._question, self._shop, self._prices, self._repair = question, shop, prices, repair

    def option(self, kind: Kind, paths: tuple[Path, ...], rule: ShareRule) -> Option:
        """One set of paths, with its lines."""
        plan, unstack = self._plan(paths)
        besides = self._besides(plan)
        added = [code for code in besides if code in self._question.added]
        parts = tuple(self._part(code, paths) for code in (*plan.parts, *added) if code not in self._reused())
        cured = any(p.step is not None and p.step.cure and not p.optional for p in plan.fit)
        days = max([self._days(code) for code in (*plan.parts, *added)] + [CURE_DAYS if cured else 0])
        visits = 2 if days > self._shop.second_visit_days else 1
        hours = self._labour(plan)
        lines = [*parts, *self._consumables(plan), *hours, self._travel(visits)]
        if unstack:
            lines.append(self._line("unstack", "unstack", "Dryer down and up again", self._shop.unstack))
        lines = self._with_tax(lines)
        whole = total((line.amount for line in lines), currency=self._shop.currency)
        wrong = 1.0 - min(self._question.chances.get(f, 1.0) for f in self._question.faults)
        callback = 1.0 - math.prod(1.0 - p.callback for p in paths)
        wasted = total(
            (line.amount for line in parts if not self._returnable(line.code)), currency=self._shop.currency
        ).middle
        if paths[0].kind in ("watch", "advice"):
            wrong = 0.0
        teardown = total((line.amount for line in hours), currency=self._shop.currency).middle
        extra = (wasted + teardown) * share(wrong) + self._another_visit() * share(callback)
        years = Between(low=min(p.years[0] for p in paths), high=min(p.years[1] for p in paths))
        part = rule.share_of(whole.middle)
        waits = days if visits > 1 else 0
        a_year = self._a_year(whole, extra, waits, years)
        terms = Terms(
            plan=plan,
            wrong=wrong,
            callback=callback,
            wasted=wasted,
            teardown=teardown,
            again=self._another_visit(),
            extra=extra,
            middle=whole.middle,
            full=rule.replacement,
            years=years,
            days=waits,
            a_year=a_year,
        )
        return Option(
            code="+".join(p.id for p in paths),
            kind=kind,
            name=" + ".join(p.name for p in paths),
            paths=tuple(p.id for p in paths),
            faults=self._question.faults,
            lines=tuple(lines),
            total=whole,
            extra=extra,
            minutes=Between(low=plan.minutes[0], high=plan.minutes[1]),
            visits=visits,
            days_without=waits,
            years=years,
            wrong=round(wrong, 4),
            callback=round(callback, 4),
            a_year=a_year,
            share=part,
            allowed=part <= rule.limit,
            why=" ".join(dict.fromkeys(p.why for p in paths)),
            not_worth=" ".join(dict.fromkeys(p.not_worth for p in paths if p.not_worth)),
            look_first=" ".join(dict.fromkeys(p.look_first for p in paths if p.look_first)),
            prepared=tuple(replace(self._part(code, paths), why=why) for code, why in besides.items()),
            workings=workings(terms, shop=self._shop),
        )

    def without_repair(self) -> list[Option]:
        """Replacing it, the pair where it stands in a column, and scrapping."""
        out = [self._replacement("replace", "A new machine", count=1)]
        if self._question.machine.stacked:
            out.append(self._replacement("replace_pair", "Both machines of the column", count=2))
        removal = self._line("removal", "removal", "Taken away, recycled", self._shop.removal)
        lines = tuple(self._with_tax([removal, self._travel(1)]))
        out.append(
            self._plain("scrap", "Scrap it, or take it back for parts", lines, years=Between(low=0.0, high=0.0), days=0)
        )
        return out

    def full_replacement(self) -> Money:
        """What replacing the machine costs in full."""
        return total((line.amount for line in self._replacement_lines(count=1)), currency=self._shop.currency).middle

    def _replacement_lines(self, *, count: int) -> list[Line]:
        shop = self._shop
        lines = [
            self._line(
                "machine", "replacement", "New machine" if count == 1 else "Two new machines", shop.replacement * count
            ),
            self._line("delivery", "delivery", "Delivery and connection", shop.delivery * count),
            self._line("removal", "removal", "Old machine taken away", shop.removal * count),
        ]
        if self._question.machine.stacked and count == 1:
            lines.append(self._line("unstack", "unstack", "Dryer down and up again", shop.unstack))
        return self._with_tax(lines)

    def _replacement(self, kind: Kind, name: str, *, count: int) -> Option:
        life = self._shop.life_years
        lines = tuple(self._replacement_lines(count=count))
        return self._plain(kind, name, lines, years=Between(low=0.7 * life, high=1.3 * life), days=DELIVERY_DAYS)

    def _plain(self, kind: Kind, name: str, lines: tuple[Line, ...], *, years: Between, days: int) -> Option:
        whole = total((line.amount for line in lines), currency=self._shop.currency)
        nothing = Money.none(self._shop.currency)
        a_year = self._a_year(whole, nothing, days, years)
        return Option(
            code=kind,
            kind=kind,
            name=name,
            paths=(),
            faults=(),
            lines=lines,
            total=whole,
            extra=nothing,
            minutes=Between(low=0.0, high=0.0),
            visits=1,
            days_without=days,
            years=years,
            wrong=0.0,
            callback=0.0,
            a_year=a_year,
            share=None,
            allowed=True,
            why="",
            not_worth="",
            look_first="",
            workings=()
            if a_year is None
            else of_a_new_machine(whole.middle, years=years, days=days, a_year=a_year, shop=self._shop),
        )

    def _plan(self, paths: Sequence[Path]) -> tuple[Plan, bool]:
        """The plan, and whether a dryer has to come off for it."""
        question, shop = self._question, self._shop
        setting = shop.setting(question.machine.layout, stacked=bool(question.machine.stacked))
        return plan_below_a_dryer(paths, setting=setting, repair=self._repair, factor=shop.factor)

    def _besides(self, plan: Plan) -> dict[str, str]:
        """Parts that may go on the order besides those of the plan, each with why."""
        layout = self._question.machine.layout
        there = {code for p in self._repair.paths.values() if layout in p.layouts for code in _named(p)}
        besides = dict.fromkeys(plan.optional_parts, "if it turns out to be needed")
        besides |= {code: seen for code, seen in self._question.condemned.items() if code in there}
        besides |= {code: "as you wish" for code in self._question.added if code in there and code not in besides}
        return {code: why for code, why in besides.items() if code not in plan.parts}

    def _reused(self) -> frozenset[str]:
        """What this shop uses again where it is supple and dry."""
        return frozenset({"tub_gasket"}) if self._shop.schools.get("gasket") == "old" else frozenset()

    def _part(self, code: str, paths: Sequence[Path]) -> Line:
        part = self._repair.parts[code]
        price = self._prices.get(code)
        why = next((p.why for p in paths if code in p.parts), "")
        if price is not None:
            return Line(kind="part", code=code, text=part.name, amount=price.amount, source=price.source, why=why)
        currency = self._shop.currency
        typical = MoneyRange(low=Money.of(part.typical[0], currency), high=Money.of(part.typical[1], currency))
        return Line(kind="part", code=code, text=part.name, amount=typical, typical=True, why=why)

    def _days(self, code: str) -> int:
        price = self._prices.get(code)
        if price is not None and price.available_on is not None:
            return max(0, (price.available_on - self._question.day).days)
        return self._repair.parts[code].days

    def _returnable(self, code: str) -> bool:
        price = self._prices.get(code)
        return price is not None and price.returnable

    def _consumables(self, plan: Plan) -> list[Line]:
        if not plan.consumables:
            return []
        currency = self._shop.currency
        used = [self._repair.consumables[code] for code in plan.consumables]
        amount = total(
            (MoneyRange(low=Money.of(c.typical[0], currency), high=Money.of(c.typical[1], currency)) for c in used),
            currency=currency,
        )
        text = ", ".join(c.name[:1].lower() + c.name[1:] for c in used)
        return [Line(kind="consumables", code="consumables", text=f"Used up: {text}", amount=amount)]

    def _labour(self, plan: Plan) -> list[Line]:
        hour = self._shop.money(self._shop.hour)
        low, high = (hour * (share(minutes) / 60) for minutes in plan.minutes)
        lines = [Line(kind="labour", code="labour", text="Work", amount=MoneyRange(low=low, high=high))]
        helped = sum(p.minutes for p in (*plan.off, *plan.fit, *plan.on) if p.step is not None and p.step.people > 1)
        if self._shop.people > 1 or plan.people > 1:
            # A helper comes for at least half an hour.
            minutes = max(30.0, helped)
            amount = self._shop.money(self._shop.helper_hour) * (share(minutes) / 60)
            lines.append(
                Line(kind="helper", code="helper", text="Helper for the lifts", amount=MoneyRange.sure(amount))
            )
        return lines

    def _travel(self, visits: int) -> Line:
        text = "Way there and back" if visits == 1 else "Way there and back, twice: parts come later"
        return self._line("travel", "travel", text, self._shop.visit * visits)

    def _line(self, kind: LineKind, code: str, text: str, minor: int) -> Line:
        return Line(kind=kind, code=code, text=text, amount=MoneyRange.sure(self._shop.money(minor)), source="shop")

    def _with_tax(self, lines: list[Line]) -> list[Line]:
        if self._shop.tax_percent <= 0:
            return lines
        whole = total((line.amount for line in lines), currency=self._shop.currency)
        tax = whole * (share(self._shop.tax_percent) / 100)
        return [*lines, Line(kind="tax", code="tax", text=f"Tax {self._shop.tax_percent:g} %", amount=tax)]

    def _another_visit(self) -> Money:
        return self._shop.money(self._shop.visit + CALLBACK_HOURS * self._shop.hour)

    def _a_year(self, whole: MoneyRange, extra: Money, days: int, years: Between) -> Money | None:
        if years.middle <= 0:
            return None
        spent = whole.middle + extra + self._shop.money(self._shop.day_without * days)
        return spent * (Fraction(1) / share(years.middle))


def _named(path: Path) -> tuple[str, ...]:
    return (*path.parts, *path.optional_parts)
