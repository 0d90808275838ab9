"""Impacts at slow turning, where the speed is not known: a train in even steps that comes once or twice a turn.

Tumbling and distributing shake too little to show the speed, but what is loose in the drum is never heard better. That
a train is there needs no speed (impact_trains), and how many of its impacts make a turn little of it (train_counts).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from eager_ear.core.signals.angle import FRAME_STEP_S, SpeedTrack, known_spans
from eager_ear.core.signals.gates import gate
from eager_ear.core.signals.impacts.impact_trains import ImpactTrain, find_train
from eager_ear.core.signals.impacts.locked_impacts import MULTIPLES, LockedImpacts, TurnWindow
from eager_ear.core.signals.impacts.train_counts import MORE, impacts_a_turn, off_whole, whole_count
from eager_ear.core.signals.impacts.transients import Transients, sharp_impacts
from eager_ear.core.units import BoolArray, Span, within

# Chance of impacts at random to look like a train of such an evidence or more, in one band: its bound is one over the
# evidence, but of 6000 lists of impacts at random one in 250 exceeded 1, and one in 2000 exceeded 10.
CHANCE_OF_EVIDENCE = 5e-3
FALSE_ALARM = 3e-3
# Stretches that a train is sought in.
SHORTEST_S = 3.0
LONGEST_S = 40.0
# The known track at either end is listened to as well, so far and up to such a speed.
FURTHER_S = 3.0
FURTHER_HZ = 5.0
# So close to one or two a turn a count is sure.
WELL_COUNTED = 0.1


@dataclass(frozen=True, kw_only=True)
class SlowImpacts:
    """What slow turning shows: impacts tied to the drum, and whether others come oftener than twice a turn.

    quicker_false_alarm : chance that those are no train; 1.0 without any
    """

    tied: LockedImpacts | None
    quicker_false_alarm: float = 1.0

    @property
    def quicker(self) -> bool:
        return self.quicker_false_alarm < 1.0


def slow_impacts(
    impacts: Transients, track: SpeedTrack, heard: BoolArray, *, rests: Sequence[Span], trials: int
) -> SlowImpacts:
    """Look for a train of impacts wherever the drum may turn at a speed that is not known.

    Parameters
    ----------
    heard : frames of the track at which there is sound
    rests : stretches [s] at which the machine stands: what goes on there is a clock's or a tap's
    trials : bands looked at
    """
    resting = within(track.t_s, rests)
    if _goes_on_at_rest(impacts, _spans(track, heard & resting), trials=trials):
        return SlowImpacts(tied=None)
    tied: list[tuple[ImpactTrain, int, bool]] = []
    quicker = 1.0
    for span in _spans(track, heard & ~resting & ~track.known):
        train = _train(impacts, _further(track, span, heard), trials=trials)
        if train is None:
            continue
        a_turn = impacts_a_turn(train, track, coasting=_comes_after_full_speed(track, span))
        if a_turn >= MORE - 0.5:
            quicker = min(quicker, _chance(train.evidence, trials))
        if (multiple := whole_count(a_turn)) is not None:
            tied.append((train, multiple, off_whole(a_turn) < WELL_COUNTED))
    if not tied:
        return SlowImpacts(tied=None, quicker_false_alarm=quicker)
    surest, multiple, well = max(tied, key=lambda found: (found[2], found[0].evidence))
    windows = tuple(_window(train, m, impacts) for train, m, _ in tied if m == multiple)
    chance = _chance(surest.evidence, trials)
    return SlowImpacts(
        tied=LockedImpacts(
            windows=windows,
            multiple=multiple,
            false_alarm=chance,
            twice_false_alarm=chance if well and multiple == MULTIPLES[-1] else 1.0,
        ),
        quicker_false_alarm=quicker,
    )


@gate("at rest", harmless=lambda *_, **__: False)
def _goes_on_at_rest(impacts: Transients, rests: Sequence[Span], *, trials: int) -> bool:
    """Whether a train is heard while the machine stands: a clock's, or a tap's."""
    return any(_train(impacts, span, trials=trials) for span in rests)


def _spans(track: SpeedTrack, use: BoolArray) -> list[Span]:
    longest = int(LONGEST_S / FRAME_STEP_S)
    parts = [part for span in known_spans(use) for part in np.array_split(span, -(-span.size // longest))]
    spans = [(float(track.t_s[part[0]]), float(track.t_s[part[-1]])) for part in parts]
    return [(a, b) for a, b in spans if b - a >= SHORTEST_S]


def _train(impacts: Transients, span: Span, *, trials: int) -> ImpactTrain | None:
    """The surer of the trains among clear impacts and among all, if chance does not explain it."""
    found = [find_train(t_s, seconds=span[1] - span[0]) for t_s in sharp_impacts(impacts, span)]
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


def _window(train: ImpactTrain, multiple: int, impacts: Transients) -> TurnWindow:
    """The train as a window of turns: its own steps make its angles, so all of them gather."""
    begin_s, end_s = float(train.t_s[0]), float(train.t_s[-1])
    turns = float(train.steps.sum()) / multiple
    return TurnWindow(
        begin_s=begin_s,
        end_s=end_s,
        rate_hz=turns / (end_s - begin_s),
        turns=turns,
        impacts=train.t_s.size,
        z=tuple(float(train.t_s.size) for _ in MULTIPLES),
        rise_db=float(np.median(impacts.faint_rise_db[np.searchsorted(impacts.faint_t_s, train.t_s)])),
    )
