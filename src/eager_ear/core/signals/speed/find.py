"""Finding the drum's speed without a tacho: score, path, learn, score again, sharpen.

First every sensor scores every candidate (speed_scores) and dynamic programming finds the continuous track
(speed_path). Where that is known, the machine's own orders are learnt from its sound (order_families); scoring again
with them reaches into slow turning, coast-downs and balanced drums, which shake too little to show 1x. Last the rate
is sharpened by phase (speed_refine). With tacho pulses: those.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.machine import Layout, Machine
from eager_ear.core.signals.angle import OrderFamily, SpeedTrack, learn_orders, track_from_pulses
from eager_ear.core.signals.dsp import EvenAcceleration, LowBand, slowed
from eager_ear.core.signals.speed.refine.by_phase import (
    demodulated_tones,
    read_sound,
    refine_by_modulation,
    refine_by_sound,
    refine_by_tones,
    refine_by_vibration,
    regimes,
)
from eager_ear.core.signals.speed.refine.clock_lag import ClockLag, find_lag, sharpened_lag
from eager_ear.core.signals.speed.refine.scale import find_scale, rescaled, rescaled_family
from eager_ear.core.signals.speed.refine.smoother import smoothed, stated
from eager_ear.core.signals.speed.search.track_search import SpeedSearch
from eager_ear.core.signals.types import AccelerationSignal, TachoSignal
from eager_ear.core.units import Span

# A faster sensor tells the speed no better, and takes its time.
FAST_RATE_HZ = 250.0
# Four times the fastest drum's rate.
SLOWED_RATE_HZ = 120.0
# How well somebody notes when a recording began.
NOTED_START_SIGMA_S = 0.2
# A belt's creep passes for a lag until it is told apart: one in a hundred at 8 turns a second, gaining one a second.
BELT_LAG_SIGMA_S = 0.08


@dataclass(frozen=True, kw_only=True)
class SpeedSources:
    """What one run offers for finding the speed, on the run's clock.

    moved_s : stretches in which the accelerometer was moved about
    stamped : the acceleration as its sensor stamped it, and its time zero on the run's clock
    beside_hz : rates at which a machine beside this one shakes it, taken out of the acceleration as far as they go
    """

    low: LowBand | None = None
    acceleration: EvenAcceleration | None = None
    stamped: tuple[AccelerationSignal, float] | None = None
    moved_s: tuple[Span, ...] = ()
    beside_hz: tuple[float, ...] = ()
    tacho: TachoSignal | None = None
    tacho_start_s: float = 0.0

    @property
    def spoilt_s(self) -> tuple[Span, ...]:
        """Stretches in which the accelerometer did not show the machine."""
        return (*self.moved_s, *(self.acceleration.gaps_s if self.acceleration is not None else ()))


@dataclass(frozen=True, kw_only=True)
class FoundSpeed:
    """The track; where sound was recorded, the machine's own orders and the lag of the sound's clock."""

    track: SpeedTrack
    family: OrderFamily | None
    lag: ClockLag | None = None
    lag_absent: str = ""


def find_speed(sources: SpeedSources, *, machine: Machine, layout: Layout) -> FoundSpeed:
    """The drum's speed through one run.

    Raises
    ------
    NotMeasurable
        No sensor, recordings too short, or no rotation seen in any of them.
    """
    if sources.tacho is not None and sources.tacho.pulse_s.size >= 4:
        track = track_from_pulses(sources.tacho, start_s=sources.tacho_start_s)
        return FoundSpeed(track=track, family=learn_orders(sources.low, track) if sources.low is not None else None)
    if sources.acceleration is not None and sources.acceleration.sample_rate_hz > FAST_RATE_HZ:
        # Three times the fastest drum's rate is all that is read.
        sources = replace(sources, acceleration=slowed(sources.acceleration, target_hz=SLOWED_RATE_HZ))
    search = SpeedSearch.of(
        sources.low,
        sources.acceleration,
        machine=machine,
        layout=layout,
        stamped=sources.stamped,
        beside_hz=sources.beside_hz,
    )
    if sources.acceleration is not None:
        found = _by_vibration(search, sources.acceleration, sources.low, sources.spoilt_s, belt=layout.drive == "belt")
    elif sources.low is not None:
        found = _by_sound(search, sources.low, layout)
    if not found.track.known.any():
        raise NotMeasurable(
            quantity="speed track", reason="what changes with the speed is too faint to state the speed of anything."
        )
    search.require_turning(found.track)
    return replace(found, track=stated(found.track))


def _by_sound(search: SpeedSearch, low: LowBand, layout: Layout) -> FoundSpeed:
    creeps = layout.drive == "belt"
    first = search.first_track()
    track = refine_by_modulation(first, low)
    family = learn_orders(low, smoothed(track))
    learnt = search.learn(family, low) if family is not None else None
    if family is None or learnt is None:
        family = None
    else:
        track = refine_by_modulation(learnt, low)
        # Orders learnt on a coarse track are coarse: once sharpened by them, the track teaches them better.
        track = refine_by_tones(track, low, family, creeps=creeps)
        family = learn_orders(low, smoothed(track)) or family
        track = refine_by_tones(track, low, family, creeps=creeps)
    track = smoothed(track)
    turning_along = family.orders if family is not None and layout.drive == "direct" else None
    scale = find_scale(low, track, whole_orders=turning_along)
    family = rescaled_family(family, scale) if family is not None else None
    return FoundSpeed(track=rescaled(track, scale), family=family, lag_absent="no vibration was recorded.")


def _by_vibration(
    search: SpeedSearch,
    acceleration: EvenAcceleration,
    low: LowBand | None,
    spoilt_s: tuple[Span, ...],
    *,
    belt: bool,
) -> FoundSpeed:
    combed = search.track()
    if low is None:
        track = refine_by_vibration(combed, acceleration, spoilt_s=spoilt_s)
        return FoundSpeed(track=smoothed(track), family=None, lag_absent="no sound was recorded in this run.")
    smooth = smoothed(refine_by_vibration(combed, acceleration, spoilt_s=spoilt_s, coarsely=True))
    lag, why = _first_lag(low, smooth)
    if lag is not None:
        low = low.moved(lag.lag_s)
    family = learn_orders(low, smooth)
    learnt = search.learn(family, low) if family is not None else None
    if learnt is None:
        family = None
    else:
        combed = learnt
    track = refine_by_vibration(combed, acceleration, spoilt_s=spoilt_s)
    clock_sigma_s = NOTED_START_SIGMA_S
    if lag is not None:
        clock_sigma_s = max(lag.sigma_s, BELT_LAG_SIGMA_S) if belt else lag.sigma_s
    tones = demodulated_tones(track, low, family)
    try:
        further = sharpened_lag(
            smoothed(track),
            read_sound(track, low, tones),
            regime=regimes(track, creeps=belt),
            sigma_s=clock_sigma_s,
        )
    except NotMeasurable:
        pass
    else:
        low, tones = low.moved(further.lag_s), [tone.moved(further.lag_s) for tone in tones]
        lag = replace(further, lag_s=further.lag_s + (lag.lag_s if lag is not None else 0.0))
        clock_sigma_s = further.sigma_s
    track = refine_by_sound(track, low, tones, creeps=belt, clock_sigma_s=clock_sigma_s)
    return FoundSpeed(track=smoothed(track), family=family, lag=lag, lag_absent=why)


def _first_lag(low: LowBand, track: SpeedTrack) -> tuple[ClockLag | None, str]:
    family = learn_orders(low, track, steady=True)
    if family is None:
        return None, "no line in the sound follows the drum."
    try:
        return find_lag(low, track, family), ""
    except NotMeasurable as reason:
        return None, reason.reason
