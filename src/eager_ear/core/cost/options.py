"""What an offer holds: prices, lines, options, and the question that it answers."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date
from typing import Literal

from eager_ear.core.cost.money import Money, MoneyRange
from eager_ear.core.cost.share import ShareRule
from eager_ear.core.machine import Machine

Repaired = Literal["full", "other_school", "cheaper", "only_failed", "workaround", "watch", "advice"]
Kind = Repaired | Literal["replace", "replace_pair", "scrap", "as_is", "donor"]
LineKind = Literal[
    "part", "consumables", "labour", "helper", "travel", "unstack", "machine", "delivery", "removal", "tax"
]


@dataclass(frozen=True, kw_only=True)
class Price:
    """What a part costs. source : who said so; None for the typical range of the trade."""

    amount: MoneyRange
    source: str | None
    available_on: date | None = None
    returnable: bool = False


@dataclass(frozen=True, kw_only=True)
class Between:
    """From the least to the most of something that is no money."""

    low: float
    high: float

    @property
    def middle(self) -> float:
        return (self.low + self.high) / 2.0


@dataclass(frozen=True, kw_only=True)
class Line:
    """One line of an offer. source : who said the price; None where nothing was asked; why : the reason it stands."""

    kind: LineKind
    code: str
    text: str
    amount: MoneyRange
    source: str | None = None
    typical: bool = False
    why: str = ""


@dataclass(frozen=True, kw_only=True)
class Working:
    """How a number of an option was worked out, every term named. of : which number"""

    of: str
    how: str


@dataclass(frozen=True, kw_only=True)
class Option:
    """One thing that can be done. extra : expected on top; a_year : all of it over the years it buys, None without any.

    wrong, callback : chances; share : of a full replacement, None where that is not the question
    prepared : lines of parts that are renewed if need be; each counts once somebody adds it
    grade, brings, leaves : of a machine without a customer, after this was done with it
    """

    code: str
    kind: Kind
    name: str
    paths: tuple[str, ...]
    faults: tuple[str, ...]
    lines: tuple[Line, ...]
    total: MoneyRange
    extra: Money
    minutes: Between
    visits: int
    days_without: int
    years: Between
    wrong: float
    callback: float
    a_year: Money | None
    share: float | None
    allowed: bool
    why: str
    not_worth: str
    look_first: str
    prepared: tuple[Line, ...] = ()
    workings: tuple[Working, ...] = ()
    grade: str = ""
    brings: Money | None = None
    leaves: Money | None = None


@dataclass(frozen=True, kw_only=True)
class StockSum:
    """The most that may be put into a machine without a customer: what it fetches, less the margin, less what was paid.

    grade_now, why_now : as it stands; grade_then : after what is proposed
    """

    grade_now: str
    why_now: tuple[str, ...]
    grade_then: str
    best_price: Money
    fetches: Money
    margin: Money
    paid: Money
    ceiling: Money


@dataclass(frozen=True, kw_only=True)
class Offer:
    """Options, the one that is proposed first, and the sentence that says why.

    missing : parts without a real price; stock : where the machine has no customer
    """

    options: tuple[Option, ...]
    rule: ShareRule
    proposed: str
    says: str
    missing: tuple[str, ...]
    stock: StockSum | None = None


@dataclass(frozen=True, kw_only=True)
class Question:
    """What an offer is made for. chances : of each fault, as the call says; day : on which it is made.

    condemned : parts that were seen to be spent, with what was seen; added : parts that go on the order besides
    """

    machine: Machine
    faults: tuple[str, ...]
    chances: Mapping[str, float]
    stage: str | None
    day: date
    condemned: Mapping[str, str] = field(default_factory=dict)
    added: tuple[str, ...] = ()
