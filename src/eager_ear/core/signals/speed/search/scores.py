"""How well each candidate speed explains each moment, sensor by sensor.

Combs (speed_comb) over the vibration, the modulation of the noise, the drum's low lines and the machine's own orders.
"""

from __future__ import annotations

import numpy as np
import scipy

from eager_ear.core.signals.angle import FRAME_STEP_S
from eager_ear.core.signals.dsp import (
    HANN_LINE_BINS,
    EvenAcceleration,
    LowBand,
    Spectrogram,
    blocks_of,
    floor_of_frames,
    line_strength,
    median_along,
    read_rows,
    short_time_power,
    spectrum_lines,
    standing_bins,
    without_mains,
    without_standing_lines,
)
from eager_ear.core.signals.speed.search.comb import relative_strength, resting_frames, still_comb, swept_comb
from eager_ear.core.signals.speed.search.grid import ScoreGrid, at_times
from eager_ear.core.units import FloatArray, within

# Slow tumbling, once in two seconds, needs a turn and a half.
STILL_FRAME_S = 3.2
# A family is known by several members: one loud line alone fits as many speeds as there are orders.
MEMBER_CAP_NATS = np.float32(2.0)
# A rate and the faster one that folds back onto it score alike. Spinning is what is recorded, so the faster is
# likelier; the bonus decides over a plateau, and a ramp or a fall, seen clearly in either, outweighs it.
CLEAR_SCORE = 1.0
FASTER_BONUS = np.float32(0.3)
MOTOR_ORDERS = np.array([1.0, 2.0, 3.0, 4.0, 6.0, 8.0, 12.0, 18.0, 22.0, 24.0, 36.0, 42.0])


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
    swept = swept_comb(axes, rate, grid, start_s=acceleration.start_s, sound=low)
    still = _still_score(axes, rate, grid, start_s=acceleration.start_s, sound=low)
    out = np.maximum(swept, still)
    beyond = grid.candidates_hz > 0.5 * rate
    out[:, beyond] += np.where(out[:, beyond] > CLEAR_SCORE, FASTER_BONUS, np.float32(0.0))
    covered = (grid.t_s >= acceleration.start_s) & (grid.t_s <= acceleration.t_s[-1])
    out[~covered] = 0.0
    return out


def _still_score(low: FloatArray, rate: float, grid: ScoreGrid, *, start_s: float, sound: LowBand | None) -> FloatArray:
    pad = int(STILL_FRAME_S * rate / 2)
    spectra = [
        short_time_power(np.pad(row, pad), sample_rate_hz=rate, frame_s=STILL_FRAME_S, hop_s=FRAME_STEP_S)
        for row in low
    ]
    total = spectra[0].power + sum(s.power for s in spectra[1:])
    shared = Spectrogram(power=total, t_s=spectra[0].t_s, frequency_hz=spectra[0].frequency_hz)
    quiet = resting_frames(sound, shared.t_s + start_s - pad / rate, total, bin_hz=shared.bin_hz)
    floor = floor_of_frames(total, width=int(25.0 / shared.bin_hz), line_bins=HANN_LINE_BINS, quantile=0.4)
    strength = line_strength(total, floor)
    others = standing_bins(strength, quiet, bin_hz=shared.bin_hz)
    lines = without_standing_lines(strength, quiet, bin_hz=shared.bin_hz) + relative_strength(total, others)
    score = still_comb(lines, bin_hz=shared.bin_hz, candidates_hz=grid.candidates_hz, folds_at_hz=rate)
    return at_times(score, shared.t_s + start_s - pad / rate, grid.t_s)


def unfolded_to_hz(sensor_hz: float, plate_hz: float) -> float:
    """Highest rate that cannot be a faster drum folded back by a sensor's sampling.

    >>> unfolded_to_hz(100.0, 20.0), round(unfolded_to_hz(50.0, 30.0), 3)
    (46.0, 19.1)
    """
    return min(0.46 * sensor_hz, sensor_hz - 1.03 * plate_hz)


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


def modulation_score(low: LowBand, grid: ScoreGrid) -> FloatArray:
    """Comb over the once-per-turn modulation of the noise, in the level's spectrum: the drum's, never a motor's."""
    level, rate = low.level_nats - scipy.ndimage.uniform_filter1d(low.level_nats, size=121), low.level_rate_hz
    pad = int(1.0 * rate)
    padded = np.pad(level.astype(np.float32), pad)
    spectrum = short_time_power(padded, sample_rate_hz=rate, frame_s=2.0, hop_s=FRAME_STEP_S)
    quiet = low.quiet_at(spectrum.t_s + low.start_s - pad / rate)
    lines = spectrum_lines(spectrum, width_hz=20.0, quantile=0.4, quiet=quiet)
    score = _resolved(still_comb(lines, bin_hz=spectrum.bin_hz, candidates_hz=grid.candidates_hz), grid, frame_s=2.0)
    still = at_times(score, spectrum.t_s + low.start_s - pad / rate, grid.t_s)
    swept = swept_comb(level.astype(np.float32)[None], rate, grid, start_s=low.start_s, sound=low)
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
        lines = _members(part.lines)
        summed = np.empty((grid.candidates_hz.size, lines.shape[1]), dtype=np.float32)
        for block in blocks_of(grid.candidates_hz.size):
            reads = [
                np.float32(w) * read_rows(lines, bin_hz=part.bin_hz, frequencies_hz=o * grid.candidates_hz[block])
                for o, w in zip(orders, weights, strict=True)
            ]
            summed[block] = _sum_of_strongest(reads, strongest)
        summed -= median_along(summed, axis=0)
        score = at_times(np.maximum(summed, 0.0, out=summed).T, part.t_s, grid.t_s)
        np.maximum(best, score, out=best)
    return best


def _members(lines: FloatArray) -> FloatArray:
    """What each bin says of a line at or beside it, capped [shape=(bins, frames)]."""
    own = np.ascontiguousarray(lines.T)
    widest = own.copy()
    np.maximum(widest[1:], own[:-1], out=widest[1:])
    np.maximum(widest[:-1], own[1:], out=widest[:-1])
    widest -= np.float32(0.5)
    return np.minimum(widest, MEMBER_CAP_NATS, out=widest)


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
