"""Odds and columns sharpened by what was counted.

A number in the knowledge files is worth so many cases seen before: it is the mean of a Dirichlet distribution, and what
is counted is added to it (Gelman et al., Bayesian Data Analysis, 3rd ed., section 3.4). What is counted of an ordered
finding on a faulty machine is the larger of the fault's effect and of what the machine would have shown anyway, so the
fault's own column is what turns the calm one into what was counted.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

import numpy as np

from eager_ear.core.diagnosis.knowledge import Finding, Knowledge
from eager_ear.core.diagnosis.posterior import fault_sets, hypotheses_for
from eager_ear.core.units import FloatArray

# No count makes anything rarer than this, at any level and for any fault of a layout.
LEAST_CHANCE = 0.002
# A fault that the tables do not tie to a finding is tied to it where counts say so: by this log likelihood ratio
# (a chance of about one in a thousand, Wilks' theorem with two degrees of freedom) in so many cases.
TIES_BY, TIES_FROM = 7.0, 12.0
FITTING_ROUNDS = 25


@dataclass(frozen=True, kw_only=True)
class Counts:
    """What was counted; shares of cases count as such.

    visits : by layout, how many; unsure : of those, of how many nobody knows what was wrong
    found : by layout and fault ("none" among them), how many of those machines had it
    levels : by finding and fault, how many readings fell on each level where that was the only fault [shape=(levels,)]
    """

    visits: Mapping[str, float] = field(default_factory=dict)
    unsure: Mapping[str, float] = field(default_factory=dict)
    found: Mapping[str, Mapping[str, float]] = field(default_factory=dict)
    levels: Mapping[str, Mapping[str, FloatArray]] = field(default_factory=dict)


def with_columns(
    knowledge: Knowledge, counts: Counts, *, weight: float, doubt: float = 0.0, ties: bool = False
) -> Knowledge:
    """Knowledge with the columns of all counted findings sharpened.

    Parameters
    ----------
    weight : so many cases each built-in column is worth
    doubt : share of the built-in column that stays whatever was counted, 0 to 1
    ties : faults that the tables do not name at a finding are added where the counts leave no doubt
    """
    findings = dict(knowledge.findings)
    for code, seen in counts.levels.items():
        if code in findings:
            findings[code] = _sharpened(findings[code], seen, weight=weight, doubt=doubt, ties=ties)
    return replace(knowledge, findings=findings)


def with_shares(knowledge: Knowledge, counts: Counts) -> Knowledge:
    """Knowledge that tells how often a recorded spin shows each counted finding.

    By readings of it against readings of the one that is shown most, each a machine of the layouts that it is asked of.
    """
    read = {
        code: sum(float(levels.sum()) for levels in by_fault.values()) / len(knowledge.findings[code].layouts)
        for code, by_fault in counts.levels.items()
        if code in knowledge.findings
    }
    most = max(read.values(), default=1.0)
    findings = {code: replace(knowledge.findings[code], shown=min(1.0, each / most)) for code, each in read.items()}
    return replace(knowledge, findings={**knowledge.findings, **findings})


def with_odds(knowledge: Knowledge, counts: Counts, *, weight: float) -> Knowledge:
    """Knowledge whose odds of each layout are sharpened by what was found there.

    Parameters
    ----------
    weight : so many visits the built-in odds of a layout are worth
    """
    odds = dict(knowledge.odds)
    for layout, found in counts.found.items():
        hypotheses = hypotheses_for(layout, knowledge=knowledge)
        worth = weight + counts.unsure.get(layout, 0.0)
        total = weight + counts.visits[layout]
        has = {
            fault: (worth * float(hypotheses.prior[inside.astype(bool)].sum()) + found.get(fault, 0.0)) / total
            for fault, inside in hypotheses.members.items()
        }
        floored = {fault: max(share, LEAST_CHANCE) for fault, share in has.items()}
        odds[layout] = _odds_behind(floored, knowledge)
    return replace(knowledge, odds=odds)


def _odds_behind(has: Mapping[str, float], knowledge: Knowledge) -> dict[str, float]:
    """Odds of which hypotheses are made, from how often machines have each fault, alone or with another.

    Scaled in turns until the sets made of them have the faults as often (iterative proportional fitting: Deming &
    Stephan, Ann. Math. Statist. 11(4), 1940).
    """
    odds = dict(has)
    made = fault_sets(tuple(odds), knowledge.chains)
    for _ in range(FITTING_ROUNDS):
        prior = made.prior(odds)
        for fault, inside in made.members.items():
            odds[fault] *= has[fault] / float(prior[inside].sum())
    return odds


def _sharpened(finding: Finding, seen: Mapping[str, FloatArray], *, weight: float, doubt: float, ties: bool) -> Finding:
    calm_seen = sum((n for fault, n in seen.items() if fault not in finding.given), np.zeros(finding.calm.size))
    calm = _posterior(finding.calm, calm_seen, weight=weight, doubt=doubt)
    given = {}
    for fault, column in finding.given.items():
        usual = _shown(finding, finding.calm, column)
        counted = _posterior(usual, seen.get(fault, np.zeros(calm.size)), weight=weight, doubt=doubt)
        given[fault] = _own(finding, calm, counted)
    if ties:
        for fault, n in seen.items():
            if fault not in given and fault != "none" and _differs(n, calm_seen - n):
                given[fault] = _own(finding, calm, _posterior(calm, n, weight=weight, doubt=doubt))
    return replace(finding, calm=calm, given=given)


def _posterior(column: FloatArray, seen: FloatArray, *, weight: float, doubt: float) -> FloatArray:
    counted = (weight * column + seen) / (weight + float(seen.sum()))
    mixed = np.maximum(doubt * column + (1.0 - doubt) * counted, LEAST_CHANCE)
    return np.asarray(mixed / mixed.sum())


def _shown(finding: Finding, calm: FloatArray, given: FloatArray) -> FloatArray:
    """What a machine with that fault shows: the larger of two, or the fault's own levels where they have no order."""
    return np.diff(np.cumsum(calm) * np.cumsum(given), prepend=0.0) if finding.ordered else given


def _own(finding: Finding, calm: FloatArray, shown: FloatArray) -> FloatArray:
    """The fault's own column, of which with the calm one `shown` is the larger."""
    if not finding.ordered:
        return shown
    below = np.cumsum(shown) / np.maximum(np.cumsum(calm), 1e-12)
    below = np.minimum.accumulate(np.minimum(below, 1.0)[::-1])[::-1]
    below[-1] = 1.0
    column = np.maximum(np.diff(below, prepend=0.0), 1e-4)
    return np.asarray(column / column.sum())


def _differs(one: FloatArray, others: FloatArray) -> bool:
    """Log likelihood ratio of two multinomials against one."""
    if one.sum() < TIES_FROM or others.sum() < TIES_FROM:
        return False

    def log_likelihood(n: FloatArray, chances: FloatArray) -> float:
        return float(np.sum(n * np.log(np.maximum(chances, 1e-9))))

    pooled = (one + others) / (one + others).sum()
    apart = log_likelihood(one, one / one.sum()) + log_likelihood(others, others / others.sum())
    return apart - log_likelihood(one, pooled) - log_likelihood(others, pooled) > TIES_BY
