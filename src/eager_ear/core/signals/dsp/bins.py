"""Equal say for every range of speed, however long the machine dwelt there."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from eager_ear.core.units import FloatArray, IntArray

# Two more than a straight line has parameters, so that its scatter can be told.
FEWEST_RANGES = 4


def speed_bins(speed: FloatArray, count: int) -> IntArray:
    """In which of so many even ranges of log speed each value lies, from the slowest to the fastest [shape like it].

    >>> speed_bins(np.array([1.0, 2.0, 4.0, 8.0]), 3).tolist()
    [0, 1, 2, 2]
    """
    low, high = np.log(speed.min()), np.log(speed.max())
    share = (np.log(speed) - low) / max(float(high - low), 1e-9)
    # A value on a border belongs above it, rounding or not; the fastest of all to the last range.
    return np.asarray(np.minimum(np.floor(count * share + 1e-9), count - 1).astype(int))


def by_bin(
    values: FloatArray, which: IntArray, *, of: Callable[..., FloatArray] = np.mean, fewest: int = 1
) -> tuple[IntArray, FloatArray]:
    """The bins that hold at least so many values, and what `of` makes of each along the first axis.

    Parameters
    ----------
    values : array [shape=(n, ...)]
    which : array [shape=(n,)], bin of each
    """
    bins, counts = np.unique(which, return_counts=True)
    bins = bins[counts >= fewest]
    return bins, np.array([of(values[which == k], axis=0) for k in bins])


def line_over_speed(speed: FloatArray, values: FloatArray, *, bins: int) -> tuple[float, float] | None:
    """Slope of a straight line over log speed and its standard error, per factor e; None with too few ranges held.

    One median a range of speed: a long plateau must not outweigh the ramp.

    Parameters
    ----------
    speed, values : array [shape=(n,)]
    """
    which = speed_bins(speed, bins)
    _, x = by_bin(np.log(speed), which)
    _, y = by_bin(values, which, of=np.median)
    if x.size < FEWEST_RANGES:
        return None
    fit, covariance = np.polyfit(x, y, 1, cov="unscaled")
    scatter = float(np.sum((y - np.polyval(fit, x)) ** 2)) / (x.size - 2)
    return float(fit[0]), float(np.sqrt(covariance[0, 0] * scatter))
