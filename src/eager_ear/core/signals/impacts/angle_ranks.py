"""Which part of the turn is the loudest, turn after turn: a test by ranks for impacts too weak to count one by one.

The level of a band is laid over drum angle. In noise that does not care for the drum, each of fifteen parts of a turn
is the loudest of its surroundings in one turn of fifteen; a part that is so more often is tied to the drum (binomial).
Ranks do not mind how loud a single bang is, nor how the level drifts (sign and rank tests: Hollander, Wolfe & Chicken,
Nonparametric Statistical Methods, 3rd ed., chapter 2). Swelling of the noise is tied to the drum as well; an impact is
what is narrow, and the loudest of its near neighbourhood too.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy

from eager_ear.core.signals.angle import SpeedTrack, known_spans
from eager_ear.core.signals.impacts.transients import Transients
from eager_ear.core.units import BoolArray, FloatArray, IntArray

# 7.5 degrees each: a tenth of how far an impact wanders, and whole in halves and thirds of a turn.
CELLS = 48
# Impacts are compared in sixteenths of a turn, about as far as they wander.
PART = 3
PARTS = CELLS // PART
# The part opposite is left out: a second impact may be there.
RIVALS = PART * np.array([k for k in range(-PARTS // 2 + 1, PARTS // 2) if k])
NEAR = np.abs(RIVALS) <= 3 * PART
FEWEST_TURNS = 6
# Over so many turns angles are held together; a few such pieces tell what there is to tell of one range of speeds.
MOST_TURNS = 96
MOST_PIECES = 3
COARSEST_CELLS = 2.0
# Angle may drift by this share of the turns: twice the track's own error, and no less than its phase wanders.
DRIFT_RANGE = (0.0015, 0.01)
DRIFT_STEP_CELLS = 1.5
TWO_TURNS = np.arange(2 * CELLS) % CELLS
OPPOSITE = CELLS // 2 + np.arange(-5, 6)
# A third of a turn further on either side: three or more impacts a turn, evenly spaced, have one there.
THIRDS = np.concatenate([CELLS // 3 + np.arange(-4, 3), -CELLS // 3 + np.arange(-2, 5)])


@dataclass(frozen=True, kw_only=True)
class AngleRank:
    """The most outstanding angle of one range of speeds in one band.

    false_alarm : chance that noise shows a part of the turn as outstanding anywhere
    near_share : part of the turns in which it is the loudest of its near neighbourhood
    opposite_near_share, third_near_share : the same for the part half a turn further, and a third before or after
    width_turns : width of the mean level's peak at half its height
    """

    turns: int
    false_alarm: float
    near_share: float
    opposite_near_share: float
    third_near_share: float
    width_turns: float


def rank_angles(impacts: Transients, *, track: SpeedTrack, use: BoolArray) -> AngleRank | None:
    """Test the band's level where `use` [shape like track.t_s] holds; None with too few turns or too coarse a level."""
    pieces = [
        (levels[k : k + MOST_TURNS], _drift(track, span))
        for span, levels in _laid_over_turns(impacts, track, use)
        for k in range(0, max(levels.shape[0] - FEWEST_TURNS + 1, 1), MOST_TURNS)
    ]
    found = [_rank(levels, drift) for levels, drift in pieces[:: -(-len(pieces) // MOST_PIECES) or 1]]
    if not found:
        return None
    turns = np.array([rank.turns for rank in found], dtype=float)
    longest = found[int(turns.argmax())]
    return AngleRank(
        turns=int(turns.sum()),
        false_alarm=_together([rank.false_alarm for rank in found]),
        near_share=float(np.average([rank.near_share for rank in found], weights=turns)),
        opposite_near_share=float(np.average([rank.opposite_near_share for rank in found], weights=turns)),
        third_near_share=float(np.average([rank.third_near_share for rank in found], weights=turns)),
        width_turns=longest.width_turns,
    )


def _laid_over_turns(impacts: Transients, track: SpeedTrack, use: BoolArray) -> list[tuple[IntArray, FloatArray]]:
    """Frames and level per turn and cell [shape=(turns, CELLS), dB] of every unbroken stretch."""
    out: list[tuple[IntArray, FloatArray]] = []
    for span in known_spans(use):
        t_s = track.t_s[span]
        turns = track.turns_at(t_s)
        whole = int(turns[-1] - turns[0])
        if whole < FEWEST_TURNS:
            continue
        end_s = float(np.interp(turns[0] + whole, turns, t_s))
        if impacts.cell_s * CELLS * whole / (end_s - t_s[0]) > COARSEST_CELLS * PART:
            continue
        first = max(int((t_s[0] - impacts.start_s) / impacts.cell_s), 0)
        level = impacts.level_db[first : max(first, int((end_s - impacts.start_s) / impacts.cell_s))]
        if level.size < CELLS:
            continue
        times = impacts.start_s + (first + np.arange(level.size) + 0.5) * impacts.cell_s
        cell = np.floor((track.turns_at(times) - turns[0]) * CELLS).astype(int)
        inside = (cell >= 0) & (cell < whole * CELLS)
        count = np.bincount(cell[inside], minlength=whole * CELLS)
        # Mean power, not mean decibels: a tick that fills a part of the cell counts with all that it has.
        total = np.bincount(cell[inside], weights=10.0 ** (level[inside] / 10.0), minlength=whole * CELLS)
        filled = np.flatnonzero(count)
        mean = np.interp(np.arange(count.size), filled, 10.0 * np.log10(total[filled] / count[filled] + 1e-30))
        out.append((span, mean.reshape(whole, CELLS)))
    return out


def _drift(track: SpeedTrack, span: IntArray) -> float:
    return float(np.clip(2.0 * np.median(track.sigma_hz[span] / track.rate_hz[span]), *DRIFT_RANGE))


def _rank(levels: FloatArray, drift: float) -> AngleRank:
    turns = levels.shape[0]
    flat = levels.ravel()
    parts = (np.roll(flat, 1) + flat + np.roll(flat, -1)) / PART
    room = int(np.abs(RIVALS).max())
    padded = np.pad(parts, room, mode="reflect")
    rivals = np.stack([padded[room + k : room + k + parts.size] for k in RIVALS])
    loudest = (parts > rivals.max(axis=0)).reshape(levels.shape)
    nearest = (parts > rivals[NEAR].max(axis=0)).reshape(levels.shape)
    steps = int(np.ceil(drift * turns * CELLS / DRIFT_STEP_CELLS))
    drifts = DRIFT_STEP_CELLS * np.arange(-steps, steps + 1) / turns
    moved = np.rint(drifts[:, None] * np.arange(turns)).astype(int) % CELLS
    turn, cell = np.nonzero(loudest)
    # Two turns of cells side by side, so that no index runs over the end.
    placed = TWO_TURNS[CELLS + cell - moved[:, turn]] + CELLS * np.arange(drifts.size)[:, None]
    counts_by_drift = np.bincount(placed.ravel(), minlength=CELLS * drifts.size).reshape(drifts.size, CELLS)
    drifted, top = divmod(int(counts_by_drift.argmax()), CELLS)
    counts, index = counts_by_drift[drifted], TWO_TURNS[np.arange(CELLS) + moved[drifted][:, None]]
    near = np.take_along_axis(nearest, index, axis=1).mean(axis=0)
    across = (top + OPPOSITE) % CELLS
    opposite = int(across[counts[across].argmax()])
    thirds = (top + THIRDS) % CELLS
    profile = np.roll(np.take_along_axis(parts.reshape(levels.shape), index, axis=1).mean(axis=0), CELLS // 2 - top)
    profile = profile - np.median(profile)
    return AngleRank(
        turns=turns,
        false_alarm=_chance(int(counts[top]), turns, trials=PARTS * drifts.size),
        near_share=float(near[top]),
        opposite_near_share=float(near[opposite]),
        third_near_share=float(near[thirds].max()),
        width_turns=_width(profile) / CELLS,
    )


def near_chance(share: float, turns: int, usual: float) -> float:
    """Chance that a part is the loudest of its neighbourhood in so many of the turns, when it usually is in `usual`."""
    count = round(share * turns)
    return float(scipy.special.bdtrc(count - 1, turns, usual)) if count else 1.0


def _chance(count: int, turns: int, *, trials: int) -> float:
    return float(min(1.0, trials * scipy.special.bdtrc(count - 1, turns, 1.0 / (PARTS - 1)))) if count else 1.0


def _together(chances: list[float]) -> float:
    """One chance from independent ones (Fisher's method)."""
    total = -2.0 * sum(np.log(max(c, 1e-300)) for c in chances)
    return float(scipy.special.chdtrc(2 * len(chances), total))


def _width(profile: FloatArray) -> int:
    """Cells around the middle that stay above half of its height."""
    above = profile > 0.5 * profile[CELLS // 2]
    right = np.flatnonzero(~above[CELLS // 2 :])
    left = np.flatnonzero(~above[CELLS // 2 :: -1])
    return int((right[0] if right.size else CELLS // 2) + (left[0] if left.size else CELLS // 2) - 1)
