"""Recordings made at one time, measured: what they show, as a `Shown`."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from eager_ear.core.case import Recording
from eager_ear.core.curves import curves_dict
from eager_ear.core.diagnosis.evidence import (
    ENERGISED_READERS,
    Room,
    Shown,
    observations_of,
    readings_by,
    sound_readings,
)
from eager_ear.core.diagnosis.knowledge import Knowledge
from eager_ear.core.errors import NotMeasurable
from eager_ear.core.figures import figures
from eager_ear.core.machine import Machine
from eager_ear.core.signals.drive import find_hum, room_hum_db
from eager_ear.core.signals.dsp import LowBand, even_acceleration, short_time_power
from eager_ear.core.signals.mechanics import CORNER_OF_POSITION, BounceDecay, levels_by_speed, measure_bounce
from eager_ear.core.signals.recordings import Warning, judge_audio
from eager_ear.core.signals.run import FRAME_S, HOP_S, measure_run
from eager_ear.core.signals.run_measurement import RunMeasurement
from eager_ear.core.signals.sound import third_octave_levels
from eager_ear.core.signals.types import AccelerationSignal, AudioSignal

STAGES = ("reading", "spectra", "speed", "orders", "bearings", "impacts", "drive", "weighing")
# A machine that only hums does not turn, and a few seconds of it are enough.
EXPECTED_OF_HUM = frozenset({"no_rotation_seen", "too_short", "rate_too_low"})
# From here on a drum counts as at its full speed.
FAST_SHARE = 0.7
# Tests of which little is measured, in words.
HEARD = {"agitate": "the agitation", "hand_turn": "the drum turned by hand"}
# A motor that stands hums and makes no other sound; one that runs hums as well, beside much else. Simulated by both
# physics in rough rooms, standing motors lay above 0.7 and running ones below 0.35.
LEAST_HUM_SHARE = 0.5
# The actuator that shifts this drive hums at the same pitch whenever it works.
HUMS_ANYWAY = "top_shifter"

OnStage = Callable[[str], None]


@dataclass(frozen=True, kw_only=True)
class Measured:
    """What a run of recordings shows; `run` holds everything that was measured of a spin or a hum."""

    shown: Shown
    run: RunMeasurement | None = None


def runs_of(recordings: Sequence[Recording]) -> dict[str, list[Recording]]:
    """Recordings by what was made at the same time, in the order of their first."""
    out: dict[str, list[Recording]] = {}
    for recording in recordings:
        out.setdefault(recording.facts.run_key, []).append(recording)
    return out


def measure_recordings(
    recordings: Sequence[Recording],
    *,
    machine: Machine,
    knowledge: Knowledge,
    on_stage: OnStage = lambda _: None,
) -> Measured:
    """Measure recordings of one run, which share a test and a clock.

    Parameters
    ----------
    knowledge : names the findings; its odds are not used
    on_stage : told each of `STAGES` as it begins, but for the first and the last
    """
    facts = recordings[0].facts
    if facts.test == "spin":
        return _spin(recordings, machine, knowledge, facts.run_key, on_stage)
    warnings = [
        warning
        for r in recordings
        if facts.test != "hum" and isinstance(r.signal, AudioSignal)
        for warning in judge_audio(r.signal, name=r.facts.name, is_spin=False)
    ]
    if facts.test == "hum":
        return _energised(recordings, machine, knowledge, facts.run_key)
    # Nothing is concluded from a recording that the gate rejects.
    asked = facts.test == "agitate" and not any(warning.rejects for warning in warnings)
    if asked and (stalled := _stalled(recordings, machine, knowledge)) is not None:
        return Measured(shown=replace(stalled, warnings=tuple(warnings)))
    if facts.test in HEARD:
        warnings += [_heard_only(recording) for recording in recordings]
    bounces: list[BounceDecay] = []
    rooms: list[Room] = []
    for recording in recordings:
        if facts.test == "bounce":
            _add_bounce(recording, bounces, warnings)
        if facts.test == "ambient":
            _add_room(recording, rooms)
    shown = Shown(
        test=facts.test,
        key=facts.run_key,
        load=facts.load,
        position=facts.position,
        duration_s=max(r.signal.duration_s for r in recordings),
        warnings=tuple(warnings),
        bounces=tuple(bounces),
        rooms=tuple(rooms),
    )
    return Measured(shown=shown)


def _spin(
    recordings: Sequence[Recording], machine: Machine, knowledge: Knowledge, key: str, on_stage: OnStage
) -> Measured:
    run = measure_run(recordings, machine=machine, key=key, on_stage=on_stage)
    on_corner = run.position in CORNER_OF_POSITION and run.curves is not None
    shown = replace(
        _of_run("spin", run),
        observations=observations_of(sound_readings(run, findings=knowledge.findings)),
        absent=dict(run.absent),
        race_ratio_db=run.race_lines[0].ratio_db if run.race_lines else None,
        level_scatter=_scatter_at_full_speed(run),
        figures=figures(run),
        warnings=tuple(run.warnings),
        bands=run.bands,
        corner_levels_db=levels_by_speed(run.curves) if on_corner and run.curves is not None else None,
        curves=curves_dict(run),
    )
    return Measured(shown=shown, run=run)


def _scatter_at_full_speed(run: RunMeasurement) -> float | None:
    if run.level_scatter is None or run.track is None:
        return None
    fast = run.track.known & (60.0 * run.track.rate_hz > FAST_SHARE * run.track.max_rpm)
    return float(np.median(run.level_scatter[fast])) if fast.any() else None


def _energised(recordings: Sequence[Recording], machine: Machine, knowledge: Knowledge, key: str) -> Measured:
    """A machine that was to move is asked for its hum only."""
    run = measure_run(recordings, machine=machine, key=key)
    if run.hum is not None and run.hum.seconds > 0 and run.hum.share < LEAST_HUM_SHARE:
        run.hum = None
        run.absent["hum"] = "something else sounds louder than the hum, so the motor may be running."
    shown = replace(
        _of_run("hum", run),
        observations=observations_of(readings_by(ENERGISED_READERS, run, findings=knowledge.findings)),
        warnings=tuple(w for w in run.warnings if w.code not in EXPECTED_OF_HUM),
    )
    return Measured(shown=shown, run=run)


def _stalled(recordings: Sequence[Recording], machine: Machine, knowledge: Knowledge) -> Shown | None:
    """The hum of a motor that stands where it was to wash; None where there is none, which speaks for nothing.

    Pumps and actuators are not energised all through a wash: what does not hum may be well or not asked.
    """
    if machine.layout == HUMS_ANYWAY:
        return None
    facts = recordings[0].facts
    for signal in (r.signal for r in recordings if isinstance(r.signal, AudioSignal)):
        try:
            hum = find_hum(LowBand.of(signal, start_s=0.0, mains_hz=machine.mains_hz))
        except NotMeasurable:
            continue
        if hum.seconds > 0 and hum.share >= LEAST_HUM_SHARE:
            run = RunMeasurement(key=facts.run_key, load=facts.load, duration_s=signal.duration_s, hum=hum)
            read = readings_by(ENERGISED_READERS, run, findings=knowledge.findings)
            return replace(_of_run("agitate", run), heard=True, observations=observations_of(read))
    return None


def _of_run(test: str, run: RunMeasurement) -> Shown:
    """What every measured run tells of itself."""
    return Shown(
        test=test,
        key=run.key,
        load=run.load,
        position=run.position,
        duration_s=run.duration_s,
        turning=run.track is not None,
        heard=run.sound_range_db is not None,
        steady_hum=run.hum if run.hum is not None and run.hum.steady and run.track is None else None,
    )


def _heard_only(recording: Recording) -> Warning:
    return Warning(
        code="not_measured",
        recording=recording.facts.name,
        message=f"The recording of {HEARD[recording.facts.test]} is kept for listening; nothing is measured in it but "
        "the hum of a motor that stands."
        if recording.facts.test == "agitate"
        else f"The recording of {HEARD[recording.facts.test]} is kept for listening, not measured.",
    )


def _add_bounce(recording: Recording, bounces: list[BounceDecay], warnings: list[Warning]) -> None:
    """A recorded push, or why it cannot be read."""
    signal = recording.signal
    if not isinstance(signal, AccelerationSignal) or not signal.present:
        return
    try:
        bounces.append(measure_bounce(even_acceleration(signal, start_s=0.0)))
    except NotMeasurable as reason:
        warnings.append(
            Warning(code="not_measured", recording=recording.facts.name, message=f"The bounce: {reason.reason}")
        )


def _add_room(recording: Recording, rooms: list[Room]) -> None:
    signal = recording.signal
    if not isinstance(signal, AudioSignal):
        return
    try:
        spectrum = short_time_power(signal.samples, sample_rate_hz=signal.sample_rate_hz, frame_s=FRAME_S, hop_s=HOP_S)
        every = np.ones(spectrum.t_s.size, dtype=bool)
        bands = third_octave_levels(spectrum, frames=every, pa_per_fs=signal.pa_per_fs)
    except NotMeasurable:
        return
    low = LowBand.of(signal, start_s=0.0, mains_hz=None)
    rooms.append(Room(recording=recording.facts.name, bands=bands, hum_db=room_hum_db(low)))
