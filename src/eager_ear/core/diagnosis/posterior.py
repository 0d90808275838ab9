"""How likely each set of faults is, given all readings.

Hypotheses are "nothing", every single fault of the layout, every pair, and three faults where a chain is known: one
that brings about another that brings about a third, or one that brings about both others. A fault's prior odds come
from its weight in the knowledge file, a pair's from the product of both, a little less than independence would give,
since a visit is mostly for one trouble; along a chain, from the first cause's weight and the chances of its links. A
finding's level under a set is the larger of its members' and the calm one's effects (noisy maximum; Diez, UAI 1993,
pp. 99-105), or the mean of the members' columns for levels without order. Readings of one group may share what
disturbs them: n of them with correlation r count as n/(1+(n-1)r) independent ones (design effect; Kish 1965). The
knowledge tells r of each group, and why.
"""

from __future__ import annotations

import itertools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np

from eager_ear.core.diagnosis.evidence import Reading
from eager_ear.core.diagnosis.knowledge import Chain, Finding, Knowledge
from eager_ear.core.units import FloatArray, IntArray, odds_to_decibans

PAIR_DISCOUNT = 0.7
MOST_AT_ONCE = 3
# No reading may say more than this, whatever its table: instruments and hands have bad days.
LEAST_LIKELIHOOD = 0.004


@dataclass(frozen=True, kw_only=True)
class Hypotheses:
    """Sets of faults and their prior probabilities [shape=(n,)]; `members[f]` marks the sets that hold fault f."""

    sets: tuple[frozenset[str], ...]
    prior: FloatArray
    members: dict[str, FloatArray]

    def each(self, value: Mapping[str, FloatArray], otherwise: FloatArray) -> FloatArray:
        """Rows of the faults of every set, `otherwise` where there is none or it has none [shape=(MOST, sets, ...)]."""
        rows = np.stack([*(value.get(fault, otherwise) for fault in self.members), otherwise])
        return np.asarray(rows[self._places.T])

    @cached_property
    def worked_out(self) -> dict[str, tuple[Finding, FloatArray]]:
        """Chances of levels that were asked for already, by code: weighing asks for most of them thrice."""
        return {}

    @cached_property
    def membership(self) -> FloatArray:
        """One row a fault, in the order of `members`, 1.0 where the set holds it [shape=(faults, sets)]."""
        return np.stack(list(self.members.values())).astype(float)

    @cached_property
    def _places(self) -> IntArray:
        """Where each set's faults stand among `members`; their count stands for none [shape=(sets, MOST)]."""
        place = {fault: k for k, fault in enumerate(self.members)}
        none = (len(place),) * MOST_AT_ONCE
        return np.array([(*(place[f] for f in sorted(s)), *none)[:MOST_AT_ONCE] for s in self.sets])


@dataclass(frozen=True, kw_only=True)
class FaultSets:
    """Nothing, every fault, every pair of them and what hangs together in threes, whatever their odds.

    pairs : where the two faults of each pair stand among the faults [shape=(pairs, 2)]
    chained : (which pair, which fault of it is the cause, chance that it brings the other about)
    threes : of each three, which fault is the first cause, and the chance that it brings the others about
    """

    faults: tuple[str, ...]
    sets: tuple[frozenset[str], ...]
    members: Mapping[str, FloatArray]
    pairs: IntArray
    chained: tuple[tuple[int, int, float], ...]
    threes: tuple[tuple[int, float], ...]

    def prior(self, odds: Mapping[str, float]) -> FloatArray:
        """Probability of every set [shape=(sets,)]: of a pair a little less than independence would give, or, where
        one brings the other about, the cause's odds times that chance; of three the first cause's times both chances.
        """
        total = sum(odds.values())
        share = np.array([odds[fault] for fault in self.faults]) / total
        pairs = PAIR_DISCOUNT * share[self.pairs[:, 0]] * share[self.pairs[:, 1]]
        for pair, cause, chance in self.chained:
            pairs[pair] = max(pairs[pair], share[cause] * chance)
        threes = np.array([share[cause] * chance for cause, chance in self.threes])
        prior = np.concatenate([[odds["none"] / total], share, pairs, threes])
        return np.asarray(prior / prior.sum())


@lru_cache(maxsize=32)
def fault_sets(faults: tuple[str, ...], chains: tuple[Chain, ...]) -> FaultSets:
    """All sets of at most two of those faults, of which "none" is none, and of three along their chains."""
    real = tuple(f for f in faults if f != "none")
    index = np.array(list(itertools.combinations(range(len(real)), 2)), dtype=int).reshape(-1, 2)
    named = [frozenset({real[a], real[b]}) for a, b in index]
    threes = _threes([c for c in chains if c.cause in real and c.effect in real])
    sets = (frozenset[str](), *(frozenset({f}) for f in real), *named, *threes)
    members = {f: np.array([f in s for s in sets]) for f in real}
    members["none"] = np.array([not s for s in sets])
    follows = {frozenset({c.cause, c.effect}): c for c in chains}
    chained = tuple(
        (pair, real.index(follows[both].cause), follows[both].chance)
        for pair, both in enumerate(named)
        if both in follows
    )
    return FaultSets(
        faults=real,
        sets=sets,
        members=members,
        pairs=index,
        chained=chained,
        threes=tuple((real.index(cause), chance) for cause, chance in threes.values()),
    )


def _threes(chains: Sequence[Chain]) -> dict[frozenset[str], tuple[str, float]]:
    """Three faults that hang together, with the first cause and the chance that it brings both others about.

    The likelier way counts where there are two: a leak that wears the bearing which stops the motor, a load that breaks
    both a rod and a coupler.
    """
    out: dict[frozenset[str], tuple[str, float]] = {}
    for one, other in itertools.product(chains, chains):
        follows = other.cause == one.effect
        forks = other.cause == one.cause and one.effect < other.effect
        three = frozenset({one.cause, one.effect, other.effect})
        chance = one.chance * other.chance
        if (follows or forks) and len(three) == MOST_AT_ONCE and chance > out.get(three, ("", 0.0))[1]:
            out[three] = (one.cause, chance)
    return out


# For each layout by the built-in knowledge and by what a shop has learnt, old and new.
@lru_cache(maxsize=24)
def hypotheses_for(layout: str, *, knowledge: Knowledge) -> Hypotheses:
    """All sets of faults of that layout that are thought of."""
    odds = knowledge.odds_of(layout)
    made = fault_sets(tuple(odds), knowledge.chains)
    return Hypotheses(sets=made.sets, prior=made.prior(odds), members=dict(made.members))


def level_chances(finding: Finding, hypotheses: Hypotheses) -> FloatArray:
    """Chance of each level under each set [shape=(sets, levels)]; worked out once for each finding."""
    known = hypotheses.worked_out.get(finding.code)
    if known is not None and known[0] is finding:
        return known[1]
    chances = _level_chances(finding, hypotheses)
    hypotheses.worked_out[finding.code] = (finding, chances)
    return chances


def _level_chances(finding: Finding, hypotheses: Hypotheses) -> FloatArray:
    if finding.ordered:
        below = {fault: np.cumsum(column) for fault, column in finding.given.items()}
        each = hypotheses.each(below, np.ones(finding.calm.size))
        return np.diff(np.cumsum(finding.calm) * each.prod(axis=0), prepend=0.0, axis=1)
    total = hypotheses.each(finding.given, np.zeros(finding.calm.size)).sum(axis=0)
    count = total.sum(axis=1, keepdims=True)
    return np.where(count > 0, total / np.maximum(count, 1e-12), finding.calm)


@dataclass(frozen=True, kw_only=True)
class Pull:
    """What one reading says about one fault, in decibans; all pulls and the prior add up to the posterior odds."""

    reading: Reading
    decibans: float


@dataclass(frozen=True, kw_only=True)
class Posterior:
    """Probabilities of sets and faults, and what each reading contributed."""

    hypotheses: Hypotheses
    probability: FloatArray
    marginal: dict[str, float]
    prior_db: dict[str, float]
    pulls: dict[str, tuple[Pull, ...]]


def infer(readings: Sequence[Reading], *, hypotheses: Hypotheses) -> Posterior:
    """Posterior over fault sets, and each reading's likelihood ratio for every fault.

    A reading's ratio for a fault against not-that-fault depends on what is already known; the chain rule is
    walked forwards and backwards and the mean of both is reported, so the pulls add up exactly.
    """
    weights = effective_weights(readings)
    logs = [
        w * np.log(np.maximum(level_chances(r.finding, hypotheses) @ r.level_likelihood, LEAST_LIKELIHOOD))
        for r, w in zip(readings, weights, strict=True)
    ]
    probability = normalised(np.log(hypotheses.prior) + (np.sum(logs, axis=0) if logs else 0.0))
    forward = _chain(logs, hypotheses)
    backward = _chain(logs[::-1], hypotheses)[::-1] if logs else forward
    marginal = {f: float(probability[m].sum()) for f, m in hypotheses.members.items()}
    pulls = {}
    for column, fault in enumerate(hypotheses.members):
        both = [
            Pull(reading=r, decibans=float(0.5 * (forward[i, column] + backward[i, column])))
            for i, r in enumerate(readings)
        ]
        pulls[fault] = tuple(sorted(both, key=lambda p: -abs(p.decibans)))
    return Posterior(
        hypotheses=hypotheses,
        probability=probability,
        marginal=marginal,
        prior_db={f: odds_to_decibans(float(hypotheses.prior[m].sum())) for f, m in hypotheses.members.items()},
        pulls=pulls,
    )


def normalised(log_weight: FloatArray) -> FloatArray:
    """Probabilities from unnormalised logarithms [shape kept]."""
    weight = np.exp(log_weight - log_weight.max())
    return np.asarray(weight / weight.sum())


def effective_weights(readings: Sequence[Reading]) -> list[float]:
    """Exponent of each reading: its own weight times its group's design effect."""
    counts: dict[str, int] = {}
    for reading in readings:
        counts[reading.finding.group] = counts.get(reading.finding.group, 0) + 1
    return [r.weight / (1.0 + (counts[r.finding.group] - 1) * r.finding.correlation) for r in readings]


def _chain(logs: Sequence[FloatArray], hypotheses: Hypotheses) -> FloatArray:
    """Change of every fault's log odds by each reading in this order [shape=(readings, faults), decibans]."""
    member = hypotheses.membership
    state = np.log(hypotheses.prior)
    before = _odds_db(normalised(state), member)
    out = np.zeros((len(logs), member.shape[0]))
    for i, log in enumerate(logs):
        state = state + log
        after = _odds_db(normalised(state), member)
        out[i] = after - before
        before = after
    return out


def _odds_db(probability: FloatArray, member: FloatArray) -> FloatArray:
    inside = member @ probability
    outside = (1.0 - member) @ probability
    return np.asarray(10.0 * np.log10(np.maximum(inside, 1e-300) / np.maximum(outside, 1e-300)))
