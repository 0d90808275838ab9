"""What to do now, as a sum: open for a suspect, see to it from outside, leave it, hand it on, record, or check first.

Every action has an expected loss in minutes of work: leaving a fault that is there, or opening for one that is not,
after which the true one is still there. Handing it on costs a visit and the work that somebody else does, whatever is
wrong; it is weighed once nothing that is left to check pays.
A check costs its minutes and is worth what it takes off the smallest loss (expected value of sample information; Raiffa
& Schlaifer, Applied Statistical Decision Theory, 1961, chapter 4); a way that an earlier check opened is not paid
again. Where a check opens the way to others, a second one is looked at after each of its outcomes, at its own minutes
alone: a cover that costs more than it tells by itself may pay by what lies beside it. A spin test that was not recorded
yet is worth what the most telling of its findings would be, as often as a spin shows it. Whatever the sum says, some
looks come before a teardown: those are rules of the trade, told in the knowledge with their reasons.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from eager_ear.core.cost import Stakes
from eager_ear.core.diagnosis.knowledge import Check, Knowledge
from eager_ear.core.diagnosis.next_check import ACCESS_MINUTES, BETWEEN_CHECKS_MIN, minutes_of, opened_by
from eager_ear.core.diagnosis.posterior import Posterior, level_chances
from eager_ear.core.units import FloatArray

Action = Literal["open", "see_to", "leave", "refer", "record", "check"]
# So many of each are shown; the sum itself rests on all.
MOST_CHECKS = 3
MOST_OPENINGS = 3
# So many of the checks that a cover opens the way to are looked at as second ones, those that tell most by themselves.
MOST_BESIDE = 3
# Openings for suspects below this chance are not weighed.
LEAST_SUSPECT = 0.02
# A foot is turned, a load spread, an edge filed in so many minutes.
SEEN_TO_MIN = 10.0
# A spin test from rest to rest, the phone laid down before it and taken up after it.
RECORDING_MIN = 6.0


@dataclass(frozen=True, kw_only=True)
class Choice:
    """One thing to do now, with what it is expected to cost in minutes.

    fault : opened for; check : done first; then : a second check after it, where its outcome asks for one
    wrong : chance that it is the wrong thing to do
    spent_min : minutes that it takes anyway; lost_min : minutes that being wrong costs, weighted by its chance
    """

    action: Action
    fault: str | None
    check: str | None
    name: str
    wrong: float
    spent_min: float
    lost_min: float
    then: str | None = None

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
    posterior: Posterior,
    *,
    layout: str,
    done: Collection[str],
    knowledge: Knowledge,
    stakes: Stakes,
    to_be_heard: Collection[str] = (),
) -> Decision:
    """Weigh opening, seeing to, leaving, handing on and every check that is left.

    Parameters
    ----------
    done : codes of checks that were made
    to_be_heard : codes of findings that a spin test would show, none where one was recorded
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
    left = [c for c in knowledge.checks.values() if layout in c.layouts and c.code not in done]
    heard = [code for code in to_be_heard if layout in knowledge.findings[code].layouts]
    ahead = _Ahead(losses, posterior, left, heard, knowledge)
    opened = opened_by(done, knowledge=knowledge)
    weighed = (ahead.choice(check, own_min=minutes_of(check, opened=opened)) for check in left)
    checks = sorted(weighed, key=lambda c: c.total_min)[:MOST_CHECKS]
    now.sort(key=lambda c: c.total_min)
    leader = now[0]
    shown = [c for c in now if c.action == "leave" or c in now[: MOST_OPENINGS + 1]]
    # What is mended from outside is seen to first: a foot in the air or a heavy load would spoil the spin.
    if heard and leader.action != "see_to":
        checks.append(ahead.recording(heard))
    if all(check.total_min >= leader.total_min for check in checks):
        shown.append(_handed_on(posterior, stakes))
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


def _handed_on(posterior: Posterior, stakes: Stakes) -> Choice:
    """For where nothing that is left to check pays: as long as something does, more is known after it."""
    nothing = posterior.hypotheses.members["none"]
    return Choice(
        action="refer",
        fault=None,
        check=None,
        name="Hand it on to somebody else",
        wrong=float(nothing @ posterior.probability),
        spent_min=stakes.refer_min,
        lost_min=0.0,
    )


class _Ahead:
    """Checks weighed with what may follow them: the cheapest end, or one more check that this one opened the way to."""

    def __init__(
        self,
        losses: FloatArray,
        posterior: Posterior,
        checks: Sequence[Check],
        heard: Sequence[str],
        knowledge: Knowledge,
    ) -> None:
        self._losses, self._probability = losses, posterior.probability
        self._in_vain = (losses > 0).astype(float)
        self._shown = {code: knowledge.findings[code].shown for code in heard}
        codes = {code for check in checks for code in check.findings} | set(heard)
        self._levels = {code: level_chances(knowledge.findings[code], posterior.hypotheses) for code in sorted(codes)}
        alone = {check.code: self._alone(check) for check in checks}
        self._beside: dict[str, list[Check]] = {}
        for check in sorted(checks, key=lambda c: alone[c.code]):
            beside = self._beside.setdefault(check.access, [])
            # The way is open: only its own minutes are left to be paid.
            if ACCESS_MINUTES[check.access] > 0 and len(beside) < MOST_BESIDE:
                beside.append(check)

    def _alone(self, check: Check) -> float:
        """What a check costs with nothing after it, minutes of access left out."""
        lost = [self._ends(self._levels[code] * self._probability[:, None])[0].sum() for code in check.findings]
        return float(min(lost, default=np.inf)) + check.minutes

    def choice(self, check: Check, *, own_min: float) -> Choice:
        """A check first, then whatever costs least after each of its outcomes. own_min : with the way to it"""
        found = min((self._after(check, code) for code in check.findings), key=lambda end: end.total_min, default=None)
        if found is None:
            best = self._losses @ self._probability
            found = _End(spent_min=0.0, lost_min=float(best.min()), wrong=1.0, then=None)
        name = check.name if found.then is None else f"{check.name}, then {_within(found.then.name)}"
        return Choice(
            action="check",
            fault=None,
            check=check.code,
            name=name,
            wrong=found.wrong,
            spent_min=own_min + BETWEEN_CHECKS_MIN + found.spent_min,
            lost_min=found.lost_min,
            then=found.then.code if found.then is not None else None,
        )

    def recording(self, heard: Sequence[str]) -> Choice:
        """A spin test first, then whatever costs least after each level of the finding that tells most."""
        tables = [self._levels[code] for code in heard]
        first = np.cumsum([0, *(table.shape[1] for table in tables[:-1])])
        every = self._ends(np.concatenate(tables, axis=1) * self._probability[:, None])
        lost_after, wrong_after = (np.add.reduceat(end, first) for end in every)
        lost_now, wrong_now = (float(end[0]) for end in self._ends(self._probability[:, None]))
        # Not every spin shows it.
        share = np.array([self._shown[code] for code in heard])
        lost = share * lost_after + (1.0 - share) * lost_now
        wrong = share * wrong_after + (1.0 - share) * wrong_now
        best = int(lost.argmin())
        return Choice(
            action="record",
            fault=None,
            check=None,
            name="Record a spin test",
            wrong=float(wrong[best]),
            spent_min=RECORDING_MIN + BETWEEN_CHECKS_MIN,
            lost_min=float(lost[best]),
        )

    def _after(self, check: Check, code: str) -> _End:
        """The end after this finding of the check: a second check is made after the outcomes where it pays."""
        joint = self._levels[code] * self._probability[:, None]
        lost, wrong = self._ends(joint)
        best = _End(spent_min=0.0, lost_min=float(lost.sum()), wrong=float(wrong.sum()), then=None)
        chance = joint.sum(axis=0)
        for second in self._beside[check.access]:
            if second.code == check.code:
                continue
            minutes = chance * (second.minutes + BETWEEN_CHECKS_MIN)
            for further in second.findings:
                both = joint[:, :, None] * self._levels[further][:, None, :]
                lost_then, wrong_then = (end.sum(axis=-1) for end in self._ends(both))
                pays = minutes + lost_then < lost
                if not pays.any():
                    continue
                end = _End(
                    spent_min=float(minutes[pays].sum()),
                    lost_min=float(np.where(pays, lost_then, lost).sum()),
                    wrong=float(np.where(pays, wrong_then, wrong).sum()),
                    then=second,
                )
                if end.total_min < best.total_min:
                    best = end
        return best

    def _ends(self, joint: FloatArray) -> tuple[FloatArray, FloatArray]:
        """What the cheapest action loses after each outcome, and how likely it is wrong [shape=outcomes]."""
        lost = np.tensordot(self._losses, joint, axes=1)
        cheapest = lost.argmin(axis=0)[None]
        wrong = np.tensordot(self._in_vain, joint, axes=1)
        return np.take_along_axis(lost, cheapest, axis=0)[0], np.take_along_axis(wrong, cheapest, axis=0)[0]


@dataclass(frozen=True, kw_only=True)
class _End:
    """spent_min : by a second check, after the outcomes where it is made"""

    spent_min: float
    lost_min: float
    wrong: float
    then: Check | None

    @property
    def total_min(self) -> float:
        return self.spent_min + self.lost_min


def _within(name: str) -> str:
    return name[:1].lower() + name[1:]


def _rule_of_trade(
    fault: str | None, *, layout: str, done: Collection[str], knowledge: Knowledge
) -> tuple[tuple[str, ...], str]:
    """Checks that come before a teardown for that fault, whatever the odds, and were not made."""
    rule = knowledge.faults[fault].first if fault is not None else None
    if rule is None or layout not in rule.layouts or set(rule.unless) & set(done):
        return (), ""
    missing = tuple(c for c in rule.checks if c not in done and layout in knowledge.checks[c].layouts)
    return missing, rule.why if missing else ""
