"""Which check would tell most: expected information about what is wrong, per minute.

Expected gain is the mutual information between a check's outcome and the fault sets (Lindley, Ann. Math. Statist.
27(4), 1956). A check that answers two findings is credited with the better one only.
"""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

import numpy as np

from eager_ear.core.diagnosis.knowledge import Check, Finding, Knowledge
from eager_ear.core.diagnosis.posterior import Posterior, level_chances
from eager_ear.core.units import FloatArray

WORTH_BITS = 0.01
# Between two checks hands are wiped, the tool is fetched and what was found is entered.
BETWEEN_CHECKS_MIN = 2.0
# Opening a panel or fetching a meter costs time before the check itself.
ACCESS_MINUTES = {"outside": 0.0, "lid": 0.0, "panel": 4.0, "meter": 5.0, "part": 8.0}


@dataclass(frozen=True, kw_only=True)
class Outcome:
    """One possible answer, its chance, and the leading suspect's probability after it."""

    level: str
    chance: float
    leader: str
    leader_probability: float


@dataclass(frozen=True, kw_only=True)
class NextCheck:
    check: str
    name: str
    how: str
    access: str
    gain_bits: float
    minutes: float
    outcomes: tuple[Outcome, ...]


def opened_by(done: Collection[str], *, knowledge: Knowledge) -> frozenset[str]:
    """Ways that the checks which were made have paid for: with the meter in hand the panel is off."""
    ways = {knowledge.checks[code].access for code in done}
    return frozenset(ways | ({"panel"} if "meter" in ways else set()))


def minutes_of(check: Check, *, opened: Collection[str]) -> float:
    """What a check takes, with the way to it unless that was paid for. opened : from `opened_by`"""
    if check.access in opened:
        return check.minutes
    fetched = ACCESS_MINUTES[check.access]
    return check.minutes + fetched - (ACCESS_MINUTES["panel"] if check.access == "meter" and "panel" in opened else 0.0)


def next_checks(
    posterior: Posterior, *, layout: str, done: Collection[str], knowledge: Knowledge
) -> tuple[NextCheck, ...]:
    """Remaining checks of that layout, best gain per minute first."""
    opened = opened_by(done, knowledge=knowledge)
    options = [
        _judge(check, posterior, knowledge, minutes=minutes_of(check, opened=opened))
        for check in knowledge.checks.values()
        if layout in check.layouts and check.code not in done
    ]
    worth = [option for option in options if option.gain_bits >= WORTH_BITS]
    return tuple(sorted(worth, key=lambda o: -o.gain_bits / (o.minutes + BETWEEN_CHECKS_MIN)))


def _judge(check: Check, posterior: Posterior, knowledge: Knowledge, *, minutes: float) -> NextCheck:
    judged = [
        (finding, finding_joint(finding, posterior)) for finding in map(knowledge.findings.__getitem__, check.findings)
    ]
    gains = [_gain(joint, posterior) for _, joint in judged]
    best = int(np.argmax(gains))
    return NextCheck(
        check=check.code,
        name=check.name,
        how=check.how,
        access=check.access,
        gain_bits=gains[best],
        minutes=minutes,
        outcomes=_outcomes(*judged[best], posterior),
    )


def _entropy(probability: FloatArray) -> FloatArray:
    return np.asarray(-np.sum(probability * np.log2(np.maximum(probability, 1e-300)), axis=0))


def finding_joint(finding: Finding, posterior: Posterior) -> FloatArray:
    """Probability of every set together with every level [shape=(sets, levels)]."""
    return level_chances(finding, posterior.hypotheses) * posterior.probability[:, None]


def _gain(joint: FloatArray, posterior: Posterior) -> float:
    chance = joint.sum(axis=0)
    after = joint / np.maximum(chance, 1e-300)
    return float(_entropy(posterior.probability) - np.sum(chance * _entropy(after)))


def _outcomes(finding: Finding, joint: FloatArray, posterior: Posterior) -> tuple[Outcome, ...]:
    chance = joint.sum(axis=0)
    marginal = posterior.hypotheses.membership @ joint / np.maximum(chance, 1e-300)
    faults = list(posterior.hypotheses.members)
    return tuple(
        Outcome(
            level=level,
            chance=float(chance[k]),
            leader=faults[int(marginal[:, k].argmax())],
            leader_probability=float(marginal[:, k].max()),
        )
        for k, level in enumerate(finding.levels)
    )
