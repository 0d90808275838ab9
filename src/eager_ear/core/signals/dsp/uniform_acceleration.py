"""Acceleration on an even clock: jitter undone by interpolation, gravity removed, gaps reported."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import scipy

from eager_ear.core.signals.dsp.transform import decimated
from eager_ear.core.signals.types import AccelerationSignal
from eager_ear.core.units import FloatArray, IntArray

# A reading or two may be late; three in a row were lost.
GAP_PERIODS = 3.0
# Gravity is what lasts longer than two turns of the slowest drum; a running median keeps the step of a phone that slid.
GRAVITY_S = 4.0
GRAVITY_MEAN_S = 1.0
GRAVITY_STEP_S = 0.125


@dataclass(frozen=True, kw_only=True)
class EvenAcceleration:
    """Evenly sampled acceleration.

    axes_m_s2 : array [shape=(k, n), m/s²], gravity removed, zero in the gaps, only the axes that were recorded
    axis_names : the axes' names, "x", "y", "z"
    gaps_s : stretches longer than three sample periods without a sample
    """

    axes_m_s2: FloatArray
    axis_names: tuple[str, ...]
    sample_rate_hz: float
    start_s: float
    gaps_s: tuple[tuple[float, float], ...]

    @property
    def t_s(self) -> FloatArray:
        return self.start_s + np.arange(self.axes_m_s2.shape[1]) / self.sample_rate_hz


def even_acceleration(signal: AccelerationSignal, *, start_s: float) -> EvenAcceleration:
    """Interpolate to the sensor's own rate (linear: error below 1 % up to a tenth of the rate; times are kept).

    Parameters
    ----------
    start_s : float [s], offset of the signal's time zero on the run's clock
    """
    rate = signal.sample_rate_hz
    t_s = np.arange(signal.t_s[0], signal.t_s[-1], 1.0 / rate)
    rows = [np.interp(t_s, signal.t_s, signal.axes_m_s2[i]) for i in signal.present]
    axes = np.stack([row - _gravity(row, sample_rate_hz=rate) for row in rows])
    gap_index = silence_gaps(axes, t_s, stamps_s=signal.t_s, rate_hz=rate)
    return EvenAcceleration(
        axes_m_s2=axes,
        axis_names=tuple("xyz"[i] for i in signal.present),
        sample_rate_hz=rate,
        start_s=start_s + float(signal.t_s[0]),
        gaps_s=tuple((float(signal.t_s[i] + start_s), float(signal.t_s[i + 1] + start_s)) for i in gap_index),
    )


def silence_gaps(rows: FloatArray, t_s: FloatArray, *, stamps_s: FloatArray, rate_hz: float) -> IntArray:
    """Put zero, in place, where no sample was stamped for long; returns the last stamp before each gap.

    A straight line from one end of a gap to the other would be a slow swing of its own.

    Parameters
    ----------
    rows : array [shape=(k, n)] at `t_s`, gravity removed; stamps_s, rate_hz : of the samples that it was made of
    """
    last_before = np.flatnonzero(np.diff(stamps_s) > GAP_PERIODS / rate_hz)
    for i in last_before:
        rows[:, (t_s > stamps_s[i]) & (t_s < stamps_s[i + 1])] = 0.0
    return last_before


def _gravity(row: FloatArray, *, sample_rate_hz: float) -> FloatArray:
    """Running median over four seconds of means over about one [shape like `row`]."""
    block = max(1, round(GRAVITY_STEP_S * sample_rate_hz))
    count = row.size // block
    window = np.hanning(int(GRAVITY_MEAN_S / GRAVITY_STEP_S) + 2)[1:-1]
    if count < window.size:
        return np.full(row.size, np.median(row))
    means = row[: count * block].reshape(count, block).mean(axis=1)
    smooth = scipy.ndimage.correlate1d(means, window / window.sum(), mode="nearest")
    slow = scipy.ndimage.median_filter(smooth, size=int(GRAVITY_S * sample_rate_hz / block) | 1, mode="nearest")
    return np.asarray(np.interp(np.arange(row.size), block * np.arange(count) + 0.5 * (block - 1), slow))


def slowed(acceleration: EvenAcceleration, *, target_hz: float) -> EvenAcceleration:
    """The same at an integer fraction of its rate, at least `target_hz`, low-passed before."""
    rows, rate = decimated(acceleration.axes_m_s2, sample_rate_hz=acceleration.sample_rate_hz, target_hz=target_hz)
    return replace(acceleration, axes_m_s2=rows, sample_rate_hz=rate)
