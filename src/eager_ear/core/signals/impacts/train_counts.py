"""How often a turn the impacts of a train come, where the speed is known beside it at best.

Told, in this order, by the track where the train runs into it, by the track's end nearby, by what a drum can do on the
way to an end further off, and by what drums do: they tumble and distribute below two turns a second and pass quickly
from there to their slowest spin, so that an even rate between two and three and a half a second is two a turn. What
comes quicker is a bearing's.
"""

from __future__ import annotations

import numpy as np
import scipy

from eager_ear.core.signals.angle import FRAME_STEP_S, SpeedTrack, known_spans
from eager_ear.core.signals.impacts.impact_trains import ImpactTrain
from eager_ear.core.signals.impacts.locked_impacts import MULTIPLES
from eager_ear.core.signals.speed import FASTEST_TUMBLE_HZ
from eager_ear.core.units import FloatArray

# Turns of the track that a train has to run along for its rate to be told by it; how far from its end it still tells.
FEWEST_TURNS = 2.0
NEAR_END_S = 1.5
TOUCHING_S = 0.5
SLOPE_FRAMES = 7
# Farther away the steps' own slope tells, over so long, so many steps, so steep; and how much steeper than it the way
# to the track may be, at least and at most: on a ramp, where a drum may rest, and in its fall, where it may not.
LONGEST_GAP_S = 5.0
TOWARDS_S = 4.0
FEWEST_TOWARDS = 6
NEAREST = 3
LEAST_FALL_HZ_S = 0.2
STEEPER = {False: (0.4, 1.7), True: (0.6, 1.9)}
COUNTS = (1, 2, 3, 4)
# An even rate: so many steps in so long a time, the quickest no quicker than this.
FEWEST_EVEN_STEPS = 5
SHORTEST_EVEN_S = 1.2
EVEN_RATIO = 1.18
QUICKEST_PAIR_HZ = 3.5
MORE = 3.0
# How far from one or two a turn the count may lie.
COUNT_TOLERANCE = 0.2


def impacts_a_turn(train: ImpactTrain, track: SpeedTrack, *, coasting: bool) -> float:
    """How often a turn the train's impacts come, 0.0 where nothing tells."""
    along, beside = _along_the_track(train, track), _beside_the_track(train, track)
    # Where the track begins impacts begin to drown: a count that is neither one nor two missed some of them.
    told = [a_turn for a_turn in (along, beside) if whole_count(a_turn) is not None]
    if told and along < MORE:
        return min(told, key=off_whole)
    if along:
        return along
    if (towards := _towards_the_track(train, track, coasting=coasting)) or coasting:
        return towards
    even_hz = _quickest_even_hz(train)
    if even_hz > FASTEST_TUMBLE_HZ:
        return 2.0 if even_hz <= QUICKEST_PAIR_HZ else MORE
    return 1.0 if float(np.median(train.rate_hz)) < FASTEST_TUMBLE_HZ else 0.0


def _along_the_track(train: ImpactTrain, track: SpeedTrack) -> float:
    known = np.isfinite(track.at(train.t_s))
    both = known[1:] & known[:-1]
    turns = float(np.diff(track.turns_at(train.t_s))[both].sum())
    return float(train.steps[both].sum()) / turns if turns > FEWEST_TURNS else 0.0


def _beside_the_track(train: ImpactTrain, track: SpeedTrack) -> float:
    """By the steps near the track's ends, 0.0 where they tell neither one nor two.

    The ends are carried on at their slope. Below two turns a second a ramp may have begun at a speed that was held:
    there a step is asked only where it all but touches the track.
    """
    known = np.flatnonzero(track.known)
    if known.size == 0:
        return 0.0
    apart_s = train.middle_s[:, None] - track.t_s[known]
    nearest = np.abs(apart_s).argmin(axis=1)
    apart_s, frame = np.take_along_axis(apart_s, nearest[:, None], axis=1)[:, 0], known[nearest]
    rate_hz = track.rate_hz[frame] + _own_slope(track)[frame] * apart_s
    use = (np.abs(apart_s) < NEAR_END_S) & ~np.isfinite(track.at(train.middle_s)) & (rate_hz > 0.0)
    use &= (apart_s > 0.0) | (rate_hz > FASTEST_TUMBLE_HZ) | (np.abs(apart_s) < TOUCHING_S)
    if not use.any():
        return 0.0
    a_turn = float(np.median(train.rate_hz[use] / rate_hz[use]))
    return a_turn if whole_count(a_turn) is not None else 0.0


def _towards_the_track(train: ImpactTrain, track: SpeedTrack, *, coasting: bool) -> float:
    """By what a drum could do between the train and the track's end some seconds off; 0.0 where that tells nothing.

    A ramp goes on as steeply as it came, a little rest on its way included; a drum let go falls on about as steeply as
    it fell. The steps' own slope, divided by the impacts a turn, and the slope of the gap agree for one number only.
    """
    known = track.t_s[track.known]
    side = known[known < train.t_s[0]][-1:] if coasting else known[known > train.t_s[-1]][:1]
    if side.size == 0:
        return 0.0
    apart_s = np.abs(train.middle_s - side[0])
    near = apart_s < apart_s.min() + TOWARDS_S
    if apart_s.min() > LONGEST_GAP_S or near.sum() < FEWEST_TOWARDS:
        return 0.0
    # Away from the track the rate falls, on either side of it.
    fall_hz_s, from_hz, *_ = scipy.stats.theilslopes(-train.rate_hz[near], apart_s[near])
    if fall_hz_s < LEAST_FALL_HZ_S:
        return 0.0
    here_s = float(apart_s.min())
    rate_hz = -(from_hz + fall_hz_s * here_s)
    nearest_hz = float(np.median(train.rate_hz[np.argsort(apart_s)[:NEAREST]]))
    if abs(nearest_hz / rate_hz - 1.0) > COUNT_TOLERANCE:
        return 0.0
    gap = [(float(track.at(side)[0]) - rate_hz / m) / here_s * m / fall_hz_s for m in COUNTS]
    fits = [m for m, steeper in zip(COUNTS, gap, strict=True) if STEEPER[coasting][0] < steeper < STEEPER[coasting][1]]
    return float(fits[0]) if len(fits) == 1 else 0.0


def _own_slope(track: SpeedTrack) -> FloatArray:
    """How fast the rate changes within each known stretch, whatever lies beyond its ends [shape=(n,), Hz/s]."""
    out = np.zeros(track.t_s.size)
    for span in known_spans(track.known):
        if span.size > SLOPE_FRAMES:
            smooth = scipy.ndimage.uniform_filter1d(track.rate_hz[span], SLOPE_FRAMES, mode="nearest")
            slope = np.gradient(smooth, FRAME_STEP_S)
            # At its ends a mean over neighbours lags: those take the slope of the frames that have all of theirs.
            half = SLOPE_FRAMES // 2 + 1
            slope[:half], slope[-half:] = slope[half], slope[-half - 1]
            out[span] = slope
    return out


def whole_count(a_turn: float) -> int | None:
    """One or two a turn, None where it is neither."""
    return min(MULTIPLES, key=lambda m: abs(a_turn - m)) if off_whole(a_turn) < COUNT_TOLERANCE else None


def off_whole(a_turn: float) -> float:
    """How far a count lies from one or two a turn, as a share of it."""
    return min(abs(a_turn / m - 1.0) for m in MULTIPLES)


def _quickest_even_hz(train: ImpactTrain) -> float:
    """The quickest rate that the train keeps for a while, 0.0 without any."""
    rate_hz, middle_s = train.rate_hz, train.middle_s
    quickest = 0.0
    for first in range(rate_hz.size - FEWEST_EVEN_STEPS + 1):
        last = max(first + FEWEST_EVEN_STEPS - 1, int(np.searchsorted(middle_s, middle_s[first] + SHORTEST_EVEN_S)))
        stretch = rate_hz[first : last + 1]
        if last < rate_hz.size and stretch.max() < EVEN_RATIO * stretch.min():
            quickest = max(quickest, float(stretch.mean()))
    return quickest
