"""The drum's speed as it is now, from frames that end now.

The combs and the dynamic programming of the analysis of whole recordings (speed_comb, speed_path), run forwards only:
the best way so far decides, nothing that comes later can correct it. What a frame of 1.6 s shows is the speed at its
middle; a straight line through the last second and a quarter of those carries it on to its end.
"""

from __future__ import annotations

from collections import deque
from dataclasses import dataclass

import numpy as np
import scipy

from eager_ear.core.signals.angle import FRAME_STEP_S, LOWEST_HZ
from eager_ear.core.signals.dsp import (
    HANN_LINE_BINS,
    LEAST_QUIET_DB,
    LEAST_STANDING_NATS,
    SLOWEST_STANDING_HZ,
    NoiseFloor,
    hann,
    less_standing,
    line_strength,
    median_along,
    spectral_shape,
    without_mains,
)
from eager_ear.core.signals.speed import (
    GRID_HZ,
    LEAST_MOTION_SCORE,
    LOW_LINES_WEIGHT,
    MAX_FALL_HZ_S,
    MAX_RISE_HZ_S,
    MODULATION_WEIGHT,
    MOVED_RATIO,
    SOUND_BESIDE_VIBRATION,
    SWEPT_FRAME_S,
    TOP_SHARE,
    UNKNOWN_SCORE,
    StillComb,
    SweptComb,
    Trellis,
)
from eager_ear.core.units import FloatArray

# As in the analysis of whole recordings: shorter frames are nearer to now, but follow far fewer drums.
FRAME_S = SWEPT_FRAME_S
LOW_LINES_FRAME_S = 1.1
# What spectra have in common is learnt from so many frames, ten seconds, and kept for a second.
SHAPE_FRAMES = 80
SHAPE_KEPT_FRAMES = 8
REST_FRAMES = 32
FEWEST_REST_FRAMES = 8
CARRIED_FRAMES = 10
FEWEST_CARRIED = 5
# What a drum may do in the half frame that is not seen yet: its acceleration changed by this [Hz/s].
UNSEEN_HZ_S = 0.4
PEAK_STATES = 4
# What only a turning drum shows is looked at over three seconds.
SHOWN_FRAMES = 24
# What a peak scatters from frame to frame; a drum that was not seen for longer may have done anything.
PEAK_SCATTER_HZ = 0.3
LONGEST_AWAY_S = 3.0


@dataclass(frozen=True, kw_only=True)
class LiveSpeed:
    """The drum now.

    rate_hz, sigma_hz : its speed and standard error; slope_hz_s : how fast it changes
    steady : whether it has kept that speed ever since it was first seen: then it may be another machine's
    felt : whether the cabinet's motion shows it; by sound alone a live speed may be a multiple or a part of the true
    """

    rate_hz: float
    sigma_hz: float
    slope_hz_s: float
    steady: bool
    felt: bool


class _Rest:
    """The quietest frames so far, and what stands in them at the same frequency: neighbours, fans, mains."""

    def __init__(self, *, bin_hz: float) -> None:
        self._first = int(SLOWEST_STANDING_HZ / bin_hz)
        self._frames: list[tuple[float, FloatArray]] = []
        self._loudest_db = -np.inf
        self._standing: FloatArray | None = None

    def standing(self, level_db: float, lines: FloatArray) -> FloatArray | None:
        """What stands after one more frame [shape like `lines`]; None while nothing is known.

        A machine that never was quieter than it is says nothing of what stands beside it.

        Parameters
        ----------
        lines : array [shape=(..., bins)]
        """
        self._loudest_db = max(self._loudest_db, level_db)
        if len(self._frames) < REST_FRAMES or level_db < self._frames[-1][0]:
            self._frames.append((level_db, lines))
            self._frames.sort(key=lambda frame: frame[0])
            del self._frames[REST_FRAMES:]
            self._standing = None
        quiet = [frame for level, frame in self._frames if level < self._loudest_db - LEAST_QUIET_DB]
        if len(quiet) < FEWEST_REST_FRAMES:
            return None
        if self._standing is None:
            typical = median_along(np.stack(quiet), axis=0)
            typical[..., : self._first] = 0.0
            self._standing = np.where(typical > LEAST_STANDING_NATS, typical, np.float32(0.0))
        return self._standing


class _Shape:
    """What the spectra of the last frames have in common; looked at anew once a second."""

    def __init__(self, *, line_bins: int) -> None:
        self._line_bins = line_bins
        self._recent: deque[FloatArray] = deque(maxlen=SHAPE_FRAMES)
        self._shape: FloatArray | None = None
        self._left = 0

    def after(self, power: FloatArray) -> FloatArray:
        """The shape [shape=(bins,)] after one more frame [shape=(1, bins)]."""
        self._recent.append(power)
        if self._shape is None or self._left == 0:
            # At first each frame tells much.
            self._left = min(len(self._recent), SHAPE_KEPT_FRAMES)
            self._shape = spectral_shape(np.concatenate(self._recent), line_bins=self._line_bins)
        self._left -= 1
        return self._shape


class _SweptReader:
    """Scores of one kind of frames, one at a time."""

    def __init__(self, *, rate_hz: float, candidates_hz: FloatArray) -> None:
        self.comb = SweptComb(rate=rate_hz, candidates_hz=candidates_hz, frame_s=FRAME_S)
        self._shape = _Shape(line_bins=2 * HANN_LINE_BINS)
        self._rest = _Rest(bin_hz=self.comb.bin_hz)

    def score(self, frame: FloatArray, *, level_db: float) -> FloatArray:
        """Score of every candidate [shape=(states,)]. frame : array [shape=(rows, length)]."""
        powers = self.comb.powers(frame[:, None, :])
        still = self.comb.still(powers)
        strengths = line_strength(powers, self.comb.floor(self._shape.after(still), still))
        standing = self._rest.standing(level_db, strengths[:, 0])
        return np.asarray(self.comb.score(powers, strengths, standing)[0])


class _LowLinesReader:
    """Scores by the drum's lowest lines in the sound."""

    def __init__(self, *, rate_hz: float, candidates_hz: FloatArray, mains_hz: tuple[int, ...]) -> None:
        self.length = int(scipy.fft.next_fast_len(int(LOW_LINES_FRAME_S * rate_hz), real=True))
        self._window = hann(self.length)[: self.length]
        self._resolved = candidates_hz > 2.0 / LOW_LINES_FRAME_S
        self._mains_hz = mains_hz
        self._bin_hz = rate_hz / self.length
        bins = self.length // 2 + 1
        self._comb = StillComb(bins=bins, bin_hz=self._bin_hz, candidates_hz=candidates_hz)
        self._noise_floor = NoiseFloor(bins=bins, width=int(20.0 / self._bin_hz), quantile=0.4)
        self._shape = _Shape(line_bins=HANN_LINE_BINS)
        self._rest = _Rest(bin_hz=self._bin_hz)

    def score(self, frame: FloatArray, *, level_db: float) -> FloatArray:
        """Score of every candidate [shape=(states,)]. frame : array [shape=(length,)]."""
        spectrum = scipy.fft.rfft(frame.astype(np.float32, copy=False) * self._window)[None]
        power = spectrum.real**2 + spectrum.imag**2
        shape = self._shape.after(power)
        lines = line_strength(power, self._noise_floor(power / shape) * shape)
        standing = self._rest.standing(level_db, lines)
        if standing is not None:
            lines = less_standing(lines, standing)
        lines = without_mains(lines, self._mains_hz, bin_hz=self._bin_hz)
        return np.asarray(self._comb.score(lines)[0] * self._resolved)


@dataclass(frozen=True, kw_only=True)
class Frames:
    """What the sensors showed in the frame that ends now; None for what there is not.

    motion : array [shape=(3, n), m/s²]; modulation : array [shape=(n,)], logarithm of the sound's mean square
    low : array [shape=(n,)], slow sound around the frame's middle
    """

    motion: FloatArray | None
    modulation: FloatArray | None
    low: FloatArray | None


class SpeedFollower:
    """Follows the drum, one frame every `FRAME_STEP_S`.

    Parameters
    ----------
    drum : "front" or "top", by which the sounds count
    highest_hz : fastest that the drum can be
    motion_rate_hz, level_rate_hz, slow_rate_hz : of the frames' parts, None for what is not recorded
    """

    def __init__(
        self,
        *,
        drum: str,
        highest_hz: float,
        mains_hz: tuple[int, ...],
        motion_rate_hz: float | None,
        level_rate_hz: float | None,
        slow_rate_hz: float | None,
    ) -> None:
        self._candidates_hz = np.arange(LOWEST_HZ, highest_hz, GRID_HZ)
        self._drum = drum
        candidates = self._candidates_hz
        self._motion = _SweptReader(rate_hz=motion_rate_hz, candidates_hz=candidates) if motion_rate_hz else None
        self._modulation = _SweptReader(rate_hz=level_rate_hz, candidates_hz=candidates) if level_rate_hz else None
        self._low = (
            _LowLinesReader(rate_hz=slow_rate_hz, candidates_hz=candidates, mains_hz=mains_hz) if slow_rate_hz else None
        )
        self._ways = Trellis(candidates, unknown=UNKNOWN_SCORE)
        self._recent: deque[float] = deque(maxlen=CARRIED_FRAMES)
        self._shown: deque[float] = deque(maxlen=SHOWN_FRAMES)
        # The way that is followed: when it was last seen, what it has come through.
        self._last_hz: float | None = None
        self._away_s = 0.0
        self._lowest_hz, self._highest_hz = np.inf, 0.0

    @property
    def modulation_length(self) -> int:
        return self._modulation.comb.length if self._modulation else 0

    @property
    def low_length(self) -> int:
        return self._low.length if self._low else 0

    def step(self, frames: Frames) -> LiveSpeed | None:
        """The speed at the frames' end; None where nothing is known of it."""
        score = np.zeros(self._candidates_hz.size, dtype=np.float32)
        felt = self._motion is not None and frames.motion is not None
        if self._motion is not None and frames.motion is not None:
            level = float(10.0 * np.log10(np.square(np.diff(frames.motion, axis=1)).sum() + 1e-20))
            score += self._motion.score(frames.motion, level_db=level)
        share = SOUND_BESIDE_VIBRATION if felt else 1.0
        turning = score
        if self._modulation is not None and frames.modulation is not None:
            level_db = float(np.mean(frames.modulation)) * 10.0 / np.log(10.0)
            modulation = frames.modulation - frames.modulation.mean()
            modulation_score = self._modulation.score(modulation[None], level_db=level_db)
            # As in a whole recording: only what a motor alone cannot do proves that the drum turns.
            turning = score.copy() if felt else modulation_score
            score += np.float32(share * MODULATION_WEIGHT[self._drum]) * modulation_score
            if self._low is not None and frames.low is not None:
                low_score = self._low.score(frames.low, level_db=level_db)
                score += np.float32(share * LOW_LINES_WEIGHT[self._drum]) * low_score
                if not felt and self._drum == "front":
                    turning = np.maximum(turning, low_score)
        totals = np.empty((2, score.size), dtype=np.float32)
        lost = self._ways.advance(score, out=totals)
        best = totals.max(axis=0)
        state = int(best.argmax())
        if best[state] <= lost or self._candidates_hz[state] > TOP_SHARE * self._candidates_hz[-1]:
            self._recent.clear()
            self._away_s += FRAME_STEP_S
            return None
        rate = self._peak(score, state)
        if self._last_hz is None or not self._could_come(rate - self._last_hz):
            # Another way has become the better one.
            self._recent.clear()
            self._shown.clear()
            self._lowest_hz, self._highest_hz = rate, rate
        self._last_hz, self._away_s = rate, FRAME_STEP_S
        self._recent.append(rate)
        self._shown.append(float(turning[state]))
        self._lowest_hz, self._highest_hz = min(self._lowest_hz, rate), max(self._highest_hz, rate)
        return self._carried_on(felt=felt) if float(np.mean(self._shown)) >= LEAST_MOTION_SCORE else None

    def _could_come(self, change_hz: float) -> bool:
        """Whether a drum can have changed so much since it was last seen."""
        away_s = self._away_s
        reachable = -MAX_FALL_HZ_S * away_s - PEAK_SCATTER_HZ <= change_hz <= MAX_RISE_HZ_S * away_s + PEAK_SCATTER_HZ
        return reachable and away_s < LONGEST_AWAY_S

    def _peak(self, score: FloatArray, state: int) -> float:
        """Centre of the score's peak around a state [Hz]."""
        near = slice(max(0, state - PEAK_STATES), state + PEAK_STATES + 1)
        height = np.maximum(score[near] - 0.7 * score[near].max(), 0.0) ** 2
        total = float(height.sum())
        return float((height @ self._candidates_hz[near]) / total) if total > 0 else float(self._candidates_hz[state])

    def _carried_on(self, *, felt: bool) -> LiveSpeed | None:
        """From the frames' middles to the end of the last."""
        if len(self._recent) < FEWEST_CARRIED:
            return None
        rates = np.array(self._recent)
        # A straight line, and how far its value scatters where it is carried on to.
        ago_s = FRAME_STEP_S * (np.arange(rates.size) - 0.5 * (rates.size - 1))
        ahead_s = 0.5 * FRAME_S
        middle_hz, spread = float(rates.mean()), float(ago_s @ ago_s)
        slope_hz_s = float(ago_s @ rates) / spread
        end_s = float(ago_s[-1]) + ahead_s
        left_over = rates - middle_hz - slope_hz_s * ago_s
        scatter = max(float(left_over @ left_over) / (rates.size - 2), (0.5 * GRID_HZ) ** 2)
        # Frames overlap by nine tenths: what scatters is shared.
        noise = scatter * (1.0 / rates.size + end_s**2 / spread) * FRAME_S / FRAME_STEP_S / 2.0
        sigma = float(np.sqrt(noise + (UNSEEN_HZ_S * ahead_s) ** 2))
        return LiveSpeed(
            rate_hz=max(middle_hz + slope_hz_s * end_s, 0.0),
            sigma_hz=sigma,
            slope_hz_s=slope_hz_s,
            steady=self._highest_hz < MOVED_RATIO * self._lowest_hz,
            felt=felt,
        )
