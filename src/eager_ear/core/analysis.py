"""A whole case through the whole pipeline: runs measured, evidence weighed, call made."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from eager_ear.core.case import Case
from eager_ear.core.diagnosis import Call, Knowledge
from eager_ear.core.measure import STAGES, measure_recordings, runs_of
from eager_ear.core.signals.mechanics import BounceDecay, CornerComparison
from eager_ear.core.signals.recordings import Warning
from eager_ear.core.signals.run_measurement import RunMeasurement
from eager_ear.core.weigh import Weighed, weigh

__all__ = ["Analysis", "STAGES", "analyse"]


@dataclass(frozen=True, kw_only=True)
class Analysis:
    """What was measured and concluded. runs : every spin; lead : the one whose figures stand for the case."""

    weighed: Weighed
    runs: tuple[RunMeasurement, ...]
    lead: RunMeasurement | None

    @property
    def call(self) -> Call:
        return self.weighed.call

    @property
    def warnings(self) -> tuple[Warning, ...]:
        return self.weighed.warnings

    @property
    def bounces(self) -> tuple[BounceDecay, ...]:
        return self.weighed.bounces

    @property
    def corners(self) -> CornerComparison | None:
        return self.weighed.corners


def analyse(case: Case, *, knowledge: Knowledge, on_stage: Callable[[str], None] = lambda _: None) -> Analysis:
    """Measure every run and make the call.

    Parameters
    ----------
    on_stage : told each of `STAGES` but the first as it begins, those of a run once a run
    """
    measured = [
        measure_recordings(recordings, machine=case.machine, knowledge=knowledge, on_stage=on_stage)
        for recordings in runs_of(case.recordings).values()
    ]
    on_stage("weighing")
    weighed = weigh(case, shown=[m.shown for m in measured], knowledge=knowledge)
    runs = {m.shown.key: m.run for m in measured if m.shown.test == "spin" and m.run is not None}
    lead = runs[weighed.lead.key] if weighed.lead is not None else None
    return Analysis(weighed=weighed, runs=tuple(runs.values()), lead=lead)
