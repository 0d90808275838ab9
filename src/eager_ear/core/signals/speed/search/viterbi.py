"""The continuous speed through a grid of scores: dynamic programming with a state "unknown".

Viterbi: Forney, Proc. IEEE 61(3), 1973, pp. 268-278. Changes of speed are limited by what motors and brakes can do.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from eager_ear.core.signals.angle import FRAME_STEP_S, known_spans
from eager_ear.core.signals.dsp import peak_centre
from eager_ear.core.signals.gates import gate
from eager_ear.core.signals.speed.search.grid import ScoreGrid
from eager_ear.core.signals.speed.search.plausible_spans import (
    MAX_FALL_HZ_S,
    MAX_RISE_HZ_S,
    drop_short,
    drop_unreachable,
    trim_ends,
)
from eager_ear.core.units import BoolArray, FloatArray, IntArray

# What is driven falls no faster than its load brakes it.
GENTLE_FALL_HZ_S = 1.0
# What a step at its limit costs, against some 1 to 5 that a clear speed scores a frame; what leaving or entering
# "unknown" costs; what driving a drum again costs that was let go.
STEEP_COST = 0.8
CHANGE_COST = 12.0
# A recording may begin at full speed or in the coast-down, but seldom does. What folds back looks like either.
FAST_FIRST_COST_PER_HZ = 1.5
LET_GO_FIRST_COST = 40.0
AGAIN_COST_PER_HZ = 20.0
MOST_AGAIN_COST = 200.0
# A drum that was let go falls: a frame at the same speed costs this.
HANGING_COST = 0.5
# A line still rising at the highest rate that the drum can have is the motor's.
TOP_SHARE = 0.965
RIDGE_STATES = 8
# How often a path may turn out to follow a alias somewhere.
MOST_IMAGES = 3


def best_path(
    score: FloatArray,
    grid: ScoreGrid,
    *,
    unknown: float,
    least_end: float,
    felt: bool = False,
    images: Callable[[IntArray, BoolArray], BoolArray] | None = None,
) -> tuple[IntArray, BoolArray]:
    """Best candidate of each frame [shape=(frames,)] and where it beats "unknown".

    Parameters
    ----------
    score : array [shape=(frames, states)]
    unknown : what the state "unknown" scores each frame
    least_end : what both ends of a known stretch must show a frame, in the mean over `END_S`, or they are given up:
        the path enters and leaves noise for free, so its ends are its weakest part
    felt : the scores rest on vibration, where nothing but the drum and what stands beside it has lines
    images : where a slow sensor shows each rate's alias as well: tells where a path follows one
    """
    if images is not None:
        score = _without_images(score, grid, images, unknown=unknown)
    path, known = _firm_path(score, grid, unknown=unknown, least_end=least_end)
    beyond = _too_fast(known, grid, path)
    known &= ~beyond
    if beyond.any() and felt:
        # Once more without what is too fast: something beside the drum may have shaken more for a while. In the sound
        # such a line is a motor's, and what is left of it below the top no drum's.
        top = beyond & (grid.candidates_hz[path] >= TOP_SHARE * grid.candidates_hz[-1])
        below = without_ridge(score, path, top)
        lower, goes_on = _firm_path(below, grid, unknown=unknown, least_end=least_end)
        if goes_on[top].mean() > 0.5 and not _too_fast(goes_on, grid, lower).any():
            score, path, known = below, lower, goes_on
        elif images is not None:
            # Or the whole of it is an image that the samples came too evenly to tell.
            score = without_ridge(score, path, beyond)
            path, known = _firm_path(score, grid, unknown=unknown, least_end=least_end)
            known &= ~_too_fast(known, grid, path)
    return path, drop_unreachable(known, grid.candidates_hz[path], _along(score, path))


def _without_images(
    score: FloatArray, grid: ScoreGrid, images: Callable[[IntArray, BoolArray], BoolArray], *, unknown: float
) -> FloatArray:
    """The scores less the aliases that the best paths through them follow."""
    for _ in range(MOST_IMAGES):
        path, known = _viterbi(score, grid, unknown=unknown)
        image = images(path, known)
        if not image.any():
            break
        score = without_ridge(score, path, image)
    return score


def _firm_path(score: FloatArray, grid: ScoreGrid, *, unknown: float, least_end: float) -> tuple[IntArray, BoolArray]:
    """The best path, its weak ends cut off."""
    path, known = _viterbi(score, grid, unknown=unknown)
    return path, trim_ends(known, _along(score, path), least=least_end)


def _along(score: FloatArray, path: IntArray) -> FloatArray:
    """What a path scores at every moment [shape=(frames,)]."""
    return np.asarray(np.take_along_axis(score, path[:, None], axis=1)[:, 0])


def without_ridge(score: FloatArray, path: IntArray, frames: BoolArray) -> FloatArray:
    """The scores less what stands along a path at some moments [shape like `score`]."""
    out = score.copy()
    ridge = np.clip(path[frames, None] + np.arange(-RIDGE_STATES, RIDGE_STATES + 1), 0, score.shape[1] - 1)
    frame = np.flatnonzero(frames)[:, None]
    out[frame, ridge] = np.minimum(out[frame, ridge], 0.0)
    return out


def _viterbi(score: FloatArray, grid: ScoreGrid, *, unknown: float) -> tuple[IntArray, BoolArray]:
    """Path and where it is known, short stretches left out."""
    # Totals of the best ways to every state; which way that was is asked again on the way back, along one path only.
    trellis = Trellis(grid.candidates_hz, unknown=unknown)
    totals = np.empty((score.shape[0], 2, score.shape[1]), dtype=np.float32)
    lost = np.empty(score.shape[0], dtype=np.float32)
    for i, row in enumerate(score):
        lost[i] = trellis.advance(row, out=totals[i])
    path, known = trellis.walk_back(totals, lost)
    return path, drop_short(known)


class Trellis:
    """The best ways to every candidate, frame by frame.

    Every candidate exists twice: driven, when the rate rises or falls gently, and let go, when it only falls, as fast
    as brakes can make it. Letting go is free; being driven again costs more the faster the drum still turns, since
    programs start a drum again from slow turning and not in the middle of a fall.

    Parameters
    ----------
    candidates_hz : array [shape=(states,)], evenly spaced
    unknown : what the state "unknown" scores each frame
    """

    def __init__(self, candidates_hz: FloatArray, *, unknown: float) -> None:
        states = candidates_hz.size
        self._modes, self._change_cost = _modes(candidates_hz)
        first_cost = np.stack([FAST_FIRST_COST_PER_HZ * candidates_hz, np.full(states, LET_GO_FIRST_COST)])
        self._first_cost = first_cost.astype(np.float32)
        self._unknown = unknown
        self._reached, self._otherwise = np.empty((2, 2, states), dtype=np.float32)
        self._totals: FloatArray | None = None
        self._lost = 0.0

    def advance(self, score: FloatArray, *, out: FloatArray) -> float:
        """Put the totals after one more frame into `out` [shape=(2, states)]; returns that of being lost.

        Parameters
        ----------
        score : array [shape=(states,)]
        """
        if self._totals is None:
            np.subtract(score, self._first_cost, out=out)
            self._lost = self._unknown
        else:
            best, reached, otherwise = self._totals, self._reached, self._otherwise
            for mode, moves in enumerate(self._modes):
                moves.advance(best[mode], reached[mode])
            np.subtract(best[::-1], self._change_cost, out=otherwise)
            np.maximum(reached, otherwise, out=reached)
            np.subtract(np.float32(self._lost - CHANGE_COST), self._first_cost, out=otherwise)
            np.maximum(reached, otherwise, out=reached)
            highest = float(best.max())
            np.add(reached, score, out=out)
            self._lost = float(np.float32(max(self._lost, highest - CHANGE_COST) + self._unknown))
        self._totals = out
        return self._lost

    def walk_back(self, totals: FloatArray, lost: FloatArray) -> tuple[IntArray, BoolArray]:
        """The best way from its end, asking at every frame which predecessor its total came from.

        Parameters
        ----------
        totals : array [shape=(frames, 2, states)]; lost : array [shape=(frames,)], as `advance` gave them
        """
        frames, _, states = totals.shape
        path = np.zeros(frames, dtype=int)
        known = np.zeros(frames, dtype=bool)
        mode, state = divmod(int(totals[-1].argmax()), states)
        is_known = bool(totals[-1].max() > lost[-1])
        for i in range(frames - 1, -1, -1):
            path[i], known[i] = state, is_known
            if i == 0:
                break
            best = totals[i - 1]
            if is_known:
                kept, before = self._modes[mode].before(best[mode], state)
                changed = float(best[1 - mode, state] - self._change_cost[mode, state])
                entered = float(lost[i - 1]) - CHANGE_COST - float(self._first_cost[mode, state])
                if entered > max(kept, changed):
                    is_known = False
                elif changed > kept:
                    mode = 1 - mode
                else:
                    state = before
            elif float(best.max()) - CHANGE_COST > float(lost[i - 1]):
                mode, state = divmod(int(best.argmax()), states)
                is_known = True
        return path, known


@dataclass(frozen=True)
class _Mode:
    """Steps from frame to frame while driven or while let go: from how many states above, and at what cost.

    room, shifted : the totals with room on both sides, and a view of them, one row a step; options : room to work in
    """

    steps: IntArray
    cost: FloatArray
    room: FloatArray
    shifted: FloatArray
    options: FloatArray

    @classmethod
    def of(cls, steps: IntArray, cost: FloatArray, *, states: int) -> _Mode:
        room = np.full(states + steps.size - 1, -np.inf, dtype=np.float32)
        shifted = np.lib.stride_tricks.sliding_window_view(room, states)
        return cls(steps, cost.astype(np.float32)[:, None], room, shifted, np.empty_like(shifted))

    def advance(self, best: FloatArray, reached: FloatArray) -> None:
        """Put the best predecessor's total into `reached` [shape=(states,)]."""
        above = -int(self.steps[0])
        self.room[above : above + best.size] = best
        np.subtract(self.shifted, self.cost, out=self.options)
        np.maximum.reduce(self.options, axis=0, out=reached)

    def before(self, best: FloatArray, state: int) -> tuple[float, int]:
        """Total of the best predecessor of one state, and which it is."""
        lowest = state + int(self.steps[0])
        first, last = max(0, -lowest), min(self.steps.size, best.size - lowest)
        options = best[lowest + first : lowest + last] - self.cost[first:last, 0]
        k = int(options.argmax())
        return float(options[k]), lowest + first + k


def _modes(candidates_hz: FloatArray) -> tuple[tuple[_Mode, _Mode], FloatArray]:
    """Driven and let go, and what changing into each of them costs [shape=(2, states)]."""
    states = candidates_hz.size
    step_hz = float(candidates_hz[1] - candidates_hz[0])
    up, gentle, down = (
        max(1, int(limit * FRAME_STEP_S / step_hz)) for limit in (MAX_RISE_HZ_S, GENTLE_FALL_HZ_S, MAX_FALL_HZ_S)
    )
    driven = np.arange(-up, gentle + 1, dtype=np.int16)
    let_go = np.arange(0, down + 1, dtype=np.int16)
    falling = STEEP_COST * let_go / down
    falling[0] = HANGING_COST
    again = np.minimum(AGAIN_COST_PER_HZ * candidates_hz, MOST_AGAIN_COST)
    modes = (
        _Mode.of(driven, STEEP_COST * np.abs(driven) / np.where(driven < 0, up, gentle), states=states),
        _Mode.of(let_go, falling, states=states),
    )
    return modes, np.stack([again, np.zeros(states)]).astype(np.float32)


@gate("too fast", harmless=lambda known, *_: np.zeros_like(known))
def _too_fast(known: BoolArray, grid: ScoreGrid, path: IntArray) -> BoolArray:
    """Every stretch that reaches the fastest candidate [shape=(frames,)]: it follows a line that goes on beyond."""
    out = np.zeros(known.size, dtype=bool)
    for span in known_spans(known):
        if float(grid.candidates_hz[path[span]].max()) >= TOP_SHARE * float(grid.candidates_hz[-1]):
            out[span] = True
    return out


def rate_of_path(score: FloatArray, path: IntArray, grid: ScoreGrid) -> FloatArray:
    """Centre of the score's peak around the path [Hz]: the weighted mean of the neighbouring candidates."""
    candidates = grid.candidates_hz
    reach = np.arange(-4, 5)
    index = np.clip(path[:, None] + reach, 0, candidates.size - 1)
    near = np.take_along_axis(score, index, axis=1)
    centre = peak_centre(near, candidates[index], above=0.7 * near.max(axis=1, keepdims=True), power=2)
    return np.where(np.isfinite(centre), centre, candidates[path])
