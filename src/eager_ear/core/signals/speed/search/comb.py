"""Combs over short-time spectra: how well a candidate speed explains the lines of a frame.

Spectra, turned into how far every bin stands above its local noise floor (in nats), are read at the candidate's
multiples. A candidate loses by lines at half its multiples: that tells 1x from 2x. While the speed changes, a frame is
dechirped first: turned back by the phase of a linear sweep whose slope is the multiple's share of the drum's (the
quadratic term of the polynomial phase transform; Peleg & Porat, IEEE Trans. Inf. Theory 37(2), 1991).
"""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
import scipy

from eager_ear.core.signals.angle import FRAME_STEP_S, LOWEST_HZ
from eager_ear.core.signals.dsp import (
    HANN_LINE_BINS,
    LINE_CAP_NATS,
    LowBand,
    NoiseFloor,
    blocks_of,
    less_standing,
    line_strength,
    quiet_frames,
    spectral_shape,
    standing_in,
)
from eager_ear.core.signals.speed.search.grid import ScoreGrid, at_times
from eager_ear.core.units import BoolArray, FloatArray, IntArray

# Frames of vibration: long enough for slow turning, dechirped so that ramps up to the steepest in use stay sharp.
SWEPT_FRAME_S = 1.6
SLOPE_STEP_HZ_S = 0.75
# So many frames are transformed, and combed, at all slopes in one go.
TRANSFORMED_FRAMES = 16
COMBED_FRAMES = 32
# Frames are padded by zeros until a line between two bins loses less than a decibel; twice, where one bin shows a rate
# and its alias.
PADDING = 1.5
FOLDED_PADDING = 2.0
SLOPES_HZ_S = SLOPE_STEP_HZ_S * np.arange(-4, 3)
# Lines at the first three count for a candidate, those between count against it.
WEIGHT_OF_MULTIPLE = {1.0: 1.0, 2.0: 0.5, 3.0: 0.3, 0.5: -0.6, 1.5: -0.3}


class _Comb:
    """Lines at 1x, 2x, 3x count for a candidate, lines half-way between count against it.

    Parameters
    ----------
    bins : of the line strength that will be read; zero beyond it
    candidates_hz : rising
    """

    def __init__(self, *, bins: int, bin_hz: float, candidates_hz: FloatArray) -> None:
        self._states = candidates_hz.size
        # Which candidates have that multiple within the spectrum, and in which bins.
        self._places: dict[float, tuple[slice, IntArray]] = {}
        for multiple in WEIGHT_OF_MULTIPLE:
            index = np.rint(multiple * candidates_hz / bin_hz).astype(int)
            first, last = (int(k) for k in np.searchsorted(index, [1, bins]))
            if multiple == 0.5:
                first = max(first, int(np.searchsorted(candidates_hz, 2 * LOWEST_HZ, side="right")))
            self._places[multiple] = (slice(first, last), index[first:last])

    def score(self, lines: FloatArray, slope_of: Mapping[float, IntArray]) -> FloatArray:
        """Sum over the multiples: all of the first, of others what stands out [shape=(slopes, states, frames)].

        Parameters
        ----------
        lines : array [shape=(spectra, bins, frames)]
        slope_of : which of the spectra show a multiple at every slope [shape=(slopes,)]
        """
        score = np.zeros((slope_of[1.0].size, self._states, lines.shape[2]), dtype=np.float32)
        standing_out = np.maximum(lines, np.float32(0.0))
        for multiple, (states, index) in self._places.items():
            source = lines if multiple == 1.0 else standing_out
            read = source[slope_of[multiple]].take(index, axis=1)
            read *= np.float32(WEIGHT_OF_MULTIPLE[multiple])
            score[:, states] += read
        return score


class StillComb:
    """Comb over lines that stand still during a frame.

    Parameters
    ----------
    folds_at_hz : the sensor's rate, where a candidate's 1x may be seen folded back
    """

    def __init__(
        self, *, bins: int, bin_hz: float, candidates_hz: FloatArray, folds_at_hz: float | None = None
    ) -> None:
        self._comb = _Comb(bins=bins, bin_hz=bin_hz, candidates_hz=candidates_hz)
        self._still = dict.fromkeys(WEIGHT_OF_MULTIPLE, np.zeros(1, dtype=int))
        self._back: IntArray = np.zeros(0, dtype=int)
        if folds_at_hz is not None:
            self._back = np.flatnonzero(candidates_hz > 0.5 * folds_at_hz)
            seen = np.rint(folded(candidates_hz[self._back], folds_at_hz) / bin_hz).astype(int)
            self._aliased_bins = np.minimum(seen, bins - 1)

    def score(self, lines: FloatArray) -> FloatArray:
        """Score of every candidate [shape=(frames, states)]. lines : array [shape=(frames, bins)]."""
        by_bin = np.ascontiguousarray(lines.T)
        score = self._comb.score(by_bin[None], self._still)[0]
        if self._back.size:
            score[self._back] += by_bin.take(self._aliased_bins, axis=0)
        return np.ascontiguousarray(score.T)


def still_comb(
    lines: FloatArray, *, bin_hz: float, candidates_hz: FloatArray, folds_at_hz: float | None = None
) -> FloatArray:
    """`StillComb` in one go [shape=(frames, states)]. lines : array [shape=(frames, bins)]."""
    comb = StillComb(bins=lines.shape[1], bin_hz=bin_hz, candidates_hz=candidates_hz, folds_at_hz=folds_at_hz)
    return comb.score(lines)


class SweptComb:
    """Combs over frames turned back by linear sweeps: the k-th line of a candidate by k times the slope.

    slopes : array [shape=(slopes,), Hz/s], of the spectra that are made, in the order of all that is given by slope

    Parameters
    ----------
    rate : of the signals [Hz]
    candidates_hz : rising; those that turn less than twice in a frame are never taken for a line
    """

    def __init__(self, *, rate: float, candidates_hz: FloatArray, frame_s: float) -> None:
        self.length = max(8, int(frame_s * rate))
        self._frame_s = frame_s
        self._folds = float(candidates_hz[-1]) > 0.5 * rate
        self._padded = int(scipy.fft.next_fast_len(int((FOLDED_PADDING if self._folds else PADDING) * self.length)))
        self.bins = self._padded // 2
        self.bin_hz = rate / self._padded
        multiples = (*WEIGHT_OF_MULTIPLE, *((-1.0,) if self._folds else ()))
        self.slopes = np.unique(np.concatenate([_on_slope_grid(k * SLOPES_HZ_S) for k in multiples]))
        self._still = int(np.searchsorted(self.slopes, 0.0))
        window = np.hanning(self.length + 2)[1:-1].astype(np.float32)
        middle_s = (np.arange(self.length) - 0.5 * (self.length - 1)) / rate
        sizes = np.unique(np.abs(self.slopes))
        self._turn_back = (window * np.exp(-1j * np.pi * sizes[:, None] * middle_s**2)).astype(np.complex64)
        # Turned the other way a real signal shows the same spectrum aliased: one transform serves both slopes.
        self._size = np.searchsorted(sizes, np.abs(self.slopes))
        # Two turns in a frame, or the line cannot be told from the frame's own drift.
        self._usable = candidates_hz > 2.0 / frame_s
        self._noise_floor = NoiseFloor(bins=self.bins, width=int(25.0 / self.bin_hz), quantile=0.4)
        candidates = candidates_hz[self._usable]
        self._back = np.flatnonzero(candidates > 0.5 * rate)
        aliased = np.rint(folded(candidates[self._back], rate) / self.bin_hz).astype(int)
        self._aliased_bins = np.minimum(aliased, self.bins - 1)
        self._comb = _Comb(bins=self.bins, bin_hz=self.bin_hz, candidates_hz=candidates)
        self._slope_of = {
            k: np.searchsorted(self.slopes, _on_slope_grid(k * SLOPES_HZ_S)) for k in (*WEIGHT_OF_MULTIPLE, -1.0)
        }
        # Turned back by a slope, a line that stands is smeared over what the slope sweeps in a frame.
        self._smears = [1 + 2 * int(0.5 * abs(slope) * frame_s / self.bin_hz) for slope in self.slopes]

    def powers(self, frames: FloatArray) -> FloatArray:
        """Power by slope, the rows taken together [shape=(slopes, frames, bins)].

        Parameters
        ----------
        frames : array [shape=(rows, frames, length)]
        """
        frames = frames - frames.mean(axis=2, keepdims=True)
        out = np.empty((self.slopes.size, frames.shape[1], self.bins), dtype=np.float32)
        for run in blocks_of(frames.shape[1], TRANSFORMED_FRAMES):
            turned = frames[None, :, run] * self._turn_back[:, None, None, :]
            spectra = scipy.fft.fft(turned, self._padded, axis=3, overwrite_x=True).view(np.float32)
            both = np.einsum("srfk,srfk->sfk", spectra, spectra)
            both = both[..., ::2] + both[..., 1::2]
            for k, size in enumerate(self._size):
                if self.slopes[k] < 0.0:
                    out[k, run, 0], out[k, run, 1:] = both[size, :, 0], both[size, :, : -self.bins : -1]
                else:
                    out[k, run] = both[size, :, : self.bins]
        return out

    def still(self, by_slope: FloatArray) -> FloatArray:
        """What belongs to the frames as they are, not turned back [shape=(frames, bins)]."""
        return np.asarray(by_slope[self._still])

    def shape(self, power: FloatArray) -> FloatArray:
        """What the spectra of frames have in common [shape=(bins,)]."""
        return spectral_shape(power, line_bins=2 * HANN_LINE_BINS)

    def floor(self, shape: FloatArray, power: FloatArray) -> FloatArray:
        """Floor under the lines of frames as they are [shape=(frames, bins)]."""
        return self._noise_floor(power / shape) * shape

    def score(self, powers: FloatArray, strengths: FloatArray, standing: FloatArray | None) -> FloatArray:
        """Best over the slopes [shape=(frames, states)].

        Parameters
        ----------
        powers : array [shape=(slopes, frames, bins)]; strengths : of its lines, likewise
        standing : what stands in the frames of rest [shape=(slopes, bins)], None where nothing is known of it
        """
        count = powers.shape[1]
        others = None
        if standing is not None and (still := standing[self._still] > 0.0).any():
            others = np.stack([scipy.ndimage.maximum_filter1d(still, smear) for smear in self._smears])
        out = np.full((count, self._usable.size), -LINE_CAP_NATS, dtype=np.float32)
        for block in blocks_of(count, COMBED_FRAMES):
            lines = relative_strength(powers[:, block], None if others is None else others[:, None])
            lines += strengths[:, block]
            if standing is not None:
                lines = less_standing(lines, standing[:, None])
            # Bins by frames: a candidate's line is then one stretch of memory.
            lines = np.ascontiguousarray(lines.transpose(0, 2, 1))
            score = self._comb.score(lines, self._slope_of)
            if self._folds:
                # Seen from the other side of half the rate, a rising line falls.
                score[:, self._back] += lines[self._slope_of[-1.0]].take(self._aliased_bins, axis=1)
            best = np.maximum(score.max(axis=0), -LINE_CAP_NATS)
            out[block, self._usable] = best.T
        return out


def swept_comb(
    signals: FloatArray, rate: float, grid: ScoreGrid, *, start_s: float, sound: LowBand | None
) -> FloatArray:
    """Best over slopes of a comb whose k-th line was dechirped by k times the slope [shape=(frames, states)].

    Parameters
    ----------
    signals : array [shape=(rows, n)], taken together; rate : their rate [Hz]
    sound : sound of the same run, which tells when the machine is at rest
    """
    comb = SweptComb(rate=rate, candidates_hz=grid.candidates_hz, frame_s=SWEPT_FRAME_S)
    pad = comb.length // 2
    hop = FRAME_STEP_S * rate
    starts = np.rint(np.arange(0, signals.shape[1] / hop) * hop).astype(int)
    starts = starts[starts <= signals.shape[1] + 2 * pad - comb.length]
    padded = [np.pad(row, pad) for row in signals]
    frames = np.stack([np.lib.stride_tricks.sliding_window_view(row, comb.length)[starts] for row in padded])
    powers = comb.powers(frames)
    t_s = starts / rate + start_s
    quiet = resting_frames(sound, t_s, comb.still(powers), bin_hz=comb.bin_hz)
    floor = comb.floor(comb.shape(comb.still(powers)), comb.still(powers))
    strengths = np.stack([line_strength(power, floor) for power in powers])
    found = [standing_in(strength, quiet, bin_hz=comb.bin_hz) for strength in strengths]
    known = [others for others in found if others is not None]
    return at_times(comb.score(powers, strengths, np.stack(known) if known else None), t_s, grid.t_s)


def relative_strength(total: FloatArray, others: BoolArray | None) -> FloatArray:
    """Penalty of a line for being weaker than the strongest of its frame: that one is most likely the drum.

    Parameters
    ----------
    others : bins of lines that are not the machine's [shape=(bins,), or more that spreads over `total`]
    """
    own = total if others is None else total * ~(others & ~others.all(axis=-1, keepdims=True))
    strongest = np.maximum(own.max(axis=-1, keepdims=True), np.finfo(np.float32).tiny)
    strength = total / strongest
    strength += np.float32(1e-6)
    np.log(strength, out=strength)
    strength *= np.float32(0.4)
    return np.asarray(np.clip(strength, -3.0, 0.0, out=strength))


def resting_frames(sound: LowBand | None, t_s: FloatArray, power: FloatArray, *, bin_hz: float) -> BoolArray | None:
    """When the machine is at rest: by its sound where that tells, by the vibration itself otherwise."""
    told = sound.quiet_at(t_s) if sound is not None else None
    return told if told is not None else quiet_frames(power, bin_hz=bin_hz)


def folded(frequency_hz: FloatArray, rate_hz: float) -> FloatArray:
    """Where sampling at `rate_hz` shows each frequency; what lies within half the rate stays [shape like it]."""
    return np.asarray(np.abs(frequency_hz - rate_hz * np.round(frequency_hz / rate_hz)))


def _on_slope_grid(slope_hz_s: FloatArray | float) -> FloatArray:
    """Nearest slope at which spectra are made: half a step off blurs a line by less than its own width."""
    return np.asarray(SLOPE_STEP_HZ_S * np.round(np.asarray(slope_hz_s) / SLOPE_STEP_HZ_S))
