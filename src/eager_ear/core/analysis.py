"""A whole case through the whole pipeline: runs measured, evidence weighed, call made."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from eager_ear.core.case import Case, Recording
from eager_ear.core.diagnosis import Call, Knowledge, leading_run, make_call
from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.corners import CORNER_OF_POSITION, CornerComparison, compare_corners
from eager_ear.core.signals.decay import BounceDecay, measure_bounce
from eager_ear.core.signals.even_grid import even_acceleration
from eager_ear.core.signals.loudness import LEAST_ABOVE_ROOM_DB, BandLevels, above_room_db, third_octave_levels
from eager_ear.core.signals.quality import Warning, judge_audio
from eager_ear.core.signals.run import FRAME_S, HOP_S, measure_run
from eager_ear.core.signals.run_measurement import RunMeasurement
from eager_ear.core.signals.transform import short_time_power
from eager_ear.core.signals.types import AccelerationSignal, AudioSignal

STAGES = ("reading", "spectra", "speed", "orders", "bearings", "impacts", "drive", "weighing")
# A machine that only hums does not turn, and a few seconds of it are enough.
EXPECTED_OF_HUM = frozenset({"no_rotation_seen", "too_short", "rate_too_low"})
HEARD_ONLY = {"agitate": "the agitation", "hand_turn": "the drum turned by hand"}


@dataclass(frozen=True, kw_only=True)
class Analysis:
    """What was measured and concluded.

    lead : the run whose figures stand for the case; bounces : what recorded pushes showed
    corners : the corners compared, when the spin was recorded at several
    """

    case: Case
    runs: tuple[RunMeasurement, ...]
    lead: RunMeasurement | None
    call: Call
    warnings: tuple[Warning, ...]
    bounces: tuple[BounceDecay, ...] = ()
    corners: CornerComparison | None = None


def analyse(case: Case, *, knowledge: Knowledge, on_stage: Callable[[str], None] = lambda _: None) -> Analysis:
    """Measure every spin run and make the call.

    Parameters
    ----------
    on_stage : told each of `STAGES` as it begins, those of a run once a run
    """
    warnings: list[Warning] = []
    for recording in case.recordings:
        if recording.facts.test not in ("spin", "hum") and isinstance(recording.signal, AudioSignal):
            warnings.extend(judge_audio(recording.signal, name=recording.facts.name, is_spin=False))
        if recording.facts.test in HEARD_ONLY:
            warnings.append(_heard_only(recording))
    runs = tuple(
        measure_run(recordings, machine=case.machine, key=key, on_stage=on_stage)
        for key, recordings in _runs_of("spin", case).items()
    )
    energised = tuple(
        measure_run(recordings, machine=case.machine, key=key) for key, recordings in _runs_of("hum", case).items()
    )
    warnings.extend(w for run in energised for w in run.warnings if w.code not in EXPECTED_OF_HUM)
    on_stage("weighing")
    bounces = _bounces(case, warnings)
    lead = leading_run(runs)
    if lead is not None and lead.bands is not None:
        warnings.extend(_too_near_the_room(case, lead.bands))
    corners = _corners(runs, warnings)
    call = make_call(case, runs=runs, energised=energised, bounces=bounces, corners=corners, knowledge=knowledge)
    for run in runs:
        warnings.extend(run.warnings)
    if lead is not None and lead.load not in (None, "empty"):
        warnings.append(
            Warning(code="loaded", message="The drum was not empty: a load shakes a sound machine as well.")
        )
    return Analysis(
        case=case,
        runs=runs,
        lead=lead,
        call=call,
        warnings=tuple(warnings) + call.warnings,
        bounces=bounces,
        corners=corners,
    )


def _runs_of(test: str, case: Case) -> dict[str, list[Recording]]:
    """The recordings of a test by what was recorded at the same time."""
    by_run: dict[str, list[Recording]] = {}
    for recording in case.recordings:
        if recording.facts.test == test:
            by_run.setdefault(recording.facts.run_key, []).append(recording)
    return by_run


def _heard_only(recording: Recording) -> Warning:
    return Warning(
        code="not_measured",
        recording=recording.facts.name,
        message=f"The recording of {HEARD_ONLY[recording.facts.test]} is kept for listening, not measured.",
    )


def _corners(runs: tuple[RunMeasurement, ...], warnings: list[Warning]) -> CornerComparison | None:
    """The corners compared; why not, when at least two were meant to be."""
    try:
        return compare_corners(runs)
    except NotMeasurable as reason:
        if len({run.position for run in runs if run.position in CORNER_OF_POSITION}) >= 2:
            warnings.append(Warning(code="not_measured", message=f"The corners: {reason.reason}"))
        return None


def _bounces(case: Case, warnings: list[Warning]) -> tuple[BounceDecay, ...]:
    """Every recorded push that can be read."""
    out: list[BounceDecay] = []
    for recording in case.recordings:
        signal = recording.signal
        if recording.facts.test != "bounce" or not isinstance(signal, AccelerationSignal) or not signal.present:
            continue
        try:
            out.append(measure_bounce(even_acceleration(signal, start_s=0.0)))
        except NotMeasurable as reason:
            warnings.append(
                Warning(code="not_measured", recording=recording.facts.name, message=f"The bounce: {reason.reason}")
            )
    return tuple(out)


def _too_near_the_room(case: Case, spin: BandLevels) -> list[Warning]:
    """Warn where the spin hardly rises above the recorded room in the bands that matter."""
    out: list[Warning] = []
    for recording in case.recordings:
        signal = recording.signal
        if recording.facts.test != "ambient" or not isinstance(signal, AudioSignal):
            continue
        try:
            spectrum = short_time_power(
                signal.samples, sample_rate_hz=signal.sample_rate_hz, frame_s=FRAME_S, hop_s=HOP_S
            )
            room = third_octave_levels(
                spectrum, frames=np.ones(spectrum.t_s.size, dtype=bool), pa_per_fs=signal.pa_per_fs
            )
        except NotMeasurable:
            continue
        margin = above_room_db(spin, room)
        low = margin < LEAST_ABOVE_ROOM_DB
        if low.mean() > 0.5:
            out.append(
                Warning(
                    code="room_too_loud",
                    recording=recording.facts.name,
                    message=f"In {low.sum()} of {low.size} third-octave bands the spin is less than "
                    f"{LEAST_ABOVE_ROOM_DB:.0f} dB above the room: go nearer to the machine.",
                )
            )
    return out
