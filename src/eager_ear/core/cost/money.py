"""Money in whole smallest units of one currency. Never a float: what is shared out or multiplied is rounded once.

Digits behind the point follow ISO 4217; half units are rounded to the even neighbour, so that sums do not drift.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from decimal import ROUND_HALF_EVEN, Decimal
from fractions import Fraction
from typing import ClassVar

from eager_ear.core.errors import BadField, InputError

# Currencies whose smallest unit is not a hundredth.
_WHOLE = ("CLP", "ISK", "JPY", "KRW", "PYG", "UGX", "VND", "XAF", "XOF", "XPF")
_THOUSANDTHS = ("BHD", "IQD", "JOD", "KWD", "LYD", "OMR", "TND")
USUAL_DIGITS = 2


def digits_of(currency: str) -> int:
    """Digits behind the point. Raises BadField for what is no currency code.

    >>> digits_of("EUR"), digits_of("JPY")
    (2, 0)
    """
    if len(currency) != 3 or not currency.isascii() or not currency.isupper() or not currency.isalpha():
        raise BadField(field="currency", reason=f"“{currency[:20]}” is not three capital letters, such as EUR.")
    if currency in _WHOLE:
        return 0
    return 3 if currency in _THOUSANDTHS else USUAL_DIGITS


@dataclass(eq=False, kw_only=True)
class CurrenciesDiffer(InputError):
    """Two amounts of different currencies meet in one sum."""

    code: ClassVar[str] = "currencies_differ"
    one: str
    other: str

    def sentence(self) -> str:
        return f"An amount in {self.other} stands beside others in {self.one}: say its price in {self.one}."


@dataclass(frozen=True, kw_only=True, order=True)
class Money:
    """An amount in the currency's smallest unit.

    >>> Money.of(12.5, "EUR") * Fraction(1, 3)
    Money(minor=417, currency='EUR')
    """

    minor: int
    currency: str

    @classmethod
    def of(cls, units: float | Decimal, currency: str) -> Money:
        """From whole units, such as 12.5 for twelve and a half."""
        scaled = Decimal(str(units)).scaleb(digits_of(currency))
        return cls(minor=int(scaled.quantize(Decimal(1), rounding=ROUND_HALF_EVEN)), currency=currency)

    @property
    def in_units(self) -> str:
        """As digits in whole units.

        >>> Money(minor=1250, currency="EUR").in_units, Money(minor=1250, currency="JPY").in_units
        ('12.50', '1250')
        """
        digits = digits_of(self.currency)
        return f"{self.minor / 10**digits:.{digits}f}"

    @classmethod
    def none(cls, currency: str) -> Money:
        return cls(minor=0, currency=currency)

    def __add__(self, other: Money) -> Money:
        self._require_same(other)
        return Money(minor=self.minor + other.minor, currency=self.currency)

    def __sub__(self, other: Money) -> Money:
        self._require_same(other)
        return Money(minor=self.minor - other.minor, currency=self.currency)

    def __mul__(self, share: Fraction | int) -> Money:
        return Money(minor=round(self.minor * Fraction(share)), currency=self.currency)

    def _require_same(self, other: Money) -> None:
        if other.currency != self.currency:
            raise CurrenciesDiffer(one=self.currency, other=other.currency)


@dataclass(frozen=True, kw_only=True)
class MoneyRange:
    """From the least to the most that it may be."""

    low: Money
    high: Money

    @classmethod
    def sure(cls, amount: Money) -> MoneyRange:
        return cls(low=amount, high=amount)

    @classmethod
    def none(cls, currency: str) -> MoneyRange:
        return cls.sure(Money.none(currency))

    def __add__(self, other: MoneyRange) -> MoneyRange:
        return MoneyRange(low=self.low + other.low, high=self.high + other.high)

    def __mul__(self, share: Fraction | int) -> MoneyRange:
        return MoneyRange(low=self.low * share, high=self.high * share)

    @property
    def middle(self) -> Money:
        return (self.low + self.high) * Fraction(1, 2)


def total(ranges: Iterable[MoneyRange], *, currency: str) -> MoneyRange:
    """The sum of ranges: least with least, most with most."""
    out = MoneyRange.none(currency)
    for one in ranges:
        out = out + one
    return out


def share(value: float) -> Fraction:
    """A factor as a fraction, exact to a millionth, so that multiplying by it is the same everywhere."""
    return Fraction(round(value * 1_000_000), 1_000_000)
