"""A second fault found half-way: what mending it too would add to what was agreed.

The labour is that of the union of steps, so that what is open already is not paid for twice.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from eager_ear.core.cost.counting import Counter
from eager_ear.core.cost.money import MoneyRange
from eager_ear.core.cost.offer import rule_of, ways_of
from eager_ear.core.cost.options import Between, Price, Question
from eager_ear.core.cost.shop import Shop
from eager_ear.core.repair import Path, Repair


@dataclass(frozen=True, kw_only=True)
class Also:
    """Paths to be agreed to besides, and what they add. minutes : of work, from the least to the most"""

    paths: tuple[str, ...]
    names: tuple[str, ...]
    faults: tuple[str, ...]
    more: MoneyRange
    minutes: Between


def also(
    agreed: tuple[Path, ...], question: Question, *, shop: Shop, prices: Mapping[str, Price], repair: Repair
) -> Also | None:
    """What the faults in question add to the paths agreed to; None where nothing mends them."""
    ways = ways_of(question, shop=shop, repair=repair)
    extra = tuple(dict.fromkeys(paths[0] for paths in ways.values() if paths[0] not in agreed))
    if not extra:
        return None
    counter = Counter(question, shop=shop, prices=prices, repair=repair)
    rule = rule_of(question, shop=shop, counter=counter)
    now, then = counter.option("full", agreed, rule), counter.option("full", (*agreed, *extra), rule)
    return Also(
        paths=tuple(path.id for path in extra),
        names=tuple(path.name for path in extra),
        faults=tuple(fault for fault, paths in ways.items() if paths[0] in extra),
        more=MoneyRange(low=then.total.low - now.total.low, high=then.total.high - now.total.high),
        minutes=Between(low=then.minutes.low - now.minutes.low, high=then.minutes.high - now.minutes.high),
    )
