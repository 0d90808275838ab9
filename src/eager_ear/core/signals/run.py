"""Everything measured on one run: recordings made at the same time, on one clock."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from eager_ear.core.case import Recording
from eager_ear.core.errors import NotMeasurable
from eager_ear.core.machine import (
    BEARINGS,
    BearingSize,
    Layout,
    Machine,
    find_bearing,
    find_layout,
    rule_of_thumb_bearings,
)
from eager_ear.core.signals.angle import SpeedTrack, growth_above, order_curves, turn_motion
from eager_ear.core.signals.drive import (
    find_hum,
    find_squeal,
    measure_arrival,
    measure_current,
    measure_slip,
    persistence,
)
from eager_ear.core.signals.dsp import LowBand, SoundSections, Spectrogram, short_time_power
from eager_ear.core.signals.impacts import find_impacts, mean_impact, require_no_impacts
from eager_ear.core.signals.mechanics import (
    count_stop_hits,
    envelope_spectra,
    find_race_lines,
    fit_coast_down,
    fit_run_up,
    passage_of,
    with_carried,
)
from eager_ear.core.signals.recordings import (
    Chosen,
    Disturbance,
    SteadyTone,
    Warning,
    choose,
    felt_second_machine,
    find_gain_pumping,
    find_slide,
    find_talk,
    heard_second_machine,
    without_steady_tones,
)
from eager_ear.core.signals.run_measurement import RunMeasurement
from eager_ear.core.signals.sound import (
    LEAST_RANGE_DB,
    frame_levels_db,
    level_scatter,
    level_slope,
    most_prominent_tone,
    rest_after_fall_s,
    resting_stretches,
    spin_profile,
    third_octave_levels,
)
from eager_ear.core.signals.speed import Phases, SpeedSources, cut_phases, find_speed
from eager_ear.core.units import Span, within

# Splits lines some 25 Hz apart, and still gives a dozen levels in half a second.
FRAME_S = 0.085
# Half of it, as a Hann window wants.
HOP_S = 0.0426
OnStage = Callable[[str], None]


@dataclass(frozen=True, kw_only=True)
class _Sound:
    """The run's sound on the corrected clock, with what is shared by all who measure it."""

    chosen: Chosen
    start_s: float
    spectrum: Spectrogram
    low: LowBand


def measure_run(
    recordings: Sequence[Recording], *, machine: Machine, key: str, on_stage: OnStage = lambda _: None
) -> RunMeasurement:
    """Measure one spin test, from whatever sensors were there.

    Parameters
    ----------
    recordings : of one run, sharing a clock through their `start_s`
    on_stage : told the name of each stage as it begins
    """
    layout = find_layout(machine.layout)
    chosen = choose(recordings, highest_hz=(machine.max_spin_rpm or layout.spin_rpm[1]) / 60.0)
    out = RunMeasurement(key=key, load=chosen.load, position=chosen.position)
    out.warnings.extend(chosen.warnings)
    on_stage("spectra")
    sound = _sound(out, chosen, machine)
    chosen, beside = _without_neighbour(chosen, changes_heard=(out.sound_range_db or 0.0) > LEAST_RANGE_DB)
    _noted(out, [felt_second_machine(beside)], chosen.acceleration_name)
    out.acceleration = chosen.acceleration
    out.vibration_recorded = chosen.acceleration is not None
    out.audio_name, out.audio_start_s = chosen.audio_name, chosen.audio_start_s
    out.noted_power_cut_s = chosen.noted_power_cut_s
    out.duration_s = max((r.signal.duration_s for r in recordings), default=0.0)

    if (meter := chosen.current) is not None:
        out.current = out.attempt(lambda: measure_current(meter, start_s=chosen.current_start_s))
    on_stage("speed")
    raw = chosen.acceleration_raw
    slide = find_slide(raw, start_s=chosen.acceleration_start_s) if raw is not None else None
    moved_s = _noted(out, [slide], chosen.acceleration_name)
    sound = _measure_speed(
        out, chosen, sound, machine, layout, moved_s, beside_hz=tuple(tone.frequency_hz for tone in beside)
    )
    out.audio_start_s = sound.start_s if sound is not None else out.audio_start_s
    if out.track is None:
        out.warnings.append(Warning(code="no_rotation_seen", message=_no_rotation(out.absent.get("speed track", ""))))
        if chosen.audio is not None:
            _listen_for_impacts(out, SoundSections(chosen.audio, start_s=chosen.audio_start_s))
        return out
    phases = _measure_phases(out, chosen, sound, machine, out.track)
    if sound is not None and not beside:
        _noted(out, [heard_second_machine(sound.low, track=out.track, rests=out.rests)], chosen.audio_name)
    on_stage("orders")
    _measure_vibration(out, chosen, layout, out.track, phases, moved_s)
    out.coast_down = out.attempt(lambda: fit_coast_down(out.track, phases=phases) if out.track else None)
    if sound is not None:
        _measure_sound(out, sound, machine, layout, phases, on_stage)
    else:
        out.absent["bearing lines"] = out.absent["impacts"] = "no sound was recorded in this run."
    out.profile = spin_profile(
        out.track,
        phases=phases,
        spectrum=sound.spectrum if sound is not None else None,
        start_s=sound.start_s if sound is not None else 0.0,
        pa_per_fs=chosen.audio.pa_per_fs if chosen.audio is not None else None,
        curves=out.curves,
    )
    return out


def _without_neighbour(chosen: Chosen, *, changes_heard: bool) -> tuple[Chosen, tuple[SteadyTone, ...]]:
    """What was chosen, its vibration without the tones that go on all the time, and those."""
    if chosen.acceleration is None:
        return chosen, ()
    acceleration, tones = without_steady_tones(chosen.acceleration, changes_heard=changes_heard)
    return replace(chosen, acceleration=acceleration), tones


def _sound(out: RunMeasurement, chosen: Chosen, machine: Machine) -> _Sound | None:
    audio = chosen.audio
    if audio is None:
        return None
    spectrum = out.attempt(
        lambda: short_time_power(audio.samples, sample_rate_hz=audio.sample_rate_hz, frame_s=FRAME_S, hop_s=HOP_S)
    )
    if spectrum is None:
        return None
    level = 10.0 * np.log10(spectrum.band_power(100.0, 8000.0) + 1e-16)
    out.sound_range_db = float(np.percentile(level, 90) - np.percentile(level, 2))
    low = LowBand.of(audio, start_s=chosen.audio_start_s, mains_hz=machine.mains_hz)
    out.hum = out.attempt(lambda: find_hum(low))
    low = low.without(_noted(out, [find_talk(low)], chosen.audio_name))
    return _Sound(chosen=chosen, start_s=chosen.audio_start_s, spectrum=spectrum, low=low)


def _measure_speed(
    out: RunMeasurement,
    chosen: Chosen,
    sound: _Sound | None,
    machine: Machine,
    layout: Layout,
    moved_s: tuple[Span, ...],
    *,
    beside_hz: tuple[float, ...],
) -> _Sound | None:
    """Finds the speed; returns the sound on the clock that it was found to have."""
    sources = SpeedSources(
        low=sound.low if sound is not None else None,
        acceleration=chosen.acceleration,
        stamped=(chosen.acceleration_raw, chosen.acceleration_start_s) if chosen.acceleration_raw else None,
        moved_s=moved_s,
        beside_hz=beside_hz,
        tacho=chosen.tacho,
        tacho_start_s=chosen.tacho_start_s,
    )
    found = out.attempt(lambda: find_speed(sources, machine=machine, layout=layout))
    if found is None:
        return sound
    out.track, out.lag, out.family = found.track, found.lag, found.family
    if sound is None or chosen.acceleration is None:
        return sound
    if found.lag is None:
        out.absent["clock lag"] = found.lag_absent
        return sound
    return replace(sound, start_s=sound.start_s + found.lag.lag_s, low=sound.low.moved(found.lag.lag_s))


def _measure_phases(
    out: RunMeasurement, chosen: Chosen, sound: _Sound | None, machine: Machine, track: SpeedTrack
) -> Phases:
    if sound is not None:
        out.level_db = frame_levels_db(sound.spectrum, start_s=sound.start_s, t_s=track.t_s)
        out.level_scatter = level_scatter(sound.spectrum, start_s=sound.start_s, t_s=track.t_s)
    still_s = rest_after_fall_s(track)
    quiet = resting_stretches(t_s=track.t_s, known=track.known, level_db=out.level_db, acceleration=chosen.acceleration)
    out.rests = tuple((max(a, still_s), b) for a, b in quiet if b > still_s)
    # A meter tells better than a note when the motor lost its power.
    metered_s = out.current.off_s if out.current is not None else None
    cut_s = metered_s if metered_s is not None else chosen.noted_power_cut_s
    phases = cut_phases(track, rests=out.rests, noted_power_cut_s=cut_s)
    out.phases = phases
    out.arrival = out.attempt(
        lambda: measure_arrival(
            track, phases=phases, plate_rpm=machine.max_spin_rpm, noted_power_cut_s=chosen.noted_power_cut_s
        )
    )
    return phases


def _measure_vibration(
    out: RunMeasurement,
    chosen: Chosen,
    layout: Layout,
    track: SpeedTrack,
    phases: Phases,
    moved_s: tuple[Span, ...],
) -> None:
    acceleration = chosen.acceleration
    if acceleration is None:
        out.absent["order amplitudes"] = "no acceleration was recorded."
        return
    felt = _without(track, (*moved_s, *acceleration.gaps_s))
    curves = order_curves(acceleration, track=felt)
    out.curves = curves
    run_up = out.attempt(lambda: fit_run_up(acceleration, curves, track=felt, phases=phases, layout=layout))
    out.suspension = run_up.fits if run_up is not None else ()
    if run_up is not None and run_up.carried is not None:
        out.track = with_carried(track, run_up.carried, critical_hz=run_up.fits[0].critical_hz)
    critical = out.suspension[0].critical_hz if out.suspension else layout.critical_rpm[1] / 60.0
    passage_hz = passage_of([fit.critical_hz for fit in out.suspension], layout=layout)
    out.stop_hits = out.attempt(lambda: count_stop_hits(acceleration, track=felt, passage_hz=passage_hz))
    out.turn_motion = out.attempt(lambda: turn_motion(curves, track=felt))
    out.growth = growth_above(curves, from_hz=1.8 * critical)


def _measure_sound(
    out: RunMeasurement, sound: _Sound, machine: Machine, layout: Layout, phases: Phases, on_stage: OnStage
) -> None:
    audio, start_s, spectrum = sound.chosen.audio, sound.start_s, sound.spectrum
    if out.track is None or audio is None:
        return
    out.slope = level_slope(spectrum, start_s=start_s, track=out.track)
    slope = out.slope.db_per_doubling if out.slope is not None else None
    pumping = find_gain_pumping(sound.low, rests=out.rests, slope_db_per_doubling=slope)
    spoilt_s = (*sound.low.spoilt_s, *_noted(out, [pumping], sound.chosen.audio_name))
    track = _without(out.track, spoilt_s)
    on_stage("bearings")
    sections = SoundSections(audio, start_s=start_s)
    out.spectra = out.attempt(lambda: envelope_spectra(sections, track=track)) or ()
    if out.spectra:
        bearings, out.bearings_known = bearings_to_search(machine)
        out.race_lines = find_race_lines(out.spectra, bearings=bearings)
    on_stage("impacts")
    out.impacts = out.attempt(lambda: find_impacts(sections, track=track, rests=out.rests)) or {}
    if not out.impacts:
        _listen_for_impacts(out, sections)
    if (tied := out.tied_impacts) is not None:
        out.impact = out.attempt(
            lambda: mean_impact(audio, start_s=start_s, impact_s=tied.impact_s, band_hz=tied.band_hz)
        )
    on_stage("drive")
    _measure_drive(out, sound, machine, layout, phases, track)
    steady = track.at(spectrum.t_s + start_s) > 0.97 * track.max_rpm / 60.0
    out.bands = out.attempt(lambda: third_octave_levels(spectrum, frames=steady, pa_per_fs=audio.pa_per_fs))
    out.tone = out.attempt(lambda: most_prominent_tone(spectrum, frames=steady))


def _listen_for_impacts(out: RunMeasurement, sections: SoundSections) -> None:
    """Whether any impacts are heard, where too little speed is known to tie them to.

    Asked only where the sound tells that a machine began, ended or changed its speed: a silent room has none either.
    """
    if (out.sound_range_db or 0.0) <= LEAST_RANGE_DB:
        out.absent.setdefault("impacts", "neither the speed nor a change of it is heard.")
        return
    try:
        require_no_impacts(sections)
    except NotMeasurable as reason:
        out.absent[reason.quantity] = reason.reason
    else:
        out.no_impacts = True
        out.absent.pop("impacts", None)


def _measure_drive(
    out: RunMeasurement, sound: _Sound, machine: Machine, layout: Layout, phases: Phases, track: SpeedTrack
) -> None:
    spectrum, start_s = sound.spectrum, sound.start_s
    if any(w.code == "gain_pumping" for w in out.warnings):
        out.absent["noise with the motor off"] = "the phone's automatic gain hides how loud the machine is."
        out.slope = None
    else:
        band = (1000.0, min(8000.0, 0.45 * float(spectrum.frequency_hz[-1]) * 2.0))
        out.persistence = out.attempt(
            lambda: persistence(spectrum, start_s=start_s, track=track, phases=phases, band_hz=band)
        )
    out.squeal = out.attempt(lambda: find_squeal(spectrum, start_s=start_s, phases=phases))
    if layout.drive == "belt":
        ratio = machine.pulley_ratio
        if ratio is None:
            out.absent["belt slip"] = "the pulley ratio is not known."
        else:
            out.slip = out.attempt(lambda: measure_slip(sound.low, track=track, phases=phases, pulley_ratio=ratio))


def _noted(out: RunMeasurement, found: Iterable[Disturbance | None], name: str | None) -> tuple[Span, ...]:
    """Warn of every disturbance; returns the stretches that they spoil."""
    spans: list[Span] = []
    for disturbance in found:
        if disturbance is not None:
            out.warnings.append(Warning(code=disturbance.code, message=disturbance.message, recording=name))
            spans.extend(disturbance.spans)
    return tuple(spans)


def _without(track: SpeedTrack, spans: tuple[Span, ...]) -> SpeedTrack:
    """The track with spoilt stretches unknown, for those who measure what was spoilt there."""
    clean = ~within(track.t_s, spans)
    return replace(track, known=track.known & clean, loosely=track.followed & clean)


def bearings_to_search(machine: Machine) -> tuple[tuple[tuple[str, BearingSize], ...], bool]:
    """Bearings to look for and whether they were named; unknown ones cost a search over the whole catalogue."""
    named = tuple(
        (place, find_bearing(designation))
        for place, designation in (("rear", machine.rear_bearing), ("front", machine.front_bearing))
        if designation is not None
    )
    if len(named) == 2:
        return named, True
    thumb = rule_of_thumb_bearings()
    rest = tuple(("", size) for size in (*BEARINGS, *thumb))
    return named + rest, False


def _no_rotation(reason: str) -> str:
    return f"No turning drum was found in the recordings: {reason}" if reason else "No turning drum was found."
