"""The continuous speed through a grid of scores: dynamic programming with a state "unknown".

Viterbi: Forney, Proc. IEEE 61(3), 1973, pp. 268-278. Changes of speed are limited by what motors and brakes can do.
"""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from scipy import ndimage

from eager_ear.core.signals.speed_scores import ScoreGrid
from eager_ear.core.signals.speed_track import FRAME_STEP_S
from eager_ear.core.units import BoolArray, FloatArray, IntArray

# Motors reach about 180 rpm/s upwards; a braked drum falls at up to 480 rpm/s.
MAX_RISE_HZ_S = 3.0
MAX_FALL_HZ_S = 8.0
CHANGE_COST = 12.0
BRAKING_HZ_S = 3.0
BRAKING_S = 0.75
RUN_UP_HZ = 5.0
RUN_UP_S = 3.0
SHORTEST_KNOWN_S = 1.0
# Both ends of a known stretch must show this much a frame, in the mean over `END_S`, or they are given up: the path
# enters and leaves noise for free, so its ends are its weakest part.
LEAST_END_SCORE = 1.9
END_S = 1.5


def best_path(score: FloatArray, grid: ScoreGrid, *, unknown: float) -> tuple[IntArray, BoolArray]:
    """Best candidate of each frame [shape=(frames,)] and where it beats "unknown".

    Parameters
    ----------
    score : array [shape=(frames, states)]
    unknown : what the state "unknown" scores each frame
    """
    frames, states = score.shape
    step_hz = float(grid.candidates_hz[1] - grid.candidates_hz[0])
    up = max(1, int(MAX_RISE_HZ_S * FRAME_STEP_S / step_hz))
    down = max(1, int(MAX_FALL_HZ_S * FRAME_STEP_S / step_hz))
    shifts = np.arange(-up, down + 1)
    # A change of speed costs little; a change at the limit costs as much as half a weak line.
    cost = (0.8 * (np.abs(shifts) / np.where(shifts < 0, up, down))).astype(np.float32)
    best = score[0].astype(np.float32)
    lost = np.float32(unknown)
    back = np.empty((frames, states), dtype=np.int16)
    lost_from = np.full(frames, -1, dtype=np.int64)
    unknown_here = np.full(states, np.iinfo(np.int16).max, dtype=np.int16)
    padded = np.full(states + up + down, -np.inf, dtype=np.float32)
    for i in range(1, frames):
        padded[up : up + states] = best
        options = np.lib.stride_tricks.sliding_window_view(padded, up + down + 1)[:states] - cost
        pick = np.argmax(options, axis=1)
        stay = options[np.arange(states), pick]
        enter = lost - CHANGE_COST
        back[i] = np.where(enter > stay, unknown_here, shifts[pick])
        leave = int(np.argmax(best))
        new_lost = lost
        if best[leave] - CHANGE_COST > lost:
            new_lost = best[leave] - CHANGE_COST
            lost_from[i] = leave
        best = np.maximum(stay, enter) + score[i]
        lost = np.float32(new_lost + unknown)
    path, known = _walk_back(back, lost_from, end=int(np.argmax(best)), end_known=bool(best.max() > lost))
    known = drop_short(known)
    on_path = np.take_along_axis(score, path[:, None], axis=1)[:, 0]
    known = _drop_before_braking(known, grid.candidates_hz[path])
    known = _trim_ends(known, on_path)
    return path, _drop_unreachable(known, grid.candidates_hz[path], on_path)


def _walk_back(back: IntArray, lost_from: IntArray, *, end: int, end_known: bool) -> tuple[IntArray, BoolArray]:
    frames, states = back.shape
    path = np.zeros(frames, dtype=int)
    known = np.zeros(frames, dtype=bool)
    state, is_known = end, end_known
    unknown_here = np.iinfo(np.int16).max
    for i in range(frames - 1, -1, -1):
        path[i], known[i] = state, is_known
        if i == 0:
            break
        if is_known:
            step = int(back[i, state])
            if step == unknown_here:
                is_known = False
            else:
                state = int(np.clip(state + step, 0, states - 1))
        elif lost_from[i] >= 0:
            state, is_known = int(lost_from[i]), True
    return path, known


def known_spans(known: BoolArray) -> list[IntArray]:
    """Indices of every unbroken known stretch."""
    labels, count = ndimage.label(known)
    return [np.flatnonzero(labels == k) for k in range(1, count + 1)]


def _drop_before_braking(known: BoolArray, rate_hz: FloatArray) -> BoolArray:
    """Drop what comes before a hard braking that is followed by a run-up: no program does that within seconds.

    Such a path has followed somebody else's line until the drum's own became clear.
    """
    out = known.copy()
    frames = int(BRAKING_S / FRAME_STEP_S)
    for span in known_spans(known):
        rate = rate_hz[span]
        if rate.size <= 2 * frames:
            continue
        fall = rate[frames:] - rate[:-frames]
        for i in np.flatnonzero(fall < -BRAKING_HZ_S * BRAKING_S)[::-1]:
            after = rate[i + frames :]
            if (after > max(1.5 * float(after[: 2 * frames].min()), RUN_UP_HZ)).sum() * FRAME_STEP_S > RUN_UP_S:
                out[span[: i + frames]] = False
                break
    return out


def _trim_ends(known: BoolArray, on_path: FloatArray) -> BoolArray:
    out = known.copy()
    frames = int(END_S / FRAME_STEP_S)
    for span in known_spans(known):
        mean = ndimage.uniform_filter1d(on_path[span], min(frames, span.size), mode="nearest")
        firm = np.flatnonzero(mean >= LEAST_END_SCORE)
        if firm.size == 0:
            out[span] = False
            continue
        out[span[: firm[0]]] = False
        out[span[firm[-1] + 1 :]] = False
    return out


def drop_short(known: BoolArray) -> BoolArray:
    """Without known stretches of less than a second."""
    out = known.copy()
    for span in known_spans(known):
        if span.size * FRAME_STEP_S < SHORTEST_KNOWN_S:
            out[span] = False
    return out


def _drop_unreachable(known: BoolArray, rate_hz: FloatArray, score: FloatArray) -> BoolArray:
    """Of two stretches that no drum can pass between in the time given, the one with the weaker evidence goes."""
    out = known.copy()
    while True:
        clash = next(
            (
                (a, b)
                for a, b in pairwise(known_spans(out))
                if not _reachable(rate_hz[a[-1]], rate_hz[b[0]], gap_s=float(b[0] - a[-1]) * FRAME_STEP_S)
            ),
            None,
        )
        if clash is None:
            return out
        weaker = min(clash, key=lambda span: float(score[span].sum()))
        out[weaker] = False


def _reachable(from_hz: float, to_hz: float, *, gap_s: float) -> bool:
    change = to_hz - from_hz
    return bool(-MAX_FALL_HZ_S * gap_s - 0.5 <= change <= MAX_RISE_HZ_S * gap_s + 0.5)


def peak_centre(score: FloatArray, path: IntArray, grid: ScoreGrid) -> FloatArray:
    """Centre of the score's peak around the path [Hz]: the weighted mean of the neighbouring candidates."""
    candidates = grid.candidates_hz
    reach = np.arange(-4, 5)
    index = np.clip(path[:, None] + reach, 0, candidates.size - 1)
    near = np.take_along_axis(score, index, axis=1)
    weight = np.maximum(near - 0.7 * near.max(axis=1, keepdims=True), 0.0) ** 2
    total = weight.sum(axis=1)
    centre = (weight * candidates[index]).sum(axis=1) / np.maximum(total, 1e-9)
    return np.where(total > 0, centre, candidates[path])
