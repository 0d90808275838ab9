"""One ended job: what was called before anything was opened, what was found, and what the findings had shown.

What is opened is no random sample: a foot is levelled and a load spread without a look inside, and what was thought
sound stays closed. Left out, the opened ones would make all that is mended from outside look rare. So a job counts by
what was found where somebody is sure of it, whether it was opened for that or not; where nobody is, it counts by the
odds brought along: it moves nothing and keeps its place. (To count it by its own call, as the expectation step of
Dempster, Laird & Rubin would, was tried on simulated shops: what the calls are off by, the odds then learn.)
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from datetime import date, datetime

import numpy as np

from eager_ear.core.diagnosis.counts import Counts
from eager_ear.core.units import FloatArray
from eager_ear.core.visit import Entry, Visit

# Kinds with which the machine is no longer what the call was made of: whatever is entered from then on knows better.
OPENING = frozenset({"step", "seen", "found", "decided", "closed"})


@dataclass(frozen=True, kw_only=True)
class Outcome:
    """What became of one job.

    job : its id; day : when it was closed; outcome : how
    faults : found really there ("none" where all was sound), None where nobody is sure
    called : chances of the faults by the call before anything was opened; own_view : what the person went by instead
    advice : of that call; opened : whether the machine was opened
    levels : by finding, how likely the machine's readings fell on each level
    minutes : from the first entry to that call's last evidence
    again : it came back, or its proof failed
    left_out : why it does not count, where somebody said so
    """

    job: str
    layout: str
    day: date
    outcome: str
    faults: tuple[str, ...] | None
    called: Mapping[str, float]
    advice: str
    opened: bool
    own_view: tuple[str, ...] = ()
    levels: Mapping[str, FloatArray] = field(default_factory=dict)
    minutes: float | None = None
    again: bool = False
    by: str | None = None
    left_out: str | None = None

    @property
    def first(self) -> str:
        """What was called first."""
        return max(self.called, key=lambda fault: self.called[fault])

    @property
    def first_right(self) -> bool | None:
        """Whether that was there; None where nobody is sure."""
        return None if self.faults is None else self.first in self.faults


def opened_first(entries: Iterable[Entry]) -> datetime | None:
    """When the first entry was made that knows better than the call."""
    return min((e.counts_at for e in entries if e.kind in OPENING and e.body is not None), default=None)


def found_in(visit: Visit) -> tuple[str, ...] | None:
    """What was really there, where somebody is sure."""
    found = visit.proof.found
    if found is None or not found.get("sure", True):
        return None
    return tuple(found["faults"]) or ("none",)


def counts_of(outcomes: Iterable[Outcome]) -> Counts:
    """What a shop's ended jobs teach; those left out by hand do not."""
    visits: dict[str, float] = {}
    unsure: dict[str, float] = {}
    found: dict[str, dict[str, float]] = {}
    levels: dict[str, dict[str, FloatArray]] = {}
    for outcome in outcomes:
        if outcome.left_out is not None:
            continue
        visits[outcome.layout] = visits.get(outcome.layout, 0.0) + 1.0
        here = found.setdefault(outcome.layout, {})
        if outcome.faults is None:
            unsure[outcome.layout] = unsure.get(outcome.layout, 0.0) + 1.0
            continue
        for fault in outcome.faults:
            here[fault] = here.get(fault, 0.0) + 1.0
        if len(outcome.faults) > 1:
            continue
        for finding, level in outcome.levels.items():
            by_fault = levels.setdefault(finding, {})
            fault = outcome.faults[0]
            by_fault[fault] = by_fault.get(fault, np.zeros(level.size)) + level
    return Counts(visits=visits, unsure=unsure, found=found, levels=levels)
