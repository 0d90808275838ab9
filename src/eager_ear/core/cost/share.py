"""Whether a repair is worth it: the share rule, with age and expected life.

limit = share x (1 - 0.5 x age / expected life), never below the least share (judgement; the shop sets both).
"""

from __future__ import annotations

from dataclasses import dataclass

from eager_ear.core.cost.money import Money

# Where nobody knows the age, the machine is taken to be half through its life.
UNKNOWN_AGE_SHARE = 0.5


@dataclass(frozen=True, kw_only=True)
class ShareRule:
    """The limit for one machine. limit : share of a full replacement above which a repair is not proposed."""

    age_years: float
    age_known: bool
    life_years: float
    share: float
    least_share: float
    limit: float
    replacement: Money

    def share_of(self, amount: Money) -> float:
        """What share of a full replacement an amount is."""
        return amount.minor / self.replacement.minor if self.replacement.minor else 1.0

    def allows(self, amount: Money) -> bool:
        return self.share_of(amount) <= self.limit


def share_limit(*, age_years: float, life_years: float, share: float, least_share: float) -> float:
    """Largest share of a replacement at which a repair is still proposed.

    >>> round(share_limit(age_years=5.0, life_years=10.0, share=0.5, least_share=0.2), 3)
    0.375
    >>> share_limit(age_years=30.0, life_years=10.0, share=0.5, least_share=0.2)
    0.2
    """
    return max(least_share, share * (1.0 - 0.5 * age_years / life_years))


def share_rule(
    *, age_years: float | None, life_years: float, share: float, least_share: float, replacement: Money
) -> ShareRule:
    """The rule for a machine of that age."""
    age = age_years if age_years is not None else UNKNOWN_AGE_SHARE * life_years
    return ShareRule(
        age_years=age,
        age_known=age_years is not None,
        life_years=life_years,
        share=share,
        least_share=least_share,
        limit=share_limit(age_years=age, life_years=life_years, share=share, least_share=least_share),
        replacement=replacement,
    )
