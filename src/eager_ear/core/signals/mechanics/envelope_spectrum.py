"""Squared-envelope spectra in the order domain, where bearing damage stands as lines (matched in `race_lines`).

The squared envelope of a band where the structure rings is resampled to drum angle and transformed (Randall & Antoni,
Mech. Syst. Signal Process. 25(2), 2011, pp. 485-520). Localised damage stands as lines at the races' orders, their
harmonics, and sidebands one shaft turn (inner race) or one cage turn (ball) apart. Averaged over K segments the
spectrum over its floor is chi-square with 2K degrees of freedom. K is lowered to what the spectrum's own scatter
shows, so that noise which is rougher than Gaussian buys no significance.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache, cached_property

import numpy as np
import scipy

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.angle import CELLS_PER_TURN, SpeedTrack, TurnStretch, turn_stretches
from eager_ear.core.signals.dsp import SoundSections, median_along, resample_to_angle
from eager_ear.core.units import FloatArray

# Where housings, rings and tubs of washers may ring; overlapping, since nobody knows which does.
BANDS_HZ = ((500, 1500), (1000, 2500), (2000, 4000), (3000, 5000), (4000, 7000), (6000, 9000), (8000, 12000))
# Splits lines a sixteenth of an order apart.
SEGMENT_TURNS = 64
# Half a segment: lines an eighth of an order apart.
FEWEST_TURNS = 32
# Where a race lies close to a whole order, only long segments tell it from the drum itself.
FINE_SEGMENT_TURNS = 256
SLOWEST_HZ = 4.0
# Slip up to 2 % lowers a line; real balls deviate by about 2 % from the catalogue's, which moves it either way.
LARGEST_SHIFTS = (-0.035, 0.02)
SHIFT_STEP = 0.0015
# Next to a whole order lies the drum's own: two bins of a Hann window, and what the synchronous average leaves.
GUARD_BINS = 2.25
# Over so many turns the drum's own angle wanders by another bin: a tick inside an emptied drum moves about.
WANDER_BINS = 1.0
SKIRT_REACH = 0.25
# Half the width of a Hann window's line.
LINE_BINS = 2
SYNCHRONOUS_SHARE = 17 / 64
# A band below the steps of a 16-bit converter, -98 dB of full scale, holds arithmetic and not sound.
EMPTY_BAND = 10.0 ** (-98.0 / 10.0)
UNUSUAL = 3.0
# Between which shares of the values their spread is read: the middle two thirds, and the upper half but its lines.
SPREAD_SHARES = ((0.16, 0.84), (0.5, 0.975))
FEWEST_TO_COMPARE = 6


def _guard(segment_turns: int) -> float:
    """Half width around whole orders where nothing can be told from the drum itself."""
    return (GUARD_BINS if segment_turns <= SEGMENT_TURNS else GUARD_BINS + WANDER_BINS) / segment_turns


@dataclass(frozen=True, kw_only=True)
class EnvelopeSpectrum:
    """Squared-envelope spectrum of one band over its floor.

    order : array [shape=(n,)]; ratio : array [shape=(n,)], 1 = floor
    averages : effective number of independent averages behind each value
    segment_turns : turns in each of them; guard : half width around whole orders where nothing can be told
    """

    band_hz: tuple[float, float]
    order: FloatArray
    ratio: FloatArray
    averages: float
    turns: int
    segment_turns: int

    @property
    def guard(self) -> float:
        return _guard(self.segment_turns)

    @cached_property
    def standing(self) -> float:
        """Ratio that a value of the floor exceeds once in a hundred."""
        return float(scipy.special.gammainccinv(self.averages, 0.01) / self.averages)

    @cached_property
    def beside_turn(self) -> FloatArray:
        """What lies no farther from the same whole order, on either side, a line's own width left out: most and mean.

        Shape (2, n); zero beyond `SKIRT_REACH`.
        """
        near, reach = int(self.guard * self.segment_turns) + 1, int(SKIRT_REACH * self.segment_turns)
        centres = np.arange(1, int(self.order[-1])) * self.segment_turns
        sides = self.ratio[centres[:, None] + np.stack([-np.arange(reach + 1), np.arange(reach + 1)])[:, None]]
        sides[..., :near] = 0.0
        across = np.minimum(np.arange(reach + 1) + LINE_BINS, reach)
        inner = np.maximum(np.arange(reach + 1) - LINE_BINS - 1, 0)
        most, total = np.maximum.accumulate(sides, axis=-1), np.cumsum(sides, axis=-1)
        count = np.maximum(np.arange(reach + 1) - near + 1, 0)
        found = np.stack(
            [
                np.maximum(most[::-1][..., across], most[..., inner]),
                (total[::-1][..., across] + total[..., inner]) / np.maximum(count[across] + count[inner], 1),
            ]
        )
        out = np.zeros((2, self.ratio.size), dtype=self.ratio.dtype)
        for sign, side in zip((-1, 1), found.swapaxes(0, 1), strict=True):
            out[:, centres[:, None] + sign * np.arange(near, reach + 1)] = side[..., near:]
        return out

    @property
    def shifts(self) -> FloatArray:
        """Relative shifts to try, as fine as the spectrum resolves [shape=(k,)]."""
        return np.arange(LARGEST_SHIFTS[0], LARGEST_SHIFTS[1], SHIFT_STEP * SEGMENT_TURNS / self.segment_turns)


def envelope_spectra(sections: SoundSections, *, track: SpeedTrack) -> tuple[EnvelopeSpectrum, ...]:
    """Squared-envelope spectra of all bands that the sample rate holds, in short and, where there are, long segments.

    Raises
    ------
    NotMeasurable
        Fewer than 32 revolutions above 240 rpm at known speed.
    """
    span = (sections.span_s(0)[0], sections.span_s(sections.count - 1)[1])
    stretches = turn_stretches(track, cells=CELLS_PER_TURN, above_hz=SLOWEST_HZ, span=span, fewest_turns=FEWEST_TURNS)
    bands = [(float(low), float(high)) for low, high in BANDS_HZ if high < 0.47 * sections.rate_hz]
    if not stretches or not bands:
        raise NotMeasurable(
            quantity="bearing lines", reason="fewer than 32 revolutions above 240 rpm at known speed were recorded."
        )
    sums = [_SegmentSum(band, turns) for turns in _segment_lengths(stretches) for band in bands]
    loudest = dict.fromkeys(bands, 0.0)
    for k in range(sections.count):
        begin_s, end_s = sections.span_s(k)
        pieces = _pieces(stretches, begin_s, end_s)
        if not pieces:
            continue
        for band in bands:
            base, rate = sections.spectrum(k).baseband(*band)
            squared = base.real**2 + base.imag**2
            cells = [
                resample_to_angle(squared, value_rate_hz=rate, start_s=begin_s, grid_s=piece.border_s)
                for piece in pieces
            ]
            loudest[band] = max(loudest[band], *(float(part.mean()) for part in cells))
            for each in sums:
                if each.band_hz == band:
                    each.add(cells)
    if not any(each.count for each in sums):
        raise NotMeasurable(quantity="bearing lines", reason="the sound does not cover the turning of the drum.")
    turns = sum(s.turns for s in stretches)
    return tuple(each.over_floor(turns) for each in sums if each.count and loudest[each.band_hz] > EMPTY_BAND)


def _segment_lengths(stretches: Sequence[TurnStretch]) -> tuple[int, ...]:
    """Turns in a segment: the usual, fewer where there are not so many, and the long ones where one of them fits."""
    longest = max(s.turns for s in stretches)
    if longest < SEGMENT_TURNS:
        return (FEWEST_TURNS,)
    return (SEGMENT_TURNS, FINE_SEGMENT_TURNS) if longest >= FINE_SEGMENT_TURNS else (SEGMENT_TURNS,)


class _SegmentSum:
    """Power over order of one band's squared envelope, summed over segments of so many turns."""

    def __init__(self, band_hz: tuple[float, float], turns: int) -> None:
        self.band_hz = band_hz
        self.turns = turns
        self.count = 0
        self._power: FloatArray = np.zeros(turns * CELLS_PER_TURN // 2 + 1)

    def add(self, parts: Sequence[FloatArray]) -> None:
        """Take in squared envelopes per cell, each of whole turns without a break."""
        # Long segments are cut from long stretches only; padding would make them coarse.
        fewest = 1 if self.turns <= SEGMENT_TURNS else self.turns * CELLS_PER_TURN
        segments = [_segments(_levelled(p, self.turns), self.turns * CELLS_PER_TURN) for p in parts if p.size >= fewest]
        if segments:
            together = np.concatenate(segments)
            lines = scipy.fft.rfft(together, axis=1)
            self._power += _steady_sum(lines.real**2 + lines.imag**2)
            self.count += together.shape[0]

    def over_floor(self, all_turns: int) -> EnvelopeSpectrum:
        """The sum over the floor under its lines."""
        order = np.arange(self._power.size) / self.turns
        guard = np.abs(order - np.rint(order)) < _guard(self.turns)
        width = int(1.5 * self.turns)
        filled = np.interp(order, order[~guard], self._power[~guard])
        floor = scipy.ndimage.median_filter(filled, size=2 * width + 1, mode="nearest")
        # Half-overlapping Hann segments: each adds about 0.7 of an independent average (Welch 1967).
        nominal = 1.0 + 0.7 * (self.count - 1)
        # Median of a gamma variable with shape K over its mean.
        bias = scipy.special.gammaincinv(nominal, 0.5) / nominal
        ratio = filled / np.maximum(floor / bias, 1e-30)
        ratio[guard] = 1.0
        inside = (order > 1.5) & ~guard
        return EnvelopeSpectrum(
            band_hz=self.band_hz,
            order=order,
            ratio=ratio,
            averages=_fit_shape(ratio[inside], nominal),
            turns=all_turns,
            segment_turns=self.turns,
        )


def _pieces(stretches: Sequence[TurnStretch], begin_s: float, end_s: float) -> list[TurnStretch]:
    """What of the stretches lies within one section, whole turns only."""
    out: list[TurnStretch] = []
    for stretch in stretches:
        borders = stretch.turn_border_s
        first = int(np.searchsorted(borders, begin_s))
        turns = int(np.searchsorted(borders, end_s, side="right")) - 1 - first
        if turns >= FEWEST_TURNS:
            part = stretch.border_s[first * stretch.cells : (first + turns) * stretch.cells + 1]
            out.append(TurnStretch(border_s=part, turns=turns, cells=stretch.cells))
    return out


def _levelled(cells: FloatArray, segment_turns: int) -> FloatArray:
    """Squared envelope per angle cell over its mean in about three turns, less what all turns share [shape like it]."""
    level = scipy.ndimage.uniform_filter1d(cells, 3 * CELLS_PER_TURN, mode="nearest")
    # A single bang must not fill the spectrum: eight times the running mean is as much as a cell may say.
    turns = np.minimum(cells / np.maximum(level, 1e-20), 8.0).reshape(-1, CELLS_PER_TURN)
    # What repeats turn by turn, a tick, a loose weight, is the drum's and not a bearing's: its synchronous average over
    # the neighbouring turns goes out, and with it the skirts of whole orders (McFadden, MSSP 1(1), 1987, pp. 83-95).
    shared = max(3, round(SYNCHRONOUS_SHARE * segment_turns))
    turns = turns - scipy.ndimage.uniform_filter1d(turns, shared, axis=0, mode="nearest")
    return np.asarray(turns.ravel())


def _segments(cells: FloatArray, length: int) -> FloatArray:
    """Half-overlapping Hann segments [shape=(k, length)]; a short stretch gives one, padded with zeros."""
    if cells.size < length:
        cells = np.pad(cells * np.hanning(cells.size), (0, length - cells.size))
        return cells[None, :]
    views = np.lib.stride_tricks.sliding_window_view(cells, length)[:: length // 2]
    return np.asarray(views * np.hanning(length + 1)[:-1].astype(np.float32))


def _steady_sum(power: FloatArray) -> FloatArray:
    """Sum over segments [shape=(k, orders)] in which no segment counts much beyond what is usual at its order.

    Damage sounds at every turn; talk, a door or a neighbour's line fill a few segments. Segments count alike, however
    loud they are, and what a segment shows at one order counts up to `UNUSUAL` times the median of all (of noise, one
    value in twenty is higher); a line that stands in half of the segments is cut in none.
    """
    alike = power / np.maximum(median_along(power, axis=1)[:, None], 1e-30)
    if power.shape[0] < FEWEST_TO_COMPARE:
        return np.asarray(alike.sum(axis=0))
    usual = median_along(alike, axis=0) / np.log(2.0)
    return np.asarray(np.minimum(alike, UNUSUAL * usual).sum(axis=0))


def _fit_shape(ratio: FloatArray, nominal: float) -> float:
    """Shape of the gamma law that spreads as the values do, in their middle and in their upper half; at most `nominal`.

    Talk and single bangs lift a few orders far and the middle hardly: what the upper half shows more often than noise
    would is no sign of a bearing.
    """
    if ratio.size < 20:
        return nominal
    return min(nominal, *(_shape_between(ratio, *shares) for shares in SPREAD_SHARES))


def _shape_between(ratio: FloatArray, low: float, high: float) -> float:
    """Shape of the gamma law whose quantiles at both shares lie as far apart as those seen."""
    below, above = np.quantile(ratio, (low, high))
    spread = float(np.log(above) - np.log(max(float(below), 1e-9)))
    shapes, spreads = _gamma_spreads(low, high)
    return float(np.interp(-spread, -spreads, shapes))


@cache
def _gamma_spreads(low: float, high: float) -> tuple[FloatArray, FloatArray]:
    """Shapes of the gamma law, and the logarithm of one of its quantiles over another for each of them."""
    shapes = np.geomspace(0.3, 5000.0, 200)
    return shapes, np.log(scipy.special.gammaincinv(shapes, high) / scipy.special.gammaincinv(shapes, low))
