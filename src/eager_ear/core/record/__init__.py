"""The shop's own record: what was called and what was found, what that teaches, and how good the ear is."""

from eager_ear.core.record.outcomes import Outcome, counts_of, found_in, opened_first
from eager_ear.core.record.standing import Of, Part, Standing, WrongCost, cost_of_wrong, share_between, standing_of
from eager_ear.core.record.teaching import COLUMN_WORTH, ODDS_WORTH, taught

__all__ = [
    "COLUMN_WORTH",
    "ODDS_WORTH",
    "Outcome",
    "Part",
    "Standing",
    "counts_of",
    "found_in",
    "opened_first",
    "share_between",
    "standing_of",
    "Of",
    "WrongCost",
    "cost_of_wrong",
    "taught",
]
