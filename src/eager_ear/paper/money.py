"""Amounts on paper."""

from __future__ import annotations

from eager_ear.core.cost import Money, MoneyRange, digits_of


def amount(money: Money) -> str:
    """An amount with its currency, groups of three apart.

    >>> amount(Money(minor=123456, currency="EUR"))
    '1\\u202f234.56 EUR'
    """
    digits = digits_of(money.currency)
    whole = f"{money.minor / 10**digits:,.{digits}f}".replace(",", "\u202f")
    return f"{whole} {money.currency}"


def amounts(money: MoneyRange) -> str:
    """From least to most, one amount where both are the same."""
    if money.low == money.high:
        return amount(money.low)
    return f"{amount(money.low).rsplit(' ', 1)[0]} to {amount(money.high)}"
