"""Levels in standard bands, A-weighting, prominent tones, and how far a spin rises above its room.

Third-octave bands after IEC 61260-1:2014 (base-ten, exact mid-band frequencies 1000·10^(0.1·k) Hz), A-weighting in its
closed form after IEC 61672-1:2013 annex E, prominence ratio after ECMA-418-1:2022 clause 12. Levels are relative to
full scale unless the microphone is calibrated.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.dsp import HANN_NOISE_BANDWIDTH_BINS, Spectrogram
from eager_ear.core.units import BoolArray, FloatArray

# Third octaves from 125 Hz: below it phones hear little.
LOWEST_BAND = -9
# To 16 kHz, in steps of the standard (IEC 61260-1).
HIGHEST_BAND = 12
# Sound pressure of 0 dB (ISO 1683).
REFERENCE_PA = 2.0e-5
# Half a second of sound: a band's level then scatters by a decibel or two.
FEWEST_FRAMES = 12
# Tones below this have critical bands narrower than the frames resolve.
LOWEST_TONE_HZ = 171.4
HIGHEST_TONE_HZ = 8000.0
LEAST_ABOVE_ROOM_DB = 6.0


@dataclass(frozen=True, kw_only=True)
class BandLevels:
    """Mean level of each third-octave band.

    centre_hz, level_db : arrays [shape=(bands,)]; total_db, a_weighted_db : over all bands
    calibrated : dB re 20 µPa, else dB re full scale
    """

    centre_hz: FloatArray
    level_db: FloatArray
    total_db: float
    a_weighted_db: float
    calibrated: bool


def a_weighting_db(frequency_hz: FloatArray) -> FloatArray:
    """A-weighting at any frequency [shape like the input, dB].

    Source: IEC 61672-1:2013, annex E.

    >>> [round(float(w), 1) for w in a_weighting_db(np.array([100.0, 1000.0, 10000.0]))]
    [-19.1, 0.0, -2.5]
    """
    f2 = np.asarray(frequency_hz, dtype=float) ** 2
    gain = (
        12194.217**2
        * f2**2
        / ((f2 + 20.598997**2) * np.sqrt((f2 + 107.65265**2) * (f2 + 737.86223**2)) * (f2 + 12194.217**2))
    )
    return np.asarray(20.0 * np.log10(np.maximum(gain, 1e-12)) + 2.0)


def third_octave_levels(spectrum: Spectrogram, *, frames: BoolArray, pa_per_fs: float | None) -> BandLevels:
    """Levels over the frames chosen; bins on a band's border count by their share.

    Parameters
    ----------
    frames : array [shape=(frames,), bool]
    pa_per_fs : sound pressure at full scale, None when not calibrated

    Raises
    ------
    NotMeasurable
        Fewer than twelve frames, about a quarter of a second.
    """
    if frames.sum() < FEWEST_FRAMES:
        raise NotMeasurable(quantity="third-octave levels", reason="less than a quarter of a second is left.")
    power = spectrum.power[frames].mean(axis=0, dtype=np.float64) / HANN_NOISE_BANDWIDTH_BINS
    edges = (np.arange(power.size + 1) - 0.5) * spectrum.bin_hz
    below = np.concatenate([[0.0], np.cumsum(power)])
    top_hz = edges[-1]
    centres = 1000.0 * 10.0 ** (0.1 * np.arange(LOWEST_BAND, HIGHEST_BAND + 1))
    centres = centres[centres * 10.0**0.05 < top_hz]
    low, high = centres * 10.0**-0.05, centres * 10.0**0.05
    band = np.interp(high, edges, below) - np.interp(low, edges, below)
    gain_db = 0.0 if pa_per_fs is None else 20.0 * np.log10(pa_per_fs / REFERENCE_PA)
    level = 10.0 * np.log10(band + 1e-20) + gain_db
    weighted = level + a_weighting_db(centres)
    return BandLevels(
        centre_hz=centres,
        level_db=level,
        total_db=float(10.0 * np.log10(np.sum(10.0 ** (level / 10.0)))),
        a_weighted_db=float(10.0 * np.log10(np.sum(10.0 ** (weighted / 10.0)))),
        calibrated=pa_per_fs is not None,
    )


@dataclass(frozen=True, kw_only=True)
class ProminentTone:
    """The most prominent tone: its frequency, ratio to the neighbouring critical bands, and by how much it is
    prominent (positive) or not."""

    frequency_hz: float
    ratio_db: float
    over_limit_db: float


def critical_bandwidth_hz(frequency_hz: float) -> float:
    """Width of the critical band around a frequency (Zwicker & Terhardt, J. Acoust. Soc. Am. 68(5), 1980).

    >>> round(critical_bandwidth_hz(1000.0), 1)
    162.2
    """
    return float(25.0 + 75.0 * (1.0 + 1.4 * (frequency_hz / 1000.0) ** 2) ** 0.69)


def most_prominent_tone(spectrum: Spectrogram, *, frames: BoolArray) -> ProminentTone:
    """Largest prominence ratio over its limit, among the local peaks of the mean spectrum.

    Raises
    ------
    NotMeasurable
        Fewer than twelve frames.
    """
    if frames.sum() < FEWEST_FRAMES:
        raise NotMeasurable(quantity="prominent tone", reason="no steady stretch of a quarter of a second.")
    power = spectrum.power[frames].mean(axis=0, dtype=np.float64)
    edges = (np.arange(power.size + 1) - 0.5) * spectrum.bin_hz
    below = np.concatenate([[0.0], np.cumsum(power)])
    frequency = spectrum.frequency_hz
    top_hz = min(HIGHEST_TONE_HZ, 0.8 * float(frequency[-1]))
    peak = (power[1:-1] > power[:-2]) & (power[1:-1] >= power[2:])
    candidates = frequency[1:-1][peak & (frequency[1:-1] > LOWEST_TONE_HZ) & (frequency[1:-1] < top_hz)]
    if candidates.size == 0:
        raise NotMeasurable(quantity="prominent tone", reason="the spectrum has no peak.")
    width = 25.0 + 75.0 * (1.0 + 1.4 * (candidates / 1000.0) ** 2) ** 0.69
    middle_low = -0.5 * width + 0.5 * np.sqrt(width**2 + 4.0 * candidates**2)
    middle_high = middle_low + width

    def held(low_hz: FloatArray, high_hz: FloatArray) -> FloatArray:
        return np.asarray(np.interp(high_hz, edges, below) - np.interp(low_hz, edges, below))

    tone = held(middle_low, middle_high)
    beside = 0.5 * (held(middle_low - width, middle_low) + held(middle_high, middle_high + width))
    ratio = 10.0 * np.log10(np.maximum(tone, 1e-30) / np.maximum(beside, 1e-30))
    limit = 9.0 + 10.0 * np.log10(1000.0 / np.minimum(candidates, 1000.0))
    best = int(np.argmax(ratio - limit))
    return ProminentTone(
        frequency_hz=float(candidates[best]),
        ratio_db=float(ratio[best]),
        over_limit_db=float(ratio[best] - limit[best]),
    )


def above_room_db(spin: BandLevels, room: BandLevels) -> FloatArray:
    """How far each band of the spin stands above the room [shape=(bands,), dB], for equal bands."""
    count = min(spin.level_db.size, room.level_db.size)
    return np.asarray(spin.level_db[:count] - room.level_db[:count])
