"""Knowledge as a shop's own record has sharpened it."""

from __future__ import annotations

from collections.abc import Iterable

from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.diagnosis.counts import with_columns, with_odds
from eager_ear.core.record.outcomes import Outcome, counts_of

# So many visits of a layout the built-in odds are worth, and so many readings a built-in column. Odds of twenty faults
# counted on n visits are off by some 10/n nats by chance alone (Clarke & Barron, IEEE Trans. Inf. Theory 36(3), 1990);
# kept with the weight w of n + w, a shop that is like all others loses at most 10·n/(n + w)², which stays at 0.01
# for w = 250. Columns hold for machines everywhere: they give way more slowly still.
ODDS_WORTH = 250.0
COLUMN_WORTH = 300.0


def taught(knowledge: Knowledge, outcomes: Iterable[Outcome]) -> Knowledge:
    """The built-in knowledge, sharpened; the same where nothing was counted."""
    counts = counts_of(outcomes)
    if not counts.found:
        return knowledge
    sharpened = with_columns(knowledge, counts, weight=COLUMN_WORTH)
    return with_odds(sharpened, counts, weight=ODDS_WORTH)
