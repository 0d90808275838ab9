"""What to do now, as a sum: open for a suspect, see to it from outside, leave it, or check something first.

Every action has an expected loss in minutes of work: leaving a fault that is there, or opening for one that is not,
after which the true one is still there.
A check costs its minutes and is worth what it takes off the smallest loss (expected value of sample information;
Raiffa & Schlaifer, Applied Statistical Decision Theory, 1961, chapter 4). Whatever the sum says, some looks come
before a teardown: those are rules of the trade, told in the knowledge with their reasons.
"""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from typing import Literal

import numpy as np

from eager_ear.core.cost import Stakes
from eager_ear.core.diagnosis.knowledge import Check, Knowledge
from eager_ear.core.diagnosis.next_check import ACCESS_MINUTES, BETWEEN_CHECKS_MIN, finding_joint
from eager_ear.core.diagnosis.posterior import Posterior
from eager_ear.core.units import FloatArray

Action = Literal["open", "see_to", "leave", "check"]
# So many of each are shown; the sum itself rests on all.
MOST_CHECKS = 3
MOST_OPENINGS = 3
# Openings for suspects below this chance are not weighed.
LEAST_SUSPECT = 0.02
# A foot is turned, a load spread, an edge filed in so many minutes.
SEEN_TO_MIN = 10.0


@dataclass(frozen=True, kw_only=True)
class Choice:
    """One thing to do now, with what it is expected to cost in minutes.

    fault : opened for; check : done first; wrong : chance that it is the wrong thing to do
    spent_min : minutes that it takes anyway; lost_min : minutes that being wrong costs, weighted by its chance
    """

    action: Action
    fault: str | None
    check: str | None
    name: str
    wrong: float
    spent_min: float
    lost_min: float

    @property
    def total_min(self) -> float:
        return self.spent_min + self.lost_min


@dataclass(frozen=True, kw_only=True)
class Decision:
    """Choices, the cheapest first. first : checks that come before opening for the leader, with the reason."""

    choices: tuple[Choice, ...]
    first: tuple[str, ...]
    why_first: str


def decide(
    posterior: Posterior, *, layout: str, done: Collection[str], knowledge: Knowledge, stakes: Stakes
) -> Decision:
    """Weigh opening, seeing to, leaving and every check that is left.

    Parameters
    ----------
    done : codes of checks that were made
    """
    openings = _openings(posterior, knowledge, stakes)
    losses = np.stack([o.loss for o in openings])
    expected = losses @ posterior.probability
    now = [
        Choice(
            action=o.action,
            fault=o.fault,
            check=None,
            name=o.name,
            wrong=float((o.loss > 0) @ posterior.probability),
            spent_min=0.0,
            lost_min=float(lost),
        )
        for o, lost in zip(openings, expected, strict=True)
    ]
    checks = [
        _checked(check, losses, posterior, knowledge)
        for check in knowledge.checks.values()
        if layout in check.layouts and check.code not in done
    ]
    checks = sorted(checks, key=lambda c: c.total_min)[:MOST_CHECKS]
    now.sort(key=lambda c: c.total_min)
    leader = now[0]
    shown = [c for c in now if c.action == "leave" or c in now[: MOST_OPENINGS + 1]]
    first, why = _rule_of_trade(leader.fault, layout=layout, done=done, knowledge=knowledge)
    return Decision(choices=tuple(sorted([*shown, *checks], key=lambda c: c.total_min)), first=first, why_first=why)


@dataclass(frozen=True, kw_only=True)
class _Opening:
    action: Action
    fault: str | None
    name: str
    loss: FloatArray


def _openings(posterior: Posterior, knowledge: Knowledge, stakes: Stakes) -> list[_Opening]:
    """Opening for each likely suspect, seeing to what is mended from outside, and leaving it as it is, with the loss
    under every set of faults."""
    members = posterior.hypotheses.members
    wants_opening = np.zeros(posterior.probability.size, dtype=bool)
    wants_seeing_to = np.zeros(posterior.probability.size, dtype=bool)
    for fault, inside in members.items():
        if knowledge.faults[fault].teardown != "none":
            wants_opening |= inside.astype(bool)
        elif fault != "none":
            wants_seeing_to |= inside.astype(bool)
    left = np.where(wants_opening, stakes.left_min, np.where(wants_seeing_to, stakes.unsettled_min, 0.0))
    out = [_Opening(action="leave", fault=None, name="Leave it as it is", loss=left)]
    for fault, inside in members.items():
        if fault == "none" or posterior.marginal[fault] < LEAST_SUSPECT:
            continue
        short = knowledge.faults[fault].short.lower()
        is_there = inside.astype(bool)
        if knowledge.faults[fault].teardown == "none":
            # Whatever wants opening is still there, and done in vain it took its minutes.
            loss = np.where(is_there, np.where(wants_opening, stakes.left_min, 0.0), SEEN_TO_MIN + left)
            out.append(_Opening(action="see_to", fault=fault, name=f"See to: {short}", loss=loss))
            continue
        # Opened in vain, whatever it really is is still there.
        in_vain = stakes.wrong_min.get(fault, stakes.left_min) + left
        loss = np.where(is_there, 0.0, in_vain)
        out.append(_Opening(action="open", fault=fault, name=f"Open for: {short}", loss=loss))
    return out


def _checked(check: Check, losses: FloatArray, posterior: Posterior, knowledge: Knowledge) -> Choice:
    """A check first, then whatever costs least after each of its outcomes."""
    best: tuple[float, float] | None = None
    for code in check.findings:
        joint = finding_joint(knowledge.findings[code], posterior)
        after = (losses @ joint).min(axis=0)
        wrong = ((losses > 0) @ joint)[(losses @ joint).argmin(axis=0), np.arange(joint.shape[1])]
        lost = float(after.sum())
        if best is None or lost < best[0]:
            best = (lost, float(wrong.sum()))
    lost, wrong_after = best if best is not None else (float((losses @ posterior.probability).min()), 1.0)
    return Choice(
        action="check",
        fault=None,
        check=check.code,
        name=check.name,
        wrong=wrong_after,
        spent_min=check.minutes + ACCESS_MINUTES[check.access] + BETWEEN_CHECKS_MIN,
        lost_min=lost,
    )


def _rule_of_trade(
    fault: str | None, *, layout: str, done: Collection[str], knowledge: Knowledge
) -> tuple[tuple[str, ...], str]:
    """Checks that come before a teardown for that fault, whatever the odds, and were not made."""
    rule = knowledge.faults[fault].first if fault is not None else None
    if rule is None or layout not in rule.layouts or set(rule.unless) & set(done):
        return (), ""
    missing = tuple(c for c in rule.checks if c not in done and layout in knowledge.checks[c].layouts)
    return missing, rule.why if missing else ""
