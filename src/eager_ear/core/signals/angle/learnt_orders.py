"""Which multiples of the drum's rate this machine sounds at: learnt from where its speed is already known.

The sound is resampled to the drum's angle (computed order tracking; Fyfe & Munck, MSSP 11(2), 1997, pp. 187-205) and
transformed in segments of whole turns: lines tied to the drum (motor, gears, bearings, belts, whatever the layout)
stand at the same order at every speed, however steep the ramp, all else smears. Speeds count alike, however long they
were held, and the one that shows a line best does not count: a tone of the room stands at one order as long as the
speed stays.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy

from eager_ear.core.signals.angle.track import STEADY_HZ_S, SpeedTrack, known_spans, slope_of
from eager_ear.core.signals.dsp import (
    MAINS_HARMONICS,
    LowBand,
    line_strength,
    noise_floor,
    peak_centre,
    resample_to_angle,
    speed_bins,
    standing_lines,
)
from eager_ear.core.units import BoolArray, FloatArray, IntArray, within

# Beyond the strongest dozen, lines add time and hardly any certainty.
MOST_ORDERS = 12
# Lines are apart when so many bins of the transform lie between them, and as much as an order may be off.
APART_BINS = 2.5
APART_SHARE = 0.003
# Segments transformed of each range of speeds, and how many of them count at most.
SPEED_BINS = 6
SEGMENTS_A_BIN = 16
MOST_OF_A_BIN = 8
FEWEST_SEGMENTS = 3
SLOWEST_HZ = 2.0
FEWEST_BINS = 2
FLOOR_ORDERS = 4.0
# In a segment a strong line counts no more than a clear one.
MOST_NATS = 4.0
# The strength of noise scatters by half a neper around zero, by a third once neighbouring bins are taken together;
# five times the error of a mean hardly happens among some thousand orders.
NOISE_NATS = 0.35
CLEAR_SIGMAS = 5.0
LEAST_STRENGTH_NATS = 0.35
KEPT_BELOW_HALF = 0.95
# Half width of what stands still.
ROOM_LINE_HZ = 1.5


@dataclass(frozen=True)
class _Resolution:
    """Segments of so many turns of so many cells, and the orders that they are asked for."""

    turns: int
    lowest: float
    highest: float
    cells: int


# Long segments part lines that lie close; at high orders the speed's own error blurs them, and short ones do.
RESOLUTIONS = (_Resolution(16, 0.7, 60.0, 160), _Resolution(4, 2.5, 400.0, 960))


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
    for resolution in RESOLUTIONS:
        profile = _profile(low, track, resolution, steady=steady)
        if profile is None:
            continue
        peaks, _ = scipy.signal.find_peaks(profile, height=LEAST_STRENGTH_NATS, distance=3)
        for k in peaks[np.argsort(-profile[peaks])]:
            order = _centre(profile, int(k)) / resolution.turns
            apart = APART_BINS / resolution.turns + APART_SHARE * order
            if order > resolution.lowest and all(abs(order - other) > apart for _, other in kept):
                kept.append((float(profile[k]), order))
    kept = sorted(kept, reverse=True)[:MOST_ORDERS]
    if len(kept) < 2:
        return None
    return OrderFamily(orders=np.array([o for _, o in kept]), strengths=np.array([s for s, _ in kept]))


def _centre(profile: FloatArray, peak: int) -> float:
    """Bin of a peak: the weighted mean of its upper part."""
    near = np.arange(max(0, peak - 2), min(profile.size, peak + 3))
    return float(peak_centre(profile[near], near, above=0.5 * profile[peak]))


def _profile(low: LowBand, track: SpeedTrack, resolution: _Resolution, *, steady: bool) -> FloatArray | None:
    """Line strength over the order axis where it is clear, zero elsewhere [shape=(bins,)]."""
    begin_s, rate_hz = _segments(low, track, resolution, steady=steady)
    if rate_hz.size < FEWEST_SEGMENTS:
        return None
    speed = speed_bins(rate_hz, SPEED_BINS)
    chosen = np.concatenate([_some(np.flatnonzero(speed == k)) for k in np.unique(speed)])
    speed, rate_hz = speed[chosen], rate_hz[chosen]
    bins = int(resolution.highest * resolution.turns)
    strength = _strength(low, track, resolution, begin_s[chosen])[:, :bins]
    order = np.arange(bins) / resolution.turns
    heard = (order * rate_hz[:, None] < KEPT_BELOW_HALF * 0.5 * low.rate_hz) & ~_not_ours(low, rate_hz, order)
    speeds = [speed == k for k in np.unique(speed)]
    count = np.array([heard[rows].sum(axis=0) for rows in speeds])
    total = np.array([(strength[rows] * heard[rows]).sum(axis=0) for rows in speeds])
    ranges = (count > 0).sum(axis=0)
    weight = np.minimum(count, MOST_OF_A_BIN)
    if not steady:
        best = np.where(count > 0, total / np.maximum(count, 1), -np.inf).argmax(axis=0)
        np.put_along_axis(weight, best[None], 0, axis=0)
    told = weight.sum(axis=0)
    mean = (weight * total / np.maximum(count, 1)).sum(axis=0) / np.maximum(told, 1)
    mean = scipy.ndimage.gaussian_filter1d(mean, 1.0)
    clear = mean > CLEAR_SIGMAS * NOISE_NATS / np.sqrt(np.maximum(told, 1))
    return np.where(clear & (ranges >= (1 if steady else FEWEST_BINS)) & (told >= FEWEST_SEGMENTS), mean, 0.0)


def _some(rows: IntArray) -> IntArray:
    """As many as are needed, spread evenly."""
    return rows[:: -(-rows.size // SEGMENTS_A_BIN)]


def _segments(
    low: LowBand, track: SpeedTrack, resolution: _Resolution, *, steady: bool
) -> tuple[FloatArray, FloatArray]:
    """When half-overlapping segments of whole turns begin, in turns of the track, and their rates [Hz]."""
    use = track.known & (track.rate_hz > SLOWEST_HZ) & (track.t_s >= low.start_s) & (track.t_s <= low.end_s)
    use &= ~within(track.t_s, low.spoilt_s)
    if steady:
        use &= np.abs(slope_of(track)) < STEADY_HZ_S
    begins, rates = [], []
    for span in known_spans(use):
        turns = track.turns_at(track.t_s[span])
        begin = np.arange(turns[0], turns[-1] - resolution.turns, resolution.turns / 2)
        took = np.interp(begin + resolution.turns, turns, track.t_s[span]) - np.interp(begin, turns, track.t_s[span])
        begins.append(begin)
        rates.append(resolution.turns / took)
    if not begins:
        return np.zeros(0), np.zeros(0)
    return np.concatenate(begins), np.concatenate(rates)


def _strength(low: LowBand, track: SpeedTrack, resolution: _Resolution, begin: FloatArray) -> FloatArray:
    """Line strength of each segment over its orders [shape=(segments, bins), nats]."""
    length = resolution.turns * resolution.cells
    borders = begin[:, None] + np.arange(length + 1) / resolution.cells
    at_s = np.interp(borders.ravel(), track.turns_at(track.t_s), track.t_s)
    cells = resample_to_angle(low.samples, value_rate_hz=low.rate_hz, start_s=low.start_s, grid_s=at_s)
    # Between two segments the cells mean nothing.
    cells = np.append(cells, np.float32(0.0)).reshape(begin.size, length + 1)[:, :length]
    lines = scipy.fft.rfft(cells * np.hanning(length).astype(np.float32), axis=1)
    power = lines.real**2 + lines.imag**2
    floor = noise_floor(power, width=int(FLOOR_ORDERS * resolution.turns))
    return np.minimum(line_strength(power, floor), MOST_NATS)


def _not_ours(low: LowBand, rate_hz: FloatArray, order: FloatArray) -> BoolArray:
    """Where mains hum and what sounds with the machine at rest stand in each segment [shape=(segments, bins)]."""
    hums = [2.0 * mains * k for mains in low.mains_hz for k in range(1, MAINS_HARMONICS + 1)]
    rest = [f for part in low.spectra[-1:] for f in standing_lines(part.raw, part.quiet, bin_hz=part.bin_hz)]
    centre = np.array([*hums, *rest])[:, None]
    per_bin = rate_hz * order[1]
    first = np.floor((centre - ROOM_LINE_HZ) / per_bin).astype(int) - 1
    last = np.ceil((centre + ROOM_LINE_HZ) / per_bin).astype(int) + 2
    # Where each begins one is added, where it ends taken off: within any of them the sum stands above zero.
    begun = np.zeros((rate_hz.size, order.size + 1), dtype=np.int32)
    row = np.broadcast_to(np.arange(rate_hz.size), first.shape)
    for border, one in ((first, 1), (last, -1)):
        np.add.at(begun, (row, np.clip(border, 0, order.size)), one)
    return np.asarray(begun.cumsum(axis=1)[:, :-1] > 0)
