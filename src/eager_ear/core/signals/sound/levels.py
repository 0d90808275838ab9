"""Loudness over time and speed, where the machine stands still, and how rough the sound is."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy

from eager_ear.core.signals.angle import FRAME_STEP_S, SpeedTrack
from eager_ear.core.signals.dsp import EvenAcceleration, Spectrogram, line_over_speed
from eager_ear.core.units import BoolArray, FloatArray

# A machine at rest is as quiet as it ever is. The margins are what the level's own scatter needs, for half a second of
# sound from 100 Hz up and for vibration, and no more.
REST_MARGIN_SOUND_DB = 0.8
REST_MARGIN_VIBRATION_DB = 2.5
LEAST_RANGE_DB = 12.0
SHORTEST_REST_S = 0.5
FALL_FRAMES = 16
LEAST_FALL_HZ_S = 0.1


@dataclass(frozen=True, kw_only=True)
class LevelSlope:
    """How the level rises with speed: dB per doubling, with standard error."""

    db_per_doubling: float
    sigma: float


def level_slope(spectrum: Spectrogram, *, start_s: float, track: SpeedTrack) -> LevelSlope | None:
    """Straight line of level (300 Hz to 6 kHz) over the logarithm of speed; None with less than one octave."""
    rate = track.at(spectrum.t_s + start_s)
    use = np.isfinite(rate) & (rate > 2.5)
    if use.sum() < 20 or np.ptp(np.log2(rate[use])) < 1.0:
        return None
    level = 10.0 * np.log10(spectrum.band_power(300.0, 6000.0)[use] + 1e-16)
    line = line_over_speed(rate[use], level, bins=10)
    return None if line is None else LevelSlope(db_per_doubling=np.log(2.0) * line[0], sigma=np.log(2.0) * line[1])


def frame_levels_db(spectrum: Spectrogram, *, start_s: float, t_s: FloatArray) -> FloatArray:
    """Level between 100 Hz and 8 kHz at the given times [shape like t_s, dB re full scale]; NaN outside."""
    level = 10.0 * np.log10(spectrum.band_power(100.0, 8000.0) + 1e-16)
    smooth = scipy.ndimage.uniform_filter1d(level, max(1, int(FRAME_STEP_S / max(spectrum.hop_s, 1e-6))))
    return np.asarray(np.interp(t_s, spectrum.t_s + start_s, smooth, left=np.nan, right=np.nan))


def level_scatter(spectrum: Spectrogram, *, start_s: float, t_s: FloatArray) -> FloatArray:
    """Frame-to-frame scatter of the level above 1 kHz, 0 (steady noise) to 1 (hammering) [shape like t_s].

    The standard deviation of the level in dB over half a second, less what Gaussian noise in that band shows.
    """
    level = 10.0 * np.log10(spectrum.band_power(1000.0, 8000.0) + 1e-16)
    frames = max(3, int(0.5 / max(spectrum.hop_s, 1e-6)))
    mean = scipy.ndimage.uniform_filter1d(level, frames)
    spread = np.sqrt(scipy.ndimage.uniform_filter1d((level - mean) ** 2, frames))
    bins = max(1.0, 7000.0 / spectrum.bin_hz / 1.5)
    expected = 4.34 / np.sqrt(bins)
    rough = np.clip((spread - 1.5 * expected) / 3.0, 0.0, 1.0)
    return np.asarray(np.interp(t_s, spectrum.t_s + start_s, rough, left=0.0, right=0.0))


def resting_stretches(
    *,
    t_s: FloatArray,
    known: BoolArray,
    level_db: FloatArray | None,
    acceleration: EvenAcceleration | None,
) -> tuple[tuple[float, float], ...]:
    """Where the machine stands: no speed found, and sound and vibration at their lowest.

    The lowest level only counts as rest when the run also holds something at least 12 dB louder.
    """
    quiet = ~np.asarray(known, dtype=bool)
    # Slow turning does not shake a cabinet: only sound can tell it from rest, vibration can but contradict.
    if level_db is None or not _tells(level_db):
        return ()
    quiet &= _at_floor(level_db, REST_MARGIN_SOUND_DB)
    vibration_db = _vibration_level_db(acceleration, t_s)
    if vibration_db is not None and _tells(vibration_db):
        quiet &= _at_floor(vibration_db, REST_MARGIN_VIBRATION_DB)
    quiet = scipy.ndimage.binary_closing(quiet, iterations=2)
    labels, count = scipy.ndimage.label(quiet)
    spans = [np.flatnonzero(labels == k) for k in range(1, count + 1)]
    return tuple((float(t_s[s[0]]), float(t_s[s[-1]])) for s in spans if t_s[s[-1]] - t_s[s[0]] >= SHORTEST_REST_S)


def rest_after_fall_s(track: SpeedTrack) -> float:
    """When the drum must have come to rest after its last known fall [s]; infinite where no fall was followed.

    Slow turning of an empty drum is often as quiet as the room: quiet alone is no rest. A fall that was seen and is
    carried on, with a third to spare for drag that lessens, is.
    """
    known = np.flatnonzero(track.known)
    if known.size < FALL_FRAMES:
        return float("inf")
    last = known[-FALL_FRAMES:]
    slope = float(np.polyfit(track.t_s[last], track.rate_hz[last], 1)[0])
    if slope > -LEAST_FALL_HZ_S:
        return float("inf")
    return float(track.t_s[last[-1]] + 1.33 * track.rate_hz[last[-1]] / -slope)


def _tells(level_db: FloatArray) -> bool:
    """Whether the run holds something much louder than its floor."""
    return bool(
        np.isfinite(level_db).any() and np.nanpercentile(level_db, 95) - np.nanpercentile(level_db, 3) >= LEAST_RANGE_DB
    )


def _at_floor(level_db: FloatArray, margin_db: float) -> BoolArray:
    floor = float(np.nanpercentile(level_db, 3))
    return np.asarray(np.nan_to_num(level_db, nan=floor) < floor + margin_db)


def _vibration_level_db(acceleration: EvenAcceleration | None, t_s: FloatArray) -> FloatArray | None:
    if acceleration is None:
        return None
    power = np.square(np.diff(acceleration.axes_m_s2, axis=1)).sum(axis=0)
    frames = max(3, int(0.4 * acceleration.sample_rate_hz))
    # A running mean may end a rounding below nothing.
    level = 10.0 * np.log10(np.maximum(scipy.ndimage.uniform_filter1d(power, frames), 0.0) + 1e-12)
    return np.asarray(np.interp(t_s, acceleration.t_s[1:], level, left=np.nan, right=np.nan))
