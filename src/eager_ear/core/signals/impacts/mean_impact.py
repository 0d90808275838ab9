"""What one impact of a band sounds like: the mean waveform of all that are tied to the drum, its pitch and how it dies.

Impacts are laid over one another where they correlate best with the mean so far, three times over (iterated matched
averaging; Woody, Med. & Biol. Engng. 5, 1967, pp. 539-553), either way up. What is alike adds, the machine's noise
does not. Metal on metal rings for many periods, a soft mount for few.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.types import AudioSignal
from eager_ear.core.units import FloatArray

# Fewer do not lower the noise enough to show what rings.
FEWEST_IMPACTS = 5
# Noise falls with the root of the number: more would not be seen.
MOST_IMPACTS = 60
# Alignment settles in two rounds; the third shows that it has.
ROUNDS = 3
# Periods of the band's lower edge before and after; an impact is looked for so far from where it was noticed.
BEFORE_PERIODS = 2.0
AFTER_PERIODS = 14.0
SEARCH_S = 0.004
BAND_ORDER = 2
# The fall is read from the peak down to here, or to where it meets the noise.
FALL_DB = 15.0
LEAST_FALL_DB = 6.0


@dataclass(frozen=True, kw_only=True)
class MeanImpact:
    """The mean of `count` impacts.

    waveform : array [shape=(n,), full scale = 1] at `sample_rate_hz`
    likeness : energy of the mean over the mean energy: one for impacts that are all the same, one over count for noise
    frequency_hz : where its spectrum is strongest
    decay_ms : time in which it falls by 10 dB [ms], None where it drowns before
    """

    waveform: FloatArray
    sample_rate_hz: float
    count: int
    likeness: float
    frequency_hz: float
    decay_ms: float | None


def mean_impact(
    audio: AudioSignal, *, start_s: float, impact_s: FloatArray, band_hz: tuple[float, float]
) -> MeanImpact:
    """Average the impacts of a band.

    Parameters
    ----------
    start_s : when the sound began, on the clock of `impact_s`
    impact_s : array [shape=(k,), s], when impacts were noticed

    Raises
    ------
    NotMeasurable
        Fewer than five impacts.
    """
    rate = audio.sample_rate_hz
    low_hz, high_hz = band_hz[0], min(band_hz[1], 0.45 * rate)
    reach = int(SEARCH_S * rate)
    before, after = (int(p / low_hz * rate) for p in (BEFORE_PERIODS, AFTER_PERIODS))
    at = np.rint((impact_s - start_s) * rate).astype(int)
    room = before + after + 2 * reach
    at = at[(at > room) & (at < audio.samples.size - room)]
    if at.size < FEWEST_IMPACTS:
        raise NotMeasurable(quantity="mean waveform of an impact", reason="fewer than five stand out one by one.")
    at = at[:: -(-at.size // MOST_IMPACTS)]
    sos = scipy.signal.butter(BAND_ORDER, (low_hz, high_hz), "bandpass", fs=rate, output="sos")
    # Room for the filter on either side, cut off again.
    pieces = np.stack([audio.samples[k - before - room : k + after + room] for k in at]).astype(float)
    wide = scipy.signal.sosfiltfilt(sos, pieces, axis=1)[:, room - reach : -room + reach]
    laid = _laid_over(wide, length=before + after, reach=reach)
    mean = laid.mean(axis=0)
    spectrum = np.abs(np.fft.rfft(mean, 8 * mean.size))
    return MeanImpact(
        waveform=mean,
        sample_rate_hz=rate,
        count=laid.shape[0],
        likeness=float(np.sum(mean**2) / max(float(np.mean(np.sum(laid**2, axis=1))), 1e-20)),
        frequency_hz=float(spectrum.argmax() * rate / (8 * mean.size)),
        decay_ms=_decay_ms(laid, rate, period=int(rate / low_hz)),
    )


def _laid_over(wide: FloatArray, *, length: int, reach: int) -> FloatArray:
    """Every piece cut where it resembles the mean of all best, and turned the same way up."""
    peaks = np.abs(wide[:, reach:-reach]).max(axis=1)
    template = wide[int(peaks.argmax()), reach : reach + length]
    laid = wide[:, reach : reach + length]
    for _ in range(ROUNDS):
        match = np.stack([np.correlate(row, template, mode="valid") for row in wide])
        best = np.abs(match).argmax(axis=1)
        sign = np.sign(match[np.arange(best.size), best])
        laid = np.stack([s * row[k : k + length] for row, k, s in zip(wide, best, sign, strict=True)])
        template = laid.mean(axis=0)
    return laid


def _decay_ms(laid: FloatArray, rate: float, *, period: int) -> float | None:
    """Time for 10 dB from a straight line through the level after the peak; None with less than 6 dB to read."""
    power = np.square(laid).mean(axis=0)
    smooth = np.convolve(power, np.ones(period) / period, "same")
    level = 10.0 * np.log10(smooth + 1e-20)
    top = int(level.argmax())
    floor = float(np.median(level[-max(4, level.size // 5) :])) + 3.0
    low = max(float(level[top]) - FALL_DB, floor)
    below = np.flatnonzero(level[top:] < low)
    end = top + (int(below[0]) if below.size else level.size - top)
    if float(level[top]) - low < LEAST_FALL_DB or end - top < 4:
        return None
    slope = float(np.polyfit(np.arange(end - top) / rate, level[top:end], 1)[0])
    return -1e4 / slope if slope < 0 else None
