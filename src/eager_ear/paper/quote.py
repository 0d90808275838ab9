"""The quote: what is wrong and how sure that is, what can be done, what it costs, and what the customer said."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any

from eager_ear.core.cost import Offer, Option
from eager_ear.core.units import percent
from eager_ear.paper.money import amount, amounts
from eager_ear.paper.sheet import Sheet, Size

ANSWERS = {"yes": "agreed to", "no": "declined", "wait": "waits, to be listened to again", "scrap": "scraps it"}
MOST_SUSPECTS = 4


@dataclass(frozen=True, kw_only=True)
class QuoteFacts:
    """What stands above the sums. suspects : short names with their chances, the likeliest first"""

    place: str
    machine: str
    headline: str
    because: str
    suspects: Sequence[tuple[str, float]]
    made_on: date
    valid_until: date


def quote_pdf(facts: QuoteFacts, offer: Offer, *, decided: Mapping[str, Any] | None, size: Size) -> bytes:
    """The quote as a PDF, readable on a phone and on paper."""
    sheet = Sheet(size=size, title=f"Quote, {facts.place}")
    sheet.words(f"Quote · {facts.made_on:%d %B %Y} · valid until {facts.valid_until:%d %B %Y}", soft=True)
    sheet.big(facts.place or "A washer")
    sheet.words(facts.machine, soft=True)
    sheet.heading(facts.headline)
    sheet.words(facts.because)
    sheet.ln(2.0)
    sheet.bars([(name, chance, percent(chance)) for name, chance in facts.suspects[:MOST_SUSPECTS]])
    sheet.heading(offer.says)
    for option in offer.options:
        _option(sheet, option, proposed=option.code == offer.proposed)
    if offer.missing:
        sheet.ln(2.0)
        sheet.words("Parts marked * are at typical prices: they were not asked for yet.", soft=True, size=9.0)
    if decided is not None:
        sheet.heading(f"The customer {ANSWERS.get(str(decided['answer']), str(decided['answer']))}")
        if decided.get("signature"):
            sheet.signed(str(decided["signature"]), str(decided.get("who") or ""))
    return sheet.bytes()


def _option(sheet: Sheet, option: Option, *, proposed: bool) -> None:
    sheet.heading(f"{option.name}{'  (proposed)' if proposed else ''}")
    for line in option.lines:
        sheet.row(f"{line.text}{' *' if line.typical else ''}", amounts(line.amount))
    sheet.row("Together", amounts(option.total), bold=True)
    facts = []
    if option.years.high > 0:
        facts.append(f"buys {option.years.low:g} to {option.years.high:g} years")
    if option.a_year is not None:
        facts.append(f"{amount(option.a_year)} for each of them, all counted")
    if option.days_without:
        facts.append(f"{option.days_without} days without a washer")
    if option.wrong + option.callback > 0:
        facts.append(
            f"chance that it is something else {percent(option.wrong)}, to be called back {percent(option.callback)}"
        )
    if not option.allowed:
        facts.append("above the share of a new machine at which a repair is proposed")
    if facts:
        told = "; ".join(facts)
        sheet.words(f"{told[0].upper()}{told[1:]}.", soft=True, size=9.0)
