"""Cost: money that adds up, what a shop has settled, and every option with its whole sum."""

from eager_ear.core.cost.also import Also, also
from eager_ear.core.cost.money import CurrenciesDiffer, Money, MoneyRange, digits_of, share, total
from eager_ear.core.cost.offer import LEAST_CHANCE, leading_faults, make_offer
from eager_ear.core.cost.options import Between, Line, Offer, Option, Price, Question, StockSum
from eager_ear.core.cost.share import ShareRule, share_limit, share_rule
from eager_ear.core.cost.shop import WHY, Shop, read_shop
from eager_ear.core.cost.stakes import Stakes, stakes_of
from eager_ear.core.cost.written import offer_dict, offer_text

__all__ = [
    "Also",
    "Between",
    "CurrenciesDiffer",
    "LEAST_CHANCE",
    "Line",
    "Money",
    "MoneyRange",
    "Offer",
    "Option",
    "Price",
    "Question",
    "ShareRule",
    "Shop",
    "Stakes",
    "StockSum",
    "WHY",
    "also",
    "digits_of",
    "leading_faults",
    "make_offer",
    "offer_dict",
    "offer_text",
    "read_shop",
    "share",
    "share_limit",
    "share_rule",
    "stakes_of",
    "total",
]
