"""Everything measured on one run: recordings made at the same time, on one clock."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import TypeVar

import numpy as np

from eager_ear.core.case import Recording
from eager_ear.core.errors import NotMeasurable
from eager_ear.core.machine import (
    BearingSize,
    Machine,
    bearing_catalogue,
    find_bearing,
    find_layout,
    rule_of_thumb_bearings,
)
from eager_ear.core.signals.clock import ClockLag
from eager_ear.core.signals.drag import DragFit, fit_coast_down
from eager_ear.core.signals.drive import (
    Persistence,
    SlipMeasurement,
    Squeal,
    find_squeal,
    measure_slip,
    persistence,
)
from eager_ear.core.signals.envelope import EnvelopeSpectrum, RaceLine, envelope_spectra, find_race_lines
from eager_ear.core.signals.even_grid import EvenAcceleration, even_acceleration
from eager_ear.core.signals.impacts import ImpactFinding, find_impacts
from eager_ear.core.signals.low_band import LowBand
from eager_ear.core.signals.orders import GrowthFit, OrderCurves, growth_above, order_curves
from eager_ear.core.signals.phases import Phases, cut_phases
from eager_ear.core.signals.quality import Warning, judge_acceleration, judge_audio
from eager_ear.core.signals.sound import (
    LevelSlope,
    frame_levels_db,
    level_slope,
    resting_stretches,
    roughness,
)
from eager_ear.core.signals.speed import SpeedSources, find_speed
from eager_ear.core.signals.speed_track import SpeedTrack
from eager_ear.core.signals.suspension import SuspensionFit, fit_run_up
from eager_ear.core.signals.transform import Spectrogram, short_time_power
from eager_ear.core.signals.types import AccelerationSignal, AudioSignal, TachoSignal
from eager_ear.core.units import FloatArray

FRAME_S = 0.085
HOP_S = 0.0213
OnStage = Callable[[str], None]
T = TypeVar("T")


@dataclass(kw_only=True)
class RunMeasurement:
    """Results of one run; what is None has its reason in `absent`, by quantity."""

    key: str
    load: str | None
    warnings: list[Warning] = field(default_factory=list)
    absent: dict[str, str] = field(default_factory=dict)
    duration_s: float = 0.0
    sound_range_db: float | None = None
    vibration_recorded: bool = False
    track: SpeedTrack | None = None
    lag: ClockLag | None = None
    rests: tuple[tuple[float, float], ...] = ()
    phases: Phases | None = None
    curves: OrderCurves | None = None
    suspension: tuple[SuspensionFit, ...] = ()
    growth: GrowthFit | None = None
    drag: DragFit | None = None
    spectra: tuple[EnvelopeSpectrum, ...] = ()
    race_lines: tuple[RaceLine, ...] = ()
    bearings_known: bool = False
    impacts: dict[str, ImpactFinding] = field(default_factory=dict)
    slip: SlipMeasurement | None = None
    persistence: Persistence | None = None
    squeal: Squeal | None = None
    slope: LevelSlope | None = None
    level_db: FloatArray | None = None
    roughness: FloatArray | None = None
    audio_name: str | None = None
    acceleration: EvenAcceleration | None = None

    @property
    def impacts_per_rev(self) -> float:
        """Impacts per revolution of the band in which they are tied to the drum most of the time, 0.0 for none."""
        locked = [i for i in self.impacts.values() if i.per_turn > 0]
        return max(locked, key=lambda i: i.share).per_turn if locked else 0.0

    def attempt(self, measure: Callable[[], T]) -> T | None:
        """The result of `measure`, or None with its reason kept."""
        try:
            return measure()
        except NotMeasurable as reason:
            self.absent[reason.quantity] = reason.reason
            return None


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
    out = RunMeasurement(key=key, load=next((r.facts.load for r in recordings if r.facts.load), None))
    audio, audio_start = _pick_audio(recordings, out)
    vibration = _pick_acceleration(recordings, out, highest_hz=(machine.max_spin_rpm or layout.spin_rpm[1]) / 60.0)
    tacho, tacho_start = _pick(recordings, TachoSignal)
    out.acceleration = vibration
    out.vibration_recorded = vibration is not None
    out.duration_s = max((r.signal.duration_s for r in recordings), default=0.0)

    on_stage("spectra")
    spectrum = None
    if audio is not None:
        sound = audio
        spectrum = out.attempt(
            lambda: short_time_power(sound.samples, sample_rate_hz=sound.sample_rate_hz, frame_s=FRAME_S, hop_s=HOP_S)
        )
        out.sound_range_db = _range_db(spectrum)
    on_stage("speed")
    low = LowBand.of(audio, start_s=audio_start, mains_hz=machine.mains_hz) if audio is not None else None
    sources = SpeedSources(low=low, acceleration=vibration, tacho=tacho, tacho_start_s=tacho_start)
    found = out.attempt(lambda: find_speed(sources, machine=machine, layout=layout))
    if found is not None:
        out.track, out.lag = found.track, found.lag
        if found.lag is not None:
            audio_start += found.lag.lag_s
        elif audio is not None and vibration is not None:
            out.absent["clock lag"] = found.lag_absent
    if out.track is None:
        out.warnings.append(Warning(code="no_rotation_seen", message=_no_rotation(out.absent.get("speed track", ""))))
        return out
    track = out.track
    if spectrum is not None:
        out.level_db = frame_levels_db(spectrum, start_s=audio_start, t_s=track.t_s)
        out.roughness = roughness(spectrum, start_s=audio_start, t_s=track.t_s)
    out.rests = resting_stretches(t_s=track.t_s, known=track.known, level_db=out.level_db, acceleration=vibration)
    noted = next((r.facts.power_cut_s for r in recordings if r.facts.power_cut_s is not None), None)
    phases = cut_phases(track, rests=out.rests, noted_power_cut_s=noted)
    out.phases = phases

    on_stage("orders")
    if vibration is not None:
        curves = order_curves(vibration, track=track)
        out.curves = curves
        out.suspension = out.attempt(lambda: fit_run_up(curves, track=track, phases=phases, layout=layout)) or ()
        critical = out.suspension[0].critical_hz if out.suspension else layout.critical_rpm[1] / 60.0
        out.growth = growth_above(curves, from_hz=1.8 * critical)
    else:
        out.absent["order amplitudes"] = "no acceleration was recorded."
    out.drag = out.attempt(lambda: fit_coast_down(track, phases=phases))
    if audio is not None and spectrum is not None:
        _measure_sound(out, audio, audio_start, spectrum, machine=machine, on_stage=on_stage)
    else:
        out.absent["bearing lines"] = out.absent["impacts"] = "no sound was recorded."
    return out


def _measure_sound(
    out: RunMeasurement,
    audio: AudioSignal,
    start_s: float,
    spectrum: Spectrogram,
    *,
    machine: Machine,
    on_stage: OnStage,
) -> None:
    track, phases = out.track, out.phases
    if track is None or phases is None:
        return
    on_stage("bearings")
    whole = (start_s, start_s + audio.duration_s)
    out.spectra = out.attempt(lambda: envelope_spectra(audio, start_s=start_s, track=track, span=whole)) or ()
    if out.spectra:
        bearings, out.bearings_known = bearings_to_search(machine)
        out.race_lines = find_race_lines(out.spectra, bearings=bearings)
    on_stage("impacts")
    out.impacts = out.attempt(lambda: find_impacts(audio, start_s=start_s, track=track)) or {}
    on_stage("drive")
    band = (1000.0, min(8000.0, 0.45 * audio.sample_rate_hz))
    out.persistence = out.attempt(
        lambda: persistence(spectrum, start_s=start_s, track=track, phases=phases, band_hz=band)
    )
    out.squeal = out.attempt(lambda: find_squeal(spectrum, start_s=start_s, phases=phases))
    out.slope = level_slope(spectrum, start_s=start_s, track=track)
    if find_layout(machine.layout).drive == "belt":
        ratio = machine.pulley_ratio
        if ratio is None:
            out.absent["belt slip"] = "the pulley ratio is not known."
        else:
            out.slip = out.attempt(
                lambda: measure_slip(audio, start_s=start_s, track=track, phases=phases, pulley_ratio=ratio)
            )


def bearings_to_search(machine: Machine) -> tuple[tuple[tuple[str, BearingSize], ...], bool]:
    """Bearings to look for and whether they were named; unknown ones cost a search over the whole catalogue."""
    catalogue = bearing_catalogue()
    named = tuple(
        (place, find_bearing(designation, catalogue=catalogue))
        for place, designation in (("rear", machine.rear_bearing), ("front", machine.front_bearing))
        if designation is not None
    )
    if len(named) == 2:
        return named, True
    thumb = rule_of_thumb_bearings()
    rest = tuple(("", size) for size in (*catalogue, *thumb))
    return named + rest, False


def _pick(recordings: Sequence[Recording], kind: type[T]) -> tuple[T | None, float]:
    for recording in recordings:
        if isinstance(recording.signal, kind):
            return recording.signal, recording.facts.start_s
    return None, 0.0


def _pick_audio(recordings: Sequence[Recording], out: RunMeasurement) -> tuple[AudioSignal | None, float]:
    """The longest unclipped sound recording of the run."""
    best: tuple[tuple[bool, float], AudioSignal, float, str] | None = None
    for recording in recordings:
        if not isinstance(recording.signal, AudioSignal):
            continue
        found = judge_audio(recording.signal, name=recording.facts.name, is_spin=True)
        out.warnings.extend(found)
        rank = (not any(w.code == "clipped" for w in found), recording.signal.duration_s)
        if best is None or rank > best[0]:
            best = (rank, recording.signal, recording.facts.start_s, recording.facts.name)
    if best is None:
        return None, 0.0
    out.audio_name = best[3]
    return best[1], best[2]


def _pick_acceleration(
    recordings: Sequence[Recording], out: RunMeasurement, *, highest_hz: float
) -> EvenAcceleration | None:
    for recording in recordings:
        if isinstance(recording.signal, AccelerationSignal) and recording.signal.present:
            even = even_acceleration(recording.signal, start_s=recording.facts.start_s)
            out.warnings.extend(
                judge_acceleration(
                    recording.signal,
                    name=recording.facts.name,
                    is_spin=True,
                    gaps=len(even.gaps_s),
                    highest_hz=highest_hz,
                )
            )
            return even
    return None


def _range_db(spectrum: Spectrogram | None) -> float | None:
    if spectrum is None:
        return None
    level = 10.0 * np.log10(spectrum.band_power(100.0, 8000.0) + 1e-16)
    return float(np.percentile(level, 90) - np.percentile(level, 2))


def _no_rotation(reason: str) -> str:
    return f"No turning drum was found in the recordings: {reason}" if reason else "No turning drum was found."
