"""Reliability of the calls: of a hundred made at 80 %, 80 should be right.

The odds of a call begin from how often each fault is met on house calls, the draws have every fault of a layout equally
often. So each draw counts by how much oftener its machine is met than drawn (importance sampling: Owen, Monte Carlo
theory, methods and examples, chapter 9); what such a weighted sample is worth is told beside it (Kish, Survey Sampling,
section 11.7).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from math import comb

import numpy as np

from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.diagnosis.posterior import hypotheses_for
from eager_ear.core.simulate import faults_of_layout
from eager_ear.core.units import FloatArray
from eager_ear.knowledge import load_knowledge
from eager_ear.verify.draws import HEALTHY_SHARE, PAIR_SHARE
from eager_ear.verify.score import CaseScore

# Of what the call says of the fault that it names first.
BORDERS = (0.0, 0.2, 0.4, 0.6, 0.8, 0.9, 1.01)
HEAD = """
## Reliability of the calls

Of a hundred calls made at 80 %, 80 should be right: the fault named first is one that is there. The odds begin from how
often each fault is met on house calls; these draws have every fault of a layout equally often, faint ones among them,
and no hand checks. The last columns count each draw by how much oftener its faults are met than drawn: that is what
the calls are to bear, as far as the odds that they begin from are a shop's. How they do there is counted from its own
outcomes.

| said of the first | in the mean | right | in the mean, as met on house calls | right, as met | worth |
|---|---|---|---|---|---|"""


@dataclass(frozen=True, kw_only=True)
class CallsAt:
    """Calls that said about as much of the fault that they named first.

    said, right : mean of what they said, and part of them that were right, by every draw alike
    said_met, right_met : the same, by how often their machines are met
    worth : so many equal draws would tell as much as the weighted ones
    """

    low: float
    high: float
    count: int
    said: float
    right: float
    said_met: float
    right_met: float
    worth: float


def calls_by_what_they_said(mixed: Sequence[CaseScore], *, knowledge: Knowledge) -> list[CallsAt]:
    """Calls in steps of what they said; steps without any are left out."""
    said = np.array([s.first_probability for s in mixed])
    right = np.array([s.first_named in s.group.split("+") for s in mixed])
    weight = house_call_weights(mixed, knowledge=knowledge)
    out: list[CallsAt] = []
    for low, high in pairwise(BORDERS):
        here = (said >= low) & (said < high)
        if not here.any():
            continue
        out.append(
            CallsAt(
                low=low,
                high=min(high, 1.0),
                count=int(here.sum()),
                said=float(said[here].mean()),
                right=float(right[here].mean()),
                said_met=float(np.average(said[here], weights=weight[here])),
                right_met=float(np.average(right[here], weights=weight[here])),
                worth=float(weight[here].sum() ** 2 / np.sum(weight[here] ** 2)),
            )
        )
    return out


def house_call_weights(mixed: Sequence[CaseScore], *, knowledge: Knowledge) -> FloatArray:
    """How much oftener a machine with the faults of each draw is met than drawn [shape=(draws,)]."""
    met = {layout: _met_shares(layout, knowledge) for layout in {s.layout for s in mixed}}
    faults = [frozenset(s.group.split("+")) - {"none"} for s in mixed]
    return np.array(
        [
            met[s.layout][f] / drawn_share(s.layout, len(f), knowledge=knowledge)
            for s, f in zip(mixed, faults, strict=True)
        ]
    )


def drawn_share(layout: str, faults: int, *, knowledge: Knowledge) -> float:
    """Chance that a mixed draw of this layout has these very faults, so many of them."""
    possible = len(faults_of_layout(layout, knowledge=knowledge))
    shares = (HEALTHY_SHARE, (1.0 - HEALTHY_SHARE - PAIR_SHARE) / possible, PAIR_SHARE / comb(possible, 2))
    return shares[faults]


def _met_shares(layout: str, knowledge: Knowledge) -> dict[frozenset[str], float]:
    hypotheses = hypotheses_for(layout, knowledge=knowledge)
    return {faults: float(p) for faults, p in zip(hypotheses.sets, hypotheses.prior, strict=True)}


def reliability_table(mixed: Sequence[CaseScore]) -> str:
    """The section of the page, as Markdown."""
    lines = [HEAD]
    for calls in calls_by_what_they_said(mixed, knowledge=load_knowledge()):
        lines.append(
            f"| {100 * calls.low:.0f} to {100 * calls.high:.0f} % | {100 * calls.said:.0f} % "
            f"| {round(calls.right * calls.count)} of {calls.count} ({100 * calls.right:.0f} %) "
            f"| {100 * calls.said_met:.0f} % | {100 * calls.right_met:.0f} % | {calls.worth:.0f} draws |"
        )
    return "\n".join(lines)
