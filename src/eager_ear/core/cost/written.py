"""An offer written down: as plain JSON values for other tools, and as text."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from eager_ear.core.cost.money import MoneyRange
from eager_ear.core.cost.options import Offer, Option


def offer_dict(offer: Offer) -> dict[str, Any]:
    """The offer as JSON values; amounts in the currency's smallest unit."""
    return asdict(offer)


def offer_text(offer: Offer) -> str:
    """The options as lines to read, the one to propose first."""
    lines = [offer.says, ""]
    for option in offer.options:
        mark = "*" if option.code == offer.proposed else " "
        lines.append(f"{mark} {_amounts(option.total):>22}  {option.name}")
        lines.append(f"  {'':22}  {_facts(option)}")
        lines += [f"  {_amounts(line.amount):>22}    {line.text}" for line in option.lines]
    if offer.missing:
        lines += ["", f"Typical prices, nobody asked yet: {', '.join(offer.missing)}."]
    return "\n".join(lines)


def _facts(option: Option) -> str:
    facts = [f"buys {option.years.low:g} to {option.years.high:g} years"] if option.years.high > 0 else []
    if option.a_year is not None:
        facts.append(f"{option.a_year.in_units} a year")
    if option.minutes.high > 0:
        facts.append(f"{option.minutes.low:.0f} to {option.minutes.high:.0f} min")
    if option.extra.minor:
        facts.append(f"{option.extra.in_units} expected on top")
    if not option.allowed:
        facts.append("above the limit")
    return ", ".join(facts)


def _amounts(amounts: MoneyRange) -> str:
    low, high = amounts.low.in_units, amounts.high.in_units
    return f"{low} {amounts.low.currency}" if low == high else f"{low} to {high} {amounts.low.currency}"
