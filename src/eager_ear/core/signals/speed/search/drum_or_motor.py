"""Whether what a track follows turns a drum, or is a motor alone behind a broken coupler, belt, collar or hub."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.angle import FRAME_STEP_S, LOWEST_HZ, SpeedTrack, TurnLines, turn_lines
from eager_ear.core.signals.dsp import LowBand
from eager_ear.core.signals.gates import gate
from eager_ear.core.signals.speed.search.grid import GRID_HZ, ScoreGrid
from eager_ear.core.signals.speed.search.plausible_spans import FASTEST_TUMBLE_HZ, SLOWEST_SPIN_HZ
from eager_ear.core.units import FloatArray, IntArray

# No drum tumbles or distributes so fast.
SPINNING_ABOVE_HZ = 4.0
# The first second above may be a slip of the track.
SHORTEST_FAST_S = 2.0
# Twice that, since slow turning is seldom steady.
SHORTEST_SLOW_S = 4.0
# Noise shows 0.3 to 0.8 a frame at best. Weaker motion is motion when it beats the paths beside the track, this far off
# in Hz, by several standard errors of their mean: by many, since the track was chosen for what these scores show.
# Frames overlap: so many say what one says.
LEAST_MOTION_SCORE = 1.5
LEAST_MOTION_SIGMAS = 6.0
FRAMES_A_SCORE = 8.0
BESIDE_HZ = (0.8, 8.0)
MULTIPLES = (1.5, 2.0, 3.0)
# As near as this a rate is that of a machine beside this one.
NEAR_STATES = 3
# Over the drum's angle a modulation counts that noise shows once in ten thousand, at an order that a track by its
# motor's lines may be off. Long segments tell more, short ones fit into short tracks.
MODULATION_TURNS = (64, 32)
ORDER_REACH = 0.015
LEAST_MODULATION_NATS = float(np.log(1e4))
# A multiple is one when its line stands so few bins away from it, and nothing stronger a little further off.
AT_BINS = 1.0
BESIDE_BINS = 4.0


@gate("motor alone", harmless=lambda *_, **__: None)
def require_turning(
    turning: Sequence[FloatArray],
    track: SpeedTrack,
    grid: ScoreGrid,
    *,
    modulated: FloatArray | None = None,
    low: LowBand | None = None,
    beside_hz: Sequence[float] = (),
) -> None:
    """A drum that spins shakes its cabinet and makes its noise swell: a fast track that shows neither is the motor's.

    What a score shows along the track is compared with what the same track moved up or down shows, and with its
    multiples: lines fit half the speed as well, but once in two turns nothing swells. The modulation is told from its
    multiples over the drum's angle, where frames are too short: prongs that jump in a broken coupler come three times
    a turn of what should be the drum. A track that is never fast for long is asked for what it has, unless that lies
    where drums only pass. What shakes at the rate of a machine beside this one
    proves nothing.

    Parameters
    ----------
    turning : scores of what only the drum shows [shape=(frames, states) each]
    modulated, low : score of the sound's modulation, and the sound
    beside_hz : rates at which a machine beside this one shakes it

    Raises
    ------
    NotMeasurable
        None of them shows it, or a multiple of the track shows more.
    """
    fast = np.flatnonzero(track.known & (track.rate_hz > SPINNING_ABOVE_HZ))
    if fast.size * FRAME_STEP_S < SHORTEST_FAST_S:
        fast = np.flatnonzero(track.known)
        passed = (track.rate_hz[fast] > FASTEST_TUMBLE_HZ) & (track.rate_hz[fast] < SLOWEST_SPIN_HZ)
        if fast.size * FRAME_STEP_S < SHORTEST_SLOW_S or passed.all():
            raise NotMeasurable(quantity="speed track", reason="no rotation was seen but for a moment of slow turning.")
    path = np.rint((track.rate_hz - grid.candidates_hz[0]) / GRID_HZ).astype(int)
    path = np.clip(path, 0, grid.candidates_hz.size - 1)
    near = [np.abs(track.rate_hz[fast] - rate_hz) < NEAR_STATES * GRID_HZ for rate_hz in beside_hz]
    elses = np.any(near, axis=0) if near else np.zeros(fast.size, dtype=bool)
    own = fast[~elses]
    if own.size * FRAME_STEP_S >= SHORTEST_FAST_S:
        if modulated is not None and _along(modulated, path, own).mean() >= LEAST_MOTION_SCORE:
            return
        if any(_stands_out(score, path, own) for score in turning):
            return
    known = track.known.copy()
    known[fast[elses]] = False
    if low is not None and _swells(low, replace(track, known=known)):
        return
    raise NotMeasurable(
        quantity="speed track",
        reason="a motor is noticed, but nothing once per turn: the drum seems to stand, or is too well balanced.",
    )


def _along(score: FloatArray, path: IntArray, frames: IntArray) -> FloatArray:
    """What a path shows at some frames, where it stays within the candidates [shape=(<= len(frames),)]."""
    inside = (path[frames] >= 0) & (path[frames] < score.shape[1])
    return score[frames[inside], path[frames[inside]]] if inside.mean() > 0.5 else np.zeros(0)


def _stands_out(score: FloatArray, path: IntArray, fast: IntArray) -> bool:
    """Whether the path is better than those beside it and its multiples."""
    own = float(_along(score, path, fast).mean())
    if own >= LEAST_MOTION_SCORE:
        return True
    steps = np.arange(BESIDE_HZ[0], BESIDE_HZ[1], 4 * GRID_HZ) / GRID_HZ
    moved = [_along(score, path + step, fast) for step in np.rint(np.concatenate([-steps, steps])).astype(int)]
    beside = [(float(values.mean()), float(values.std())) for values in moved if values.size]
    typical, scatter = np.median(beside or [(0.0, 0.0)], axis=0)
    error = scatter / np.sqrt(fast.size / FRAMES_A_SCORE)
    lowest = LOWEST_HZ / GRID_HZ
    rivals = [_along(score, np.rint(k * (path + lowest) - lowest).astype(int), fast) for k in MULTIPLES]
    highest = max((float(values.mean()) for values in rivals if values.size), default=-np.inf)
    return own >= max(float(typical + LEAST_MOTION_SIGMAS * error), highest)


def _swells(low: LowBand, track: SpeedTrack) -> bool:
    """Whether the noise swells once per turn, and not more clearly at a multiple of it: that is a motor's, or prongs.

    Multiples are looked for where the line found says that they stand: a bearing's may be close by.
    """
    for turns in MODULATION_TURNS:
        lines = turn_lines(low.modulation, track, rate_hz=low.level_rate_hz, start_s=low.start_s, turns=turns)
        own = lines.false_alarm_nats(1.0, reach=ORDER_REACH)
        if own > LEAST_MODULATION_NATS:
            order = lines.strongest(1.0, reach=ORDER_REACH)
            return own >= max(_told_at(lines, k * order) for k in MULTIPLES)
    return False


def _told_at(lines: TurnLines, order: float) -> float:
    """How clearly a line stands at an order, not merely near it."""
    at, beside = AT_BINS / lines.turns / order, BESIDE_BINS / lines.turns / order
    stands = abs(lines.strongest(order, reach=beside) - order) <= at * order
    return lines.false_alarm_nats(order, reach=at) if stands else 0.0
