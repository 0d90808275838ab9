"""Impacts tied to the drum's angle: ticks, knocks and thumps that come back every turn.

In each of three bands the logarithm of the envelope is laid out turn by turn. Over a window of turns the mean profile
(the synchronous average; McFadden, Mech. Syst. Signal Process. 1(1), 1987) is compared with the scatter about it:
an F test on its harmonics from the fourth up, so that smooth once-per-turn swelling does not count. The
concentration of the loudest cell of each turn is tested after Rayleigh (Mardia & Jupp, Directional Statistics, 6.3).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy import signal as sps
from scipy import special

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.angle_grid import TurnStretch, turn_stretches
from eager_ear.core.signals.bands import SectionSpectrum, resample_to_angle
from eager_ear.core.signals.speed_track import SpeedTrack
from eager_ear.core.signals.types import AudioSignal
from eager_ear.core.units import FloatArray

IMPACT_BANDS_HZ = {"thump": (50.0, 200.0), "knock": (200.0, 1500.0), "tick": (2000.0, 9000.0)}
CELLS = 48
WINDOW_TURNS = 8
LOWEST_HARMONIC, HIGHEST_HARMONIC = 4, 20
SLOWEST_HZ = 0.5
DEGREES = 2 * (HIGHEST_HARMONIC - LOWEST_HARMONIC + 1)
# Windows of like speed are judged together; one group in a million stands out by chance.
SPEED_GROUPS_HZ = (0.0, 1.2, 2.5, 5.0, 10.0, 16.0, 100.0)
GROUP_FALSE_ALARM = 1e-6
# The loudest cells are tested at four times their angle: a tick gathers there, a broad swelling cancels out.
SHARPNESS = 4
LEAST_PEAK_DB = 1.0


@dataclass(frozen=True, kw_only=True)
class ImpactFinding:
    """What one band shows.

    per_turn : impacts per revolution, 0.0 when none is tied to the drum
    share : part of all windows of turns in which the profile stands out
    rayleigh_z : mean resultant length squared times the turns, in those windows
    peak_db : height of the peak over the middle of the turn's profile
    speed_rpm : lowest and highest speed at which it occurs, None when it does not
    profile_db : array [shape=(48,), dB], mean profile of the clearest window, loudest cell first
    false_alarm : chance that noise would stand out as much in any speed group of any band
    """

    band: str
    per_turn: float
    share: float
    rayleigh_z: float
    peak_db: float
    speed_rpm: tuple[float, float] | None
    profile_db: FloatArray
    turns: int
    false_alarm: float


def find_impacts(audio: AudioSignal, *, start_s: float, track: SpeedTrack) -> dict[str, ImpactFinding]:
    """Look for impacts tied to the drum in every band that the sample rate holds.

    Raises
    ------
    NotMeasurable
        Fewer than eight revolutions at known speed.
    """
    span = (start_s + 0.1, start_s + audio.duration_s - 0.1)
    stretches = turn_stretches(track, cells=CELLS, above_hz=SLOWEST_HZ, span=span, fewest_turns=WINDOW_TURNS)
    if not stretches:
        raise NotMeasurable(quantity="impacts", reason="fewer than eight revolutions at known speed were recorded.")
    bands = {name: band for name, band in IMPACT_BANDS_HZ.items() if band[1] < 0.47 * audio.sample_rate_hz}
    rows: dict[str, list[_Window]] = {name: [] for name in bands}
    for stretch in stretches:
        section_start = stretch.border_s[0] - 0.05
        first = max(0, int((section_start - start_s) * audio.sample_rate_hz))
        last = min(audio.samples.size, int((stretch.border_s[-1] + 0.05 - start_s) * audio.sample_rate_hz))
        section = SectionSpectrum.of(audio.samples[first:last], sample_rate_hz=audio.sample_rate_hz)
        for name, band in bands.items():
            profile = _turn_profiles(section, band, start_s + first / audio.sample_rate_hz, stretch)
            rows[name].extend(_windows(profile, stretch.turn_rate_hz()))
    return {name: _summary(name, windows) for name, windows in rows.items()}


@dataclass(frozen=True, kw_only=True)
class _Window:
    rate_hz: float
    profile_db: FloatArray
    coherent: float
    scatter: float
    rayleigh_z: float
    sharp_z: float

    @property
    def ratio(self) -> float:
        return self.coherent / max(self.scatter, 1e-12)


def _turn_profiles(
    section: SectionSpectrum, band: tuple[float, float], section_start_s: float, stretch: TurnStretch
) -> FloatArray:
    """Level of each cell of each turn [shape=(turns, CELLS), dB]."""
    base, rate = section.baseband(*band)
    power = base.real**2 + base.imag**2
    cells = resample_to_angle(power, value_rate_hz=rate, start_s=section_start_s, grid_s=stretch.border_s)
    return np.asarray(10.0 * np.log10(cells + 1e-16).reshape(stretch.turns, CELLS))


def _windows(profile: FloatArray, rate_hz: FloatArray) -> list[_Window]:
    out: list[_Window] = []
    for start in range(0, profile.shape[0] - WINDOW_TURNS + 1, WINDOW_TURNS):
        part = profile[start : start + WINDOW_TURNS]
        lines = np.fft.rfft(part - part.mean(axis=1, keepdims=True), axis=1)[:, LOWEST_HARMONIC : HIGHEST_HARMONIC + 1]
        mean = lines.mean(axis=0)
        coherent = WINDOW_TURNS * float(np.sum(np.abs(mean) ** 2)) / DEGREES
        scatter = float(np.sum(np.abs(lines - mean) ** 2)) / (DEGREES * (WINDOW_TURNS - 1))
        loudest = 2 * np.pi * part.argmax(axis=1) / CELLS
        resultant = float(np.abs(np.exp(1j * loudest).mean()))
        sharp = float(np.abs(np.exp(1j * SHARPNESS * loudest).mean()))
        out.append(
            _Window(
                rate_hz=float(np.mean(rate_hz[start : start + WINDOW_TURNS])),
                profile_db=part.mean(axis=0),
                coherent=coherent,
                scatter=scatter,
                rayleigh_z=WINDOW_TURNS * resultant**2,
                sharp_z=WINDOW_TURNS * sharp**2,
            )
        )
    return out


def _standing_out(windows: list[_Window]) -> tuple[list[int], float]:
    """Windows of those speed groups that stand out, taken together, and the smallest chance of a false alarm.

    Two tests, of which the stronger counts twice over: the F test of the profiles, and Rayleigh's on the loudest cells.
    """
    groups = np.digitize([w.rate_hz for w in windows], SPEED_GROUPS_HZ)
    out: list[int] = []
    smallest = 1.0
    trials = 2 * len(IMPACT_BANDS_HZ) * (len(SPEED_GROUPS_HZ) - 1)
    for group in np.unique(groups):
        index = np.flatnonzero(groups == group)
        coherent = float(np.mean([windows[k].coherent for k in index]))
        scatter = float(np.mean([windows[k].scatter for k in index]))
        degrees = DEGREES * index.size
        by_profile = float(special.fdtrc(degrees, degrees * (WINDOW_TURNS - 1), coherent / max(scatter, 1e-12)))
        by_angle = float(special.gammaincc(index.size, sum(windows[k].sharp_z for k in index)))
        p = min(by_profile, by_angle)
        smallest = min(smallest, p * trials)
        if p < GROUP_FALSE_ALARM:
            out.extend(int(k) for k in index)
    return out, max(min(smallest, 1.0), 1e-300)


def _summary(name: str, windows: list[_Window]) -> ImpactFinding:
    flat = [w.profile_db - np.median(w.profile_db) for w in windows]
    turns = len(windows) * WINDOW_TURNS
    together, false_alarm = _standing_out(windows)
    # In a group that stands out, the windows that carry it are those above the group's own chance level.
    locked = [
        k
        for k in together
        if max(windows[k].ratio / 1.3, windows[k].sharp_z / 2.0) > 1.0 and float(flat[k].max()) > LEAST_PEAK_DB
    ]
    if not locked:
        calm = np.zeros(CELLS) if not flat else np.mean(flat, axis=0)
        return ImpactFinding(
            band=name,
            per_turn=0.0,
            share=0.0,
            rayleigh_z=0.0,
            peak_db=float(calm.max()),
            speed_rpm=None,
            profile_db=calm,
            turns=turns,
            false_alarm=false_alarm,
        )
    clearest = max(locked, key=lambda k: windows[k].ratio)
    speeds = np.array([windows[k].rate_hz for k in locked]) * 60.0
    counts = [_peak_count(flat[k]) for k in sorted(locked, key=lambda k: -windows[k].ratio)[:5]]
    best = flat[clearest]
    return ImpactFinding(
        band=name,
        per_turn=float(np.median(counts)),
        share=len(locked) / max(len(windows), 1),
        rayleigh_z=float(np.median([windows[k].rayleigh_z for k in locked])),
        peak_db=float(np.percentile([flat[k].max() for k in locked], 80)),
        speed_rpm=(float(np.percentile(speeds, 5)), float(np.percentile(speeds, 95))),
        profile_db=np.roll(best, -int(best.argmax())),
        turns=turns,
        false_alarm=false_alarm,
    )


def _peak_count(profile_db: FloatArray) -> int:
    """Separate peaks of one turn that reach half the highest one's height in dB."""
    centred = np.roll(profile_db, CELLS // 2 - int(profile_db.argmax()))
    peaks, _ = sps.find_peaks(centred, height=0.5 * centred.max(), distance=CELLS // 12, prominence=0.4 * centred.max())
    return max(1, int(peaks.size))
