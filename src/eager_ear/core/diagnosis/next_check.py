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


def next_checks(
    posterior: Posterior, *, layout: str, done: Collection[str], knowledge: Knowledge
) -> tuple[NextCheck, ...]:
    """Remaining checks of that layout, best gain per minute first."""
    options = [
        _judge(check, posterior, knowledge)
        for check in knowledge.checks.values()
        if layout in check.layouts and check.code not in done
    ]
    worth = [option for option in options if option.gain_bits >= WORTH_BITS]
    return tuple(sorted(worth, key=lambda o: -o.gain_bits / (o.minutes + 2.0)))


def _judge(check: Check, posterior: Posterior, knowledge: Knowledge) -> NextCheck:
    gains = [(_gain(knowledge.findings[f], posterior), knowledge.findings[f]) for f in check.findings]
    gain, finding = max(gains, key=lambda pair: pair[0])
    return NextCheck(
        check=check.code,
        name=check.name,
        how=check.how,
        access=check.access,
        gain_bits=gain,
        minutes=check.minutes + ACCESS_MINUTES[check.access],
        outcomes=_outcomes(finding, posterior),
    )


def _entropy(probability: FloatArray) -> FloatArray:
    return np.asarray(-np.sum(probability * np.log2(np.maximum(probability, 1e-300)), axis=0))


def _gain(finding: Finding, posterior: Posterior) -> float:
    joint = level_chances(finding, posterior.hypotheses) * posterior.probability[:, None]
    chance = joint.sum(axis=0)
    after = joint / np.maximum(chance, 1e-300)
    return float(_entropy(posterior.probability) - np.sum(chance * _entropy(after)))


def _outcomes(finding: Finding, posterior: Posterior) -> tuple[Outcome, ...]:
    joint = level_chances(finding, posterior.hypotheses) * posterior.probability[:, None]
    out: list[Outcome] = []
    for k, level in enumerate(finding.levels):
        chance = float(joint[:, k].sum())
        after = joint[:, k] / max(chance, 1e-300)
        marginal = {f: float(after[m].sum()) for f, m in posterior.hypotheses.members.items()}
        leader = max(marginal, key=lambda f: marginal[f])
        out.append(Outcome(level=level, chance=chance, leader=leader, leader_probability=marginal[leader]))
    return tuple(out)
