"""What a spin sounds and shakes like at each speed, and how that compares with other spins at the same speeds.

Level grows by some 10 to 15 dB with a doubling of speed, so machines compare only at equal speed. Sound is kept in
third-octave bands by steps of speed, under power; vibration as the level of the once-per-turn velocity. What a phone
adds or takes away as a whole is unknown unless its microphone is calibrated: then only the shape over the bands is
compared, and the difference as a whole is said beside it. Errors are those of means over steps of speed (Bendat &
Piersol, Random Data, 4th ed., section 4.2), and of putting a phone down again.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median

import numpy as np

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.angle import OrderCurves, SpeedTrack
from eager_ear.core.signals.dsp import (
    Spectrogram,
    by_bin,
)
from eager_ear.core.signals.sound.loudness import FEWEST_FRAMES, BandLevels, third_octave_levels
from eager_ear.core.signals.speed import Phases
from eager_ear.core.units import BoolArray, FloatArray, IntArray

# Steps of speed are quarter octaves, counted from one turn a second: within one, level moves by some 3 dB.
STEPS_PER_OCTAVE = 4
FEWEST_STEPS = 3
# A phone put down a hand's breadth away hears bands 2 to 3 dB differently near a machine; an empty drum's unbalance
# moves by about a tenth from one spin to the next.
PLACED_AGAIN_DB = 2.5
SPUN_AGAIN_DB = 1.0
CLEAR_SIGMAS = 2.0
# Rolling, rubbing and hissing lie above it, unbalance, motor and water below.
BRIGHT_HZ = 1000.0


@dataclass(frozen=True, kw_only=True)
class SpinProfile:
    """One spin by steps of speed; NaN where a step was not passed under power, or not recorded.

    step : array [shape=(speeds,), int], step k holds 2^(k/4) to 2^((k+1)/4) turns a second
    centre_hz : array [shape=(bands,)]; level_db : array [shape=(speeds, bands)]
    shake_db : array [shape=(speeds,), dB re 1 mm/s], once-per-turn velocity over all axes, peak
    calibrated : sound in dB re 20 µPa, else re full scale
    """

    step: IntArray
    centre_hz: FloatArray
    level_db: FloatArray
    shake_db: FloatArray
    calibrated: bool


@dataclass(frozen=True, kw_only=True)
class LevelAtSpeed:
    """What one spin is at one step of speed; None where it was not recorded.

    bright_db : sound above `BRIGHT_HZ` against sound below it, which no microphone's gain changes
    """

    speed_rpm: float
    bright_db: float | None
    shake_mm_s: float | None


@dataclass(frozen=True, kw_only=True)
class Difference:
    """How far a spin lies above others, dB, with its standard error, and how many of them it exceeds clearly."""

    db: float
    sigma_db: float
    above: int

    @property
    def is_clear(self) -> bool:
        return abs(self.db) > CLEAR_SIGMAS * self.sigma_db


@dataclass(frozen=True, kw_only=True)
class ProfileComparison:
    """One spin against one or several others at equal speeds.

    bands : by centre frequency; the differences' common part is taken out of them unless all were calibrated
    overall : that common part, None without shared sound
    shake : of the once-per-turn velocity, None without shared vibration
    speed_rpm : range of the speeds shared with any of them
    """

    others: int
    bands: tuple[tuple[float, Difference], ...]
    overall: Difference | None
    shake: Difference | None
    speed_rpm: tuple[float, float]
    calibrated: bool


def spin_profile(
    track: SpeedTrack,
    *,
    phases: Phases,
    spectrum: Spectrogram | None,
    start_s: float,
    pa_per_fs: float | None,
    curves: OrderCurves | None,
) -> SpinProfile | None:
    """The profile of a run's driven part; None when no step of speed was held or passed long enough."""
    sound = {} if spectrum is None else _levels_by_step(track, phases, spectrum, start_s, pa_per_fs)
    shake = {} if curves is None else _shake_by_step(curves, phases)
    steps = sorted({*sound, *shake})
    if not steps:
        return None
    centres = max((levels.centre_hz for levels in sound.values()), key=len, default=np.empty(0))
    level = np.full((len(steps), centres.size), np.nan)
    for row, step in enumerate(steps):
        if step in sound:
            level[row, : sound[step].level_db.size] = sound[step].level_db
    return SpinProfile(
        step=np.array(steps),
        centre_hz=centres,
        level_db=level,
        shake_db=np.array([shake.get(step, np.nan) for step in steps]),
        calibrated=pa_per_fs is not None,
    )


def _driven(phases: Phases, t_s: FloatArray) -> BoolArray:
    cut_s = phases.power_cut_s
    return np.ones(t_s.size, dtype=bool) if cut_s is None else np.asarray(t_s < cut_s)


def _steps(rate_hz: FloatArray) -> IntArray:
    return np.asarray(np.floor(STEPS_PER_OCTAVE * np.log2(np.maximum(rate_hz, 1e-3))).astype(int))


def _levels_by_step(
    track: SpeedTrack, phases: Phases, spectrum: Spectrogram, start_s: float, pa_per_fs: float | None
) -> dict[int, BandLevels]:
    t_s = spectrum.t_s + start_s
    rate = track.at(t_s)
    use = np.isfinite(rate) & _driven(phases, t_s)
    step = _steps(np.where(use, rate, 1.0))
    return {
        int(k): third_octave_levels(spectrum, frames=use & (step == k), pa_per_fs=pa_per_fs)
        for k in np.unique(step[use])
        if (use & (step == k)).sum() >= FEWEST_FRAMES
    }


def _shake_by_step(curves: OrderCurves, phases: Phases) -> dict[int, float]:
    use = np.flatnonzero(curves.significant(1) & _driven(phases, curves.t_s))
    velocity = 1000.0 * np.abs(curves.amplitude_m_s2[:, 0, use]) / (2 * np.pi * np.maximum(curves.rate_hz[use], 0.3))
    power = np.square(velocity).sum(axis=0)
    found, medians = by_bin(power, _steps(curves.rate_hz[use]), of=np.median, fewest=FEWEST_STEPS)
    return dict(zip(found.tolist(), (10.0 * np.log10(medians)).tolist(), strict=True))


def compare_profiles(spin: SpinProfile, others: Sequence[SpinProfile]) -> ProfileComparison:
    """Compare a spin with others at the steps of speed that each shares with it.

    Raises
    ------
    NotMeasurable
        No other spin, or none that shares three steps of speed.
    """
    if not others:
        raise NotMeasurable(quantity="comparison", reason="there is no other spin to compare with.")
    rows = [np.intersect1d(spin.step, other.step, return_indices=True) for other in others]
    heard = [_band_differences(spin, other, a, b) for other, (_, a, b) in zip(others, rows, strict=True)]
    shaken = [_shake_difference(spin, other, a, b) for other, (_, a, b) in zip(others, rows, strict=True)]
    sounds = [found for found in heard if found is not None]
    shakes = [found for found in shaken if found is not None]
    if not sounds and not shakes:
        raise NotMeasurable(quantity="comparison", reason="the spins share too little of their speeds.")
    calibrated = bool(sounds) and spin.calibrated and all(o.calibrated for o in others)
    shared = np.concatenate([steps for steps, _, _ in rows])
    low, high = (60.0 * 2.0 ** (k / STEPS_PER_OCTAVE) for k in (int(shared.min()), int(shared.max()) + 1))
    wholes = [_whole(found) for found in sounds]
    bands: list[tuple[float, Difference]] = []
    for band, centre in enumerate(spin.centre_hz):
        told = [
            (float(found[band, 0]) - (0.0 if calibrated else whole[0]), float(found[band, 1]))
            for found, whole in zip(sounds, wholes, strict=True)
            if band < len(found) and np.isfinite(found[band]).all()
        ]
        if told:
            bands.append((float(centre), _together(told)))
    return ProfileComparison(
        others=len(others),
        bands=tuple(bands),
        overall=_together(wholes) if wholes else None,
        shake=_together(shakes) if shakes else None,
        speed_rpm=(low, high),
        calibrated=calibrated,
    )


def _band_differences(spin: SpinProfile, other: SpinProfile, a: IntArray, b: IntArray) -> FloatArray | None:
    """Difference and standard error of every shared band [shape=(bands, 2), dB]; None without shared sound."""
    count = min(spin.centre_hz.size, other.centre_hz.size)
    out = _means(spin.level_db[a, :count] - other.level_db[b, :count], PLACED_AGAIN_DB)
    return out if np.isfinite(out).any() else None


def _shake_difference(spin: SpinProfile, other: SpinProfile, a: IntArray, b: IntArray) -> tuple[float, float] | None:
    ((db, sigma),) = _means((spin.shake_db[a] - other.shake_db[b])[:, None], SPUN_AGAIN_DB)
    return (float(db), float(sigma)) if np.isfinite(db) else None


def _means(table: FloatArray, again_db: float) -> FloatArray:
    """Mean of each column of steps and its standard error, with that of doing it again [shape=(columns, 2)].

    NaN for a column with fewer than three steps.
    """
    told = np.isfinite(table)
    count = told.sum(axis=0)
    mean = np.where(told, table, 0.0).sum(axis=0) / np.maximum(count, 1)
    scatter = np.square(np.where(told, table - mean, 0.0)).sum(axis=0) / np.maximum(count - 1, 1)
    # Neighbouring steps of one passage are alike: half of them count as independent.
    error = np.sqrt(scatter / np.maximum(count / 2.0, 1.0))
    out = np.stack([mean, np.hypot(error, again_db)], axis=1)
    out[count < FEWEST_STEPS] = np.nan
    return out


def _whole(found: FloatArray) -> tuple[float, float]:
    """What all bands have in common: their median, known no better than one band is."""
    told = found[np.isfinite(found).all(axis=1)]
    return median(told[:, 0].tolist()), median(told[:, 1].tolist())


def _together(told: Sequence[tuple[float, float]]) -> Difference:
    """Against several: the median difference, with the scatter of the others as its error where there are some."""
    db = [d for d, _ in told]
    middle, sigma = median(db), median([s for _, s in told])
    if len(db) > 1:
        # The others' own spread is what a difference has to exceed.
        sigma = max(sigma, 1.4826 * median([abs(d - middle) for d in db]))
    return Difference(db=middle, sigma_db=sigma, above=sum(d > CLEAR_SIGMAS * s for d, s in told))


def levels_at_speeds(profile: SpinProfile) -> tuple[LevelAtSpeed, ...]:
    """A spin step by step of speed, for one line beside others: how bright it sounds, how far it shakes.

    Brightness is in dB; velocity is once per turn, peak, in mm/s.
    """
    bright = profile.centre_hz >= BRIGHT_HZ
    out = []
    for step, levels, shake in zip(profile.step, profile.level_db, profile.shake_db, strict=True):
        heard = np.isfinite(levels)
        both = bool((heard & bright).any() and (heard & ~bright).any())
        felt = 10.0 ** (shake / 20.0) if np.isfinite(shake) else None
        if not both and felt is None:
            continue
        brightness = _sum_db(levels[heard & bright]) - _sum_db(levels[heard & ~bright]) if both else None
        out.append(
            LevelAtSpeed(
                speed_rpm=float(60.0 * 2.0 ** ((step + 0.5) / STEPS_PER_OCTAVE)),
                bright_db=None if brightness is None else round(brightness, 1),
                shake_mm_s=None if felt is None else round(float(felt), 3),
            )
        )
    return tuple(out)


def _sum_db(levels_db: FloatArray) -> float:
    return float(10.0 * np.log10(np.sum(10.0 ** (levels_db / 10.0))))
