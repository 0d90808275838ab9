"""How well each candidate speed explains each moment, sensor by sensor.

Short-time spectra of the sensor, turned into how far every bin stands above its local noise floor (in nats), are read
at the candidate's multiples. A candidate loses by lines at half its multiples: that tells 1x from 2x. While the speed
changes, a frame is dechirped first: turned back by the phase of a linear sweep whose slope is the multiple's share of
the drum's (the quadratic term of the polynomial phase transform; Peleg & Porat, IEEE Trans. Inf. Theory 37(2), 1991).
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import product

import numpy as np
from scipy import fft as spfft
from scipy import ndimage

from eager_ear.core.signals.even_grid import EvenAcceleration
from eager_ear.core.signals.lines import (
    LINE_CAP_NATS,
    line_strength,
    quiet_frames,
    read_lines,
    spectrum_lines,
    standing_bins,
    without_mains,
    without_standing_lines,
)
from eager_ear.core.signals.low_band import LowBand
from eager_ear.core.signals.medians import median_along
from eager_ear.core.signals.speed_track import FRAME_STEP_S, LOWEST_HZ
from eager_ear.core.signals.transform import (
    BLOCK_FRAMES,
    HANN_LINE_BINS,
    Spectrogram,
    floor_of_frames,
    short_time_power,
)
from eager_ear.core.units import BoolArray, FloatArray, within

GRID_HZ = 0.1
# Frames of vibration: long enough for slow turning, dechirped so that ramps up to the steepest in use stay sharp.
SWEPT_FRAME_S = 1.6
STILL_FRAME_S = 3.2
SLOPE_STEP_HZ_S = 0.75
SLOPES_HZ_S = SLOPE_STEP_HZ_S * np.arange(-4, 3)
# A family is known by several members: one loud line alone fits as many speeds as there are orders.
MEMBER_CAP_NATS = np.float32(2.0)
# A rate and the faster one that folds back onto it score alike. Spinning is what is recorded, so the faster is
# likelier; the bonus decides over a plateau, and a ramp or a fall, seen clearly in either, outweighs it.
CLEAR_SCORE = 1.0
FASTER_BONUS = np.float32(0.3)
MOTOR_ORDERS = np.array([1.0, 2.0, 3.0, 4.0, 6.0, 8.0, 12.0, 18.0, 22.0, 24.0, 36.0, 42.0])


@dataclass(frozen=True, kw_only=True)
class ScoreGrid:
    """Moments and candidates that all scores share: t_s [shape=(frames,), s], candidates_hz [shape=(states,)]."""

    t_s: FloatArray
    candidates_hz: FloatArray

    def empty(self) -> FloatArray:
        return np.zeros((self.t_s.size, self.candidates_hz.size), dtype=np.float32)


def at_times(values: FloatArray, from_s: FloatArray, to_s: FloatArray) -> FloatArray:
    """Rows at the nearest times; zero rows where no frame is within half a second."""
    if from_s.size > 1:
        index = np.clip(np.searchsorted(from_s, to_s), 1, from_s.size - 1)
        index = index - ((to_s - from_s[index - 1]) < (from_s[index] - to_s))
    else:
        index = np.zeros(to_s.size, dtype=int)
    out = values[index].copy()
    out[np.abs(from_s[index] - to_s) > 0.5] = 0.0
    return np.asarray(out)


def _comb(first: FloatArray, second: FloatArray, third: FloatArray, half: FloatArray, mid: FloatArray) -> FloatArray:
    """Lines at 1x, 2x, 3x count for a candidate, lines half-way between count against it."""
    score = first + 0.5 * np.maximum(second, 0) + 0.3 * np.maximum(third, 0)
    return np.asarray(score - 0.6 * np.maximum(half, 0) - 0.3 * np.maximum(mid, 0), dtype=np.float32)


def still_comb(
    lines: FloatArray, *, bin_hz: float, candidates_hz: FloatArray, folded_hz: FloatArray | None = None
) -> FloatArray:
    """Comb over lines that stand still during a frame [shape=(frames, states)].

    Parameters
    ----------
    folded_hz : where 1x of each candidate is seen, when the sampling folds it back
    """

    def at(multiple: float) -> FloatArray:
        return read_lines(lines, bin_hz=bin_hz, frequencies_hz=multiple * candidates_hz)

    first = at(1.0) if folded_hz is None else read_lines(lines, bin_hz=bin_hz, frequencies_hz=folded_hz)
    half = at(0.5) * (candidates_hz > 2 * LOWEST_HZ)
    return _comb(first, at(2.0), at(3.0), half, at(1.5))


def _folded(frequency_hz: FloatArray, rate_hz: float) -> FloatArray:
    """Where sampling at `rate_hz` shows each frequency; what lies within half the rate stays [shape like it]."""
    return np.asarray(np.abs(frequency_hz - rate_hz * np.round(frequency_hz / rate_hz)))


def vibration_score(acceleration: EvenAcceleration, grid: ScoreGrid, *, low: LowBand | None) -> FloatArray:
    """Comb over the once-per-turn vibration: dechirped frames, and long still ones for slow turning.

    A drum faster than half the sensor's rate is seen where the sampling folds it back. Frame by frame that could be
    the slower speed as well; the path decides, since only one of both rises and falls as a driven drum does.

    Parameters
    ----------
    low : sound of the same run, which tells when the machine is at rest better than a floor that others shake
    """
    rate = acceleration.sample_rate_hz
    axes = acceleration.axes_m_s2.astype(np.float32)
    swept = _swept_score(axes, rate, grid, start_s=acceleration.start_s, sound=low)
    still = _still_score(axes, rate, grid, start_s=acceleration.start_s, sound=low)
    out = np.maximum(swept, still)
    beyond = grid.candidates_hz > 0.5 * rate
    out[:, beyond] += np.where(out[:, beyond] > CLEAR_SCORE, FASTER_BONUS, np.float32(0.0))
    covered = (grid.t_s >= acceleration.start_s) & (grid.t_s <= acceleration.t_s[-1])
    out[~covered] = 0.0
    return out


def _quiet(sound: LowBand | None, t_s: FloatArray, power: FloatArray, *, bin_hz: float) -> BoolArray | None:
    """When the machine is at rest: by its sound where that tells, by the vibration itself otherwise."""
    told = sound.quiet_at(t_s) if sound is not None else None
    return told if told is not None else quiet_frames(power, bin_hz=bin_hz)


def unfolded_to_hz(acceleration: EvenAcceleration, plate_hz: float) -> float:
    """Highest rate that cannot be a faster drum folded back by the sensor's sampling."""
    return min(0.46 * acceleration.sample_rate_hz, acceleration.sample_rate_hz - 1.03 * plate_hz)


def _relative(total: FloatArray, others: BoolArray) -> FloatArray:
    """Penalty of a line for being weaker than the strongest of its frame: that one is most likely the drum.

    Parameters
    ----------
    others : bins of lines that are not the machine's [shape=(bins,)]
    """
    own = total[:, ~others] if others.any() and not others.all() else total
    strongest = np.maximum(own.max(axis=-1, keepdims=True), np.finfo(np.float32).tiny)
    strength = np.log(total / strongest + 1e-6).astype(np.float32)
    return np.asarray(np.clip(0.4 * strength, -3.0, 0.0))


def _still_score(low: FloatArray, rate: float, grid: ScoreGrid, *, start_s: float, sound: LowBand | None) -> FloatArray:
    pad = int(STILL_FRAME_S * rate / 2)
    spectra = [
        short_time_power(np.pad(row, pad), sample_rate_hz=rate, frame_s=STILL_FRAME_S, hop_s=FRAME_STEP_S)
        for row in low
    ]
    total = spectra[0].power + sum(s.power for s in spectra[1:])
    shared = Spectrogram(power=total, t_s=spectra[0].t_s, frequency_hz=spectra[0].frequency_hz)
    quiet = _quiet(sound, shared.t_s + start_s - pad / rate, total, bin_hz=shared.bin_hz)
    floor = floor_of_frames(total, width=int(25.0 / shared.bin_hz), line_bins=HANN_LINE_BINS, quantile=0.4)
    strength = line_strength(total, floor)
    others = standing_bins(strength, quiet, bin_hz=shared.bin_hz)
    lines = without_standing_lines(strength, quiet, bin_hz=shared.bin_hz) + _relative(total, others)
    seen_hz = _folded(grid.candidates_hz, rate)
    score = still_comb(lines, bin_hz=shared.bin_hz, candidates_hz=grid.candidates_hz, folded_hz=seen_hz)
    return at_times(score, shared.t_s + start_s - pad / rate, grid.t_s)


def _swept_score(low: FloatArray, rate: float, grid: ScoreGrid, *, start_s: float, sound: LowBand | None) -> FloatArray:
    """Best over slopes of a comb whose k-th line was dechirped by k times the slope."""
    length = max(8, int(SWEPT_FRAME_S * rate))
    pad = length // 2
    hop = FRAME_STEP_S * rate
    starts = np.rint(np.arange(0, low.shape[1] / hop) * hop).astype(int)
    starts = starts[starts <= low.shape[1] + 2 * pad - length]
    frames = np.stack([np.lib.stride_tricks.sliding_window_view(np.pad(row, pad), length)[starts] for row in low])
    frames = frames - frames.mean(axis=2, keepdims=True)
    window = np.hanning(length + 2)[1:-1].astype(np.float32)
    middle_s = (np.arange(length) - 0.5 * (length - 1)) / rate
    folds = float(grid.candidates_hz[-1]) > 0.5 * rate
    padded = int(spfft.next_fast_len(int((2.0 if folds else 1.5) * length)))
    bins = padded // 2
    multiples = (0.5, 1.0, 1.5, 2.0, 3.0, *((-1.0,) if folds else ()))
    wanted = np.unique(np.concatenate([_on_slope_grid(k * SLOPES_HZ_S) for k in multiples]))
    powers = {float(slope): np.empty((starts.size, bins), dtype=np.float32) for slope in wanted}
    sizes = sorted({abs(slope) for slope in powers})
    turn_back = {size: (window * np.exp(-1j * np.pi * size * middle_s**2)).astype(np.complex64) for size in sizes}
    # Turned the other way a real signal shows the same spectrum mirrored: one transform serves both slopes.
    sides = {1.0: np.arange(bins), -1.0: -np.arange(bins) % padded}
    for run in _blocks(starts.size):
        for size in sizes:
            spectra = spfft.fft(frames[:, run] * turn_back[size], padded, axis=2, overwrite_x=True)
            both = (spectra.real**2 + spectra.imag**2).sum(axis=0)
            for sign, side in sides.items():
                if sign * size in powers:
                    powers[sign * size][run] = both[:, side]
    bin_hz = rate / padded
    floor = floor_of_frames(powers[0.0], width=int(25.0 / bin_hz), line_bins=2 * HANN_LINE_BINS, quantile=0.4)
    quiet = _quiet(sound, starts / rate + start_s, powers[0.0], bin_hz=bin_hz)
    strength = {slope: line_strength(power, floor) for slope, power in powers.items()}
    others = standing_bins(strength[0.0], quiet, bin_hz=bin_hz)
    relative = {}
    for slope, power in powers.items():
        # Turned back by a slope, a line that stands is smeared over what the slope sweeps in a frame.
        smeared = ndimage.maximum_filter1d(others, 1 + 2 * int(0.5 * abs(slope) * SWEPT_FRAME_S / bin_hz))
        own = without_standing_lines(strength[slope], quiet, bin_hz=bin_hz)
        relative[slope] = own + _relative(power, smeared)
    # Two turns in a frame, or the line cannot be told from the frame's own drift.
    usable = grid.candidates_hz > 2.0 / SWEPT_FRAME_S
    candidates = grid.candidates_hz[usable]
    best = np.full((starts.size, candidates.size), -LINE_CAP_NATS, dtype=np.float32)
    back = candidates > 0.5 * rate
    for block, slope in product(_blocks(starts.size), SLOPES_HZ_S):

        def at(multiple: float, block: slice = block, slope: float = float(slope)) -> FloatArray:
            lines = relative[float(_on_slope_grid(multiple * slope))][block]
            return read_lines(lines, bin_hz=bin_hz, frequencies_hz=multiple * candidates)

        first = at(1.0)
        if folds:
            # Seen from the other side of half the rate, a rising line falls.
            mirrored = relative[float(_on_slope_grid(-slope))][block]
            first[:, back] = read_lines(mirrored, bin_hz=bin_hz, frequencies_hz=_folded(candidates[back], rate))
        np.maximum(best[block], _comb(first, at(2.0), at(3.0), at(0.5), at(1.5)), out=best[block])
    out = np.full((starts.size, grid.candidates_hz.size), -LINE_CAP_NATS, dtype=np.float32)
    out[:, usable] = best
    return at_times(out, starts / rate + start_s, grid.t_s)


def _blocks(frames: int) -> list[slice]:
    """Runs of frames that stay in the processor's cache while they are combed."""
    return [slice(begin, begin + BLOCK_FRAMES) for begin in range(0, frames, BLOCK_FRAMES)]


def _on_slope_grid(slope_hz_s: FloatArray | float) -> FloatArray:
    """Nearest slope at which spectra are made: half a step off blurs a line by less than its own width."""
    return np.asarray(SLOPE_STEP_HZ_S * np.round(np.asarray(slope_hz_s) / SLOPE_STEP_HZ_S))


def low_lines_score(low: LowBand, grid: ScoreGrid) -> FloatArray:
    """Comb over the drum's own low lines in the sound."""
    slow, slow_rate = low.slow
    pad = int(0.55 * slow_rate)
    spectrum = short_time_power(np.pad(slow, pad), sample_rate_hz=slow_rate, frame_s=1.1, hop_s=FRAME_STEP_S)
    quiet = low.quiet_at(spectrum.t_s + low.start_s - pad / slow_rate)
    lines = spectrum_lines(spectrum, width_hz=20.0, quantile=0.4, quiet=quiet)
    lines = without_mains(lines, low.mains_hz, bin_hz=spectrum.bin_hz)
    score = _resolved(still_comb(lines, bin_hz=spectrum.bin_hz, candidates_hz=grid.candidates_hz), grid, frame_s=1.1)
    return _clean(at_times(score, spectrum.t_s + low.start_s - pad / slow_rate, grid.t_s), low, grid)


def _resolved(score: FloatArray, grid: ScoreGrid, *, frame_s: float) -> FloatArray:
    """Scores without the candidates that turn less than twice in a frame: those are lines of its slow drift."""
    return np.asarray(score * (grid.candidates_hz > 2.0 / frame_s))


def swelling_score(low: LowBand, grid: ScoreGrid) -> FloatArray:
    """Comb over the once-per-turn swelling of the noise, in the spectrum of its level: the drum's, never a motor's."""
    level, rate = low.level_nats - ndimage.uniform_filter1d(low.level_nats, size=121), low.level_rate_hz
    pad = int(1.0 * rate)
    padded = np.pad(level.astype(np.float32), pad)
    spectrum = short_time_power(padded, sample_rate_hz=rate, frame_s=2.0, hop_s=FRAME_STEP_S)
    quiet = low.quiet_at(spectrum.t_s + low.start_s - pad / rate)
    lines = spectrum_lines(spectrum, width_hz=20.0, quantile=0.4, quiet=quiet)
    score = _resolved(still_comb(lines, bin_hz=spectrum.bin_hz, candidates_hz=grid.candidates_hz), grid, frame_s=2.0)
    still = at_times(score, spectrum.t_s + low.start_s - pad / rate, grid.t_s)
    swept = _swept_score(level.astype(np.float32)[None], rate, grid, start_s=low.start_s, sound=low)
    return _clean(np.maximum(still, swept), low, grid)


def _clean(score: FloatArray, low: LowBand, grid: ScoreGrid) -> FloatArray:
    score[within(grid.t_s, low.spoilt_s)] = 0.0
    return score


def family_score(low: LowBand, grid: ScoreGrid, *, orders: FloatArray, weights: FloatArray) -> FloatArray:
    """Comb over given multiples of the drum's rate; the strongest half of them counts.

    Parameters
    ----------
    orders, weights : array [shape=(k,)], multiples and how much each says (1 = fully)
    """
    best = grid.empty()
    strongest = max(3, min(6, orders.size // 2))
    for part in low.spectra:
        lines = np.minimum(ndimage.maximum_filter1d(part.lines, size=3, axis=1) - np.float32(0.5), MEMBER_CAP_NATS)
        summed = np.empty((lines.shape[0], grid.candidates_hz.size), dtype=np.float32)
        for block in _blocks(lines.shape[0]):
            reads = [
                np.float32(w) * read_lines(lines[block], bin_hz=part.bin_hz, frequencies_hz=o * grid.candidates_hz)
                for o, w in zip(orders, weights, strict=True)
            ]
            summed[block] = _sum_of_strongest(reads, strongest)
        typical = median_along(summed, axis=1)[:, None]
        score = at_times(np.maximum(summed - typical, 0.0), part.t_s, grid.t_s)
        np.maximum(best, score, out=best)
    return best


def _sum_of_strongest(reads: list[FloatArray], strongest: int) -> FloatArray:
    """Sum of the largest so many of equally shaped arrays, place by place; takes the list apart.

    Largest by largest is carried to the end, as in a bubble sort: on whole arrays twice as fast as sorting each place.
    """
    total = np.zeros_like(reads[0])
    for _ in range(min(strongest, len(reads))):
        for i in range(len(reads) - 1):
            low = np.minimum(reads[i], reads[i + 1])
            np.maximum(reads[i], reads[i + 1], out=reads[i + 1])
            reads[i] = low
        total += reads.pop()
    return total
