"""Which multiples of the drum's rate this machine sounds at: learnt from where its speed is already known.

Every known frame's line spectrum is laid over an axis of orders; lines tied to the drum (motor, gears, bearings, belts,
whatever the layout) stand at the same order at every speed, all else smears. Speeds count alike, however long they
were held, so that a line at one frequency, such as mains hum under a long plateau, does not pass for an order.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy import ndimage
from scipy import signal as sps

from eager_ear.core.signals.low_band import LineFrames, LowBand
from eager_ear.core.signals.speed_track import SpeedTrack
from eager_ear.core.units import FloatArray

ORDER_STEP = 0.02
HIGHEST_ORDER = 400.0
MOST_ORDERS = 12
# Mean over speed bins of the line strength, which noise holds near zero with a scatter of about 0.1.
LEAST_STRENGTH_NATS = 0.7
SPEED_BINS = 6
SLOWEST_HZ = 2.0
LOWEST_ORDER = 0.5
FEWEST_BINS = 2
STEADY_HZ_S = 0.15


@dataclass(frozen=True, kw_only=True)
class OrderFamily:
    """Multiples of the drum's rate with their mean strength in nats, strongest first. Arrays [shape=(k,)]."""

    orders: FloatArray
    strengths: FloatArray

    @property
    def weights(self) -> FloatArray:
        return np.asarray(np.minimum(self.strengths / 2.0, 1.0))


def learn_orders(low: LowBand, track: SpeedTrack, *, steady: bool = False) -> OrderFamily | None:
    """Strongest order lines, None when no line follows the drum through at least two ranges of speed.

    Parameters
    ----------
    steady : learn from steady speed alone, one is enough: for sound whose clock is not yet known well
    """
    kept: list[tuple[float, float]] = []
    # Long frames first: what they resolve is not to be blurred by what short ones see of it.
    for part in reversed(low.spectra):
        profile = _profile(part, track, steady=steady)
        if profile is None:
            continue
        rates = track.rate_hz[track.known & (track.rate_hz > SLOWEST_HZ)]
        width = max(4.0, part.bin_hz / float(np.median(rates)) / ORDER_STEP)
        smooth = ndimage.gaussian_filter1d(profile, 0.5 * width)
        peaks, _ = sps.find_peaks(smooth, height=LEAST_STRENGTH_NATS, distance=max(1, int(1.5 * width)))
        for k in peaks[np.argsort(-smooth[peaks])]:
            order = _centre(smooth, int(k), reach=int(width))
            apart = 1.5 * width * ORDER_STEP + 0.01 * order
            if order > LOWEST_ORDER and all(abs(order - other) > apart for _, other in kept):
                kept.append((float(smooth[k]), order))
    kept = sorted(kept, reverse=True)[:MOST_ORDERS]
    if len(kept) < 2:
        return None
    return OrderFamily(orders=np.array([o for _, o in kept]), strengths=np.array([s for s, _ in kept]))


def _centre(profile: FloatArray, peak: int, *, reach: int) -> float:
    """Order of a peak: the weighted mean of its upper part within `reach` steps."""
    near = np.arange(max(0, peak - reach), min(profile.size, peak + reach + 1))
    weight = np.maximum(profile[near] - 0.6 * profile[peak], 0.0)
    return float(ORDER_STEP * np.average(near, weights=weight))


def _profile(part: LineFrames, track: SpeedTrack, *, steady: bool) -> FloatArray | None:
    """Mean line strength over the order axis, ranges of speed counting alike [shape=(orders,)]."""
    rate = track.at(part.t_s)
    slope = np.gradient(track.rate_hz, track.t_s)[np.clip(np.searchsorted(track.t_s, part.t_s), 0, track.t_s.size - 1)]
    use = np.isfinite(rate) & (rate > SLOWEST_HZ)
    if steady:
        use &= np.abs(slope) < STEADY_HZ_S
    fewest = 1 if steady else FEWEST_BINS
    if use.sum() < 16:
        return None
    rate, slope, lines = rate[use], np.abs(slope[use]), part.lines[use]
    top_hz = part.bin_hz * (lines.shape[1] - 1)
    highest = min(HIGHEST_ORDER, 0.98 * top_hz / float(np.percentile(rate, 20)))
    orders = np.arange(0.0, highest, ORDER_STEP)
    bins = np.digitize(rate, np.geomspace(rate.min(), rate.max() + 1e-9, SPEED_BINS + 1)) - 1
    total, count = np.zeros(orders.size), np.zeros(orders.size)
    for b in np.unique(bins):
        rows = np.flatnonzero(bins == b)
        rows = rows[:: max(1, rows.size // 24)]
        sum_, seen = np.zeros(orders.size), np.zeros(orders.size)
        for row in rows:
            # An order is sharp in this frame when it sweeps over less than two bins.
            sharp = min(2.0 * part.bin_hz / max(slope[row] * part.frame_s, 1e-9), 0.98 * top_hz / rate[row])
            reach = min(int(sharp / ORDER_STEP), orders.size)
            index = np.rint(orders[:reach] * (rate[row] / part.bin_hz)).astype(np.int32)
            sum_[:reach] += lines[row].take(index)
            seen[:reach] += 1
        good = seen >= 3
        total[good] += sum_[good] / seen[good]
        count[good] += 1
    if not (count >= fewest).any():
        return None
    return np.where(count >= fewest, total / np.maximum(count, 1), 0.0)
