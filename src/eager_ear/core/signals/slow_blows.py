"""Blows at slow turning, where the speed is not known: a train in even steps, and how often a turn it comes.

Tumbling and distributing shake too little to show the speed, but what is loose in the drum is never heard better. That
a train is there needs no speed (blow_trains). How many of its blows make a turn is told, in this order, by the track
where the train runs into it, by the track's end nearby, and by what drums do: they tumble and distribute below two
turns a second and pass quickly from there to their slowest spin, so that an even rate between two and three and a half
a second is two a turn. What comes quicker is a bearing's.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy import ndimage, stats

from eager_ear.core.signals.blow_trains import BlowTrain, find_train
from eager_ear.core.signals.locked_blows import MULTIPLES, LockedBlows, TurnWindow
from eager_ear.core.signals.speed_stretches import FASTEST_TUMBLE_HZ
from eager_ear.core.signals.speed_track import FRAME_STEP_S, SpeedTrack, known_spans
from eager_ear.core.signals.transients import Transients, sharp_blows
from eager_ear.core.units import BoolArray, FloatArray, Span, within

# Chance of blows at random to look like a train of such an evidence or more, in one band: its bound is one over the
# evidence, but of 6000 lists of blows at random one in 250 exceeded 1, and one in 2000 exceeded 10.
CHANCE_OF_EVIDENCE = 5e-3
FALSE_ALARM = 3e-3
# Stretches that a train is sought in.
SHORTEST_S = 3.0
LONGEST_S = 40.0
# The known track at either end is listened to as well, so far and up to such a speed.
FURTHER_S = 3.0
FURTHER_HZ = 5.0
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
WELL_COUNTED = 0.1


@dataclass(frozen=True, kw_only=True)
class SlowBlows:
    """What slow turning shows: blows tied to the drum, and whether others come oftener than twice a turn.

    quicker_false_alarm : chance that those are no train; 1.0 without any
    """

    tied: LockedBlows | None
    quicker_false_alarm: float = 1.0

    @property
    def quicker(self) -> bool:
        return self.quicker_false_alarm < 1.0


def slow_blows(
    blows: Transients, track: SpeedTrack, heard: BoolArray, *, rests: Sequence[Span], trials: int
) -> SlowBlows:
    """Look for a train of blows wherever the drum may turn at a speed that is not known.

    Parameters
    ----------
    heard : frames of the track at which there is sound
    rests : stretches [s] at which the machine stands: what goes on there is a clock's or a tap's
    trials : bands looked at
    """
    resting = within(track.t_s, rests)
    if any(_train(blows, span, trials=trials) for span in _spans(track, heard & resting)):
        return SlowBlows(tied=None)
    tied: list[tuple[BlowTrain, int, bool]] = []
    quicker = 1.0
    for span in _spans(track, heard & ~resting & ~track.known):
        train = _train(blows, _further(track, span, heard), trials=trials)
        if train is None:
            continue
        a_turn = _blows_a_turn(train, track, coasting=_comes_after_full_speed(track, span))
        if a_turn > MULTIPLES[-1] + 0.5:
            quicker = min(quicker, _chance(train.evidence, trials))
        if (multiple := _whole(a_turn)) is not None:
            tied.append((train, multiple, _off_whole(a_turn) < WELL_COUNTED))
    if not tied:
        return SlowBlows(tied=None, quicker_false_alarm=quicker)
    surest, multiple, well = max(tied, key=lambda found: (found[2], found[0].evidence))
    windows = tuple(_window(train, m, blows) for train, m, _ in tied if m == multiple)
    chance = _chance(surest.evidence, trials)
    return SlowBlows(
        tied=LockedBlows(
            windows=windows,
            multiple=multiple,
            false_alarm=chance,
            twice_false_alarm=chance if well and multiple == MULTIPLES[-1] else 1.0,
        ),
        quicker_false_alarm=quicker,
    )


def _spans(track: SpeedTrack, use: BoolArray) -> list[Span]:
    longest = int(LONGEST_S / FRAME_STEP_S)
    parts = [part for span in known_spans(use) for part in np.array_split(span, -(-span.size // longest))]
    spans = [(float(track.t_s[part[0]]), float(track.t_s[part[-1]])) for part in parts]
    return [(a, b) for a, b in spans if b - a >= SHORTEST_S]


def _train(blows: Transients, span: Span, *, trials: int) -> BlowTrain | None:
    """The surer of the trains among clear blows and among all, if chance does not explain it."""
    found = [find_train(t_s, seconds=span[1] - span[0]) for t_s in sharp_blows(blows, span)]
    trains = [train for train in found if train is not None]
    if not trains:
        return None
    # The mean of several such ratios is one again.
    evidence = sum(train.evidence for train in trains) / len(found)
    return max(trains, key=lambda train: train.evidence) if _chance(evidence, trials) < FALSE_ALARM else None


def _chance(evidence: float, trials: int) -> float:
    return max(trials * CHANCE_OF_EVIDENCE / max(evidence, 1e-300), 1e-300)


def _further(track: SpeedTrack, span: Span, heard: BoolArray) -> Span:
    """The stretch and the slow turning beside it whose speed is known."""
    slow = track.known & heard & (track.rate_hz < FURTHER_HZ)
    begin, end = np.searchsorted(track.t_s, span)
    most = int(FURTHER_S / FRAME_STEP_S)
    before = _unbroken(slow[max(0, begin - most) : begin][::-1])
    after = _unbroken(slow[end + 1 : end + 1 + most])
    return float(track.t_s[begin - before]), float(track.t_s[min(end + after, track.t_s.size - 1)])


def _unbroken(use: BoolArray) -> int:
    return int(use.size if use.all() else np.argmin(use))


def _comes_after_full_speed(track: SpeedTrack, span: Span) -> bool:
    fast = track.known & (track.rate_hz > FURTHER_HZ)
    return bool(fast.any() and span[0] > track.t_s[np.flatnonzero(fast)[0]])


def _blows_a_turn(train: BlowTrain, track: SpeedTrack, *, coasting: bool) -> float:
    """How often a turn the train's blows come, 0.0 where nothing tells."""
    along, beside = _along_the_track(train, track), _beside_the_track(train, track)
    # Where the track begins blows begin to drown: a count that is neither one nor two missed some of them.
    told = [a_turn for a_turn in (along, beside) if _whole(a_turn) is not None]
    if told and along < MORE:
        return min(told, key=_off_whole)
    if along:
        return along
    if (towards := _towards_the_track(train, track, coasting=coasting)) or coasting:
        return towards
    even_hz = _quickest_even_hz(train)
    if even_hz > FASTEST_TUMBLE_HZ:
        return 2.0 if even_hz <= QUICKEST_PAIR_HZ else MORE
    return 1.0 if float(np.median(train.rate_hz)) < FASTEST_TUMBLE_HZ else 0.0


def _along_the_track(train: BlowTrain, track: SpeedTrack) -> float:
    known = np.isfinite(track.at(train.t_s))
    both = known[1:] & known[:-1]
    turns = float(np.diff(track.turns_at(train.t_s))[both].sum())
    return float(train.steps[both].sum()) / turns if turns > FEWEST_TURNS else 0.0


def _beside_the_track(train: BlowTrain, track: SpeedTrack) -> float:
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
    return a_turn if _whole(a_turn) is not None else 0.0


def _towards_the_track(train: BlowTrain, track: SpeedTrack, *, coasting: bool) -> float:
    """By what a drum could do between the train and the track's end some seconds off; 0.0 where that tells nothing.

    A ramp goes on as steeply as it came, a little rest on its way included; a drum let go falls on about as steeply as
    it fell. The steps' own slope, divided by the blows a turn, and the slope of the gap agree for one number only.
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
    fall_hz_s, from_hz, *_ = stats.theilslopes(-train.rate_hz[near], apart_s[near])
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
            smooth = ndimage.uniform_filter1d(track.rate_hz[span], SLOPE_FRAMES, mode="nearest")
            slope = np.gradient(smooth, FRAME_STEP_S)
            # At its ends a mean over neighbours lags: those take the slope of the frames that have all of theirs.
            half = SLOPE_FRAMES // 2 + 1
            slope[:half], slope[-half:] = slope[half], slope[-half - 1]
            out[span] = slope
    return out


def _whole(a_turn: float) -> int | None:
    """One or two a turn, None where it is neither."""
    return min(MULTIPLES, key=lambda m: abs(a_turn - m)) if _off_whole(a_turn) < COUNT_TOLERANCE else None


def _off_whole(a_turn: float) -> float:
    """How far a count lies from one or two a turn, as a share of it."""
    return min(abs(a_turn / m - 1.0) for m in MULTIPLES)


def _quickest_even_hz(train: BlowTrain) -> float:
    """The quickest rate that the train keeps for a while, 0.0 without any."""
    rate_hz, middle_s = train.rate_hz, train.middle_s
    quickest = 0.0
    for first in range(rate_hz.size - FEWEST_EVEN_STEPS + 1):
        last = max(first + FEWEST_EVEN_STEPS - 1, int(np.searchsorted(middle_s, middle_s[first] + SHORTEST_EVEN_S)))
        stretch = rate_hz[first : last + 1]
        if last < rate_hz.size and stretch.max() < EVEN_RATIO * stretch.min():
            quickest = max(quickest, float(stretch.mean()))
    return quickest


def _window(train: BlowTrain, multiple: int, blows: Transients) -> TurnWindow:
    """The train as a window of turns: its own steps make its angles, so all of them gather."""
    begin_s, end_s = float(train.t_s[0]), float(train.t_s[-1])
    turns = float(train.steps.sum()) / multiple
    return TurnWindow(
        begin_s=begin_s,
        end_s=end_s,
        rate_hz=turns / (end_s - begin_s),
        turns=turns,
        blows=train.t_s.size,
        z=tuple(float(train.t_s.size) for _ in MULTIPLES),
        rise_db=float(np.median(blows.faint_rise_db[np.searchsorted(blows.faint_t_s, train.t_s)])),
    )
