"""A whole case through the whole pipeline: runs measured, evidence weighed, call made."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from eager_ear.core.case import Case, Recording
from eager_ear.core.diagnosis import Call, Knowledge, leading_run, make_call
from eager_ear.core.signals.quality import Warning, judge_audio
from eager_ear.core.signals.run import measure_run
from eager_ear.core.signals.run_measurement import RunMeasurement
from eager_ear.core.signals.types import AudioSignal

STAGES = ("reading", "spectra", "speed", "orders", "bearings", "impacts", "drive", "weighing")


@dataclass(frozen=True, kw_only=True)
class Analysis:
    """What was measured and concluded; `lead` is the run whose figures stand for the case."""

    case: Case
    runs: tuple[RunMeasurement, ...]
    lead: RunMeasurement | None
    call: Call
    warnings: tuple[Warning, ...]


def analyse(case: Case, *, knowledge: Knowledge, on_stage: Callable[[str], None] = lambda _: None) -> Analysis:
    """Measure every spin run and make the call.

    Parameters
    ----------
    on_stage : told each of `STAGES` as it begins, those of a run once a run
    """
    by_run: dict[str, list[Recording]] = {}
    warnings: list[Warning] = []
    for recording in case.recordings:
        if recording.facts.test == "spin":
            by_run.setdefault(recording.facts.run_key, []).append(recording)
        elif isinstance(recording.signal, AudioSignal):
            warnings.extend(judge_audio(recording.signal, name=recording.facts.name, is_spin=False))
    runs = tuple(
        measure_run(recordings, machine=case.machine, key=key, on_stage=on_stage) for key, recordings in by_run.items()
    )
    on_stage("weighing")
    call = make_call(case, runs=runs, knowledge=knowledge)
    for run in runs:
        warnings.extend(run.warnings)
    lead = leading_run(runs)
    if lead is not None and lead.load not in (None, "empty"):
        warnings.append(
            Warning(code="loaded", message="The drum was not empty: a load shakes a sound machine as well.")
        )
    return Analysis(case=case, runs=runs, lead=lead, call=call, warnings=tuple(warnings) + call.warnings)
