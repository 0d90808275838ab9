"""Finding the drum's speed without a tacho: score, path, learn, score again, sharpen.

First every sensor scores every candidate (speed_scores) and dynamic programming finds the continuous track
(speed_path). Where that is known, the machine's own orders are learnt from its sound (order_families); scoring again
with them reaches into slow turning, coast-downs and balanced drums, which shake too little to show 1x. Last the rate
is sharpened by phase (speed_refine). With tacho pulses: those.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from scipy import ndimage

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.machine import Layout, Machine
from eager_ear.core.signals.clock import ClockLag, find_lag
from eager_ear.core.signals.even_grid import EvenAcceleration, slowed
from eager_ear.core.signals.low_band import LowBand
from eager_ear.core.signals.order_families import OrderFamily, learn_orders
from eager_ear.core.signals.speed_path import best_path, drop_short, peak_centre
from eager_ear.core.signals.speed_refine import refine_by_swelling, refine_by_tones, refine_by_vibration, smooth_known
from eager_ear.core.signals.speed_scale import find_scale, rescaled, rescaled_family
from eager_ear.core.signals.speed_scores import (
    MOTOR_ORDERS,
    ScoreGrid,
    family_score,
    sound_score,
    unfolded_to_hz,
    vibration_score,
)
from eager_ear.core.signals.speed_smooth import smoothed
from eager_ear.core.signals.speed_track import FRAME_STEP_S, LOWEST_HZ, SpeedTrack, track_from_pulses
from eager_ear.core.signals.types import TachoSignal
from eager_ear.core.units import BoolArray, FloatArray, IntArray, Span

GRID_HZ = 0.1
# The combs over sound are as wide as their frames blur; before any line is followed by its phase, this is the error.
SOUND_SIGMA_SHARE = 0.015
SHORTEST_S = 2.0
FAST_RATE_HZ = 250.0
SLOWED_RATE_HZ = 120.0
# How well somebody notes when a recording began.
NOTED_START_SIGMA_S = 0.2
# Score a frame must show to beat "speed unknown". The best path through pure noise averages 0.3 to 0.8 a frame, and
# its best two seconds reach 1.3 (white noise, all layouts, 50 to 400 Hz). Entering and leaving cost on top, so that
# ten seconds have to average 1.6 and two seconds 2.8.
UNKNOWN_SCORE = 1.3
SOUND_BESIDE_VIBRATION = 0.5
FIXED_RATIO_WEIGHT = 0.35
LEARNT_WEIGHT = 0.6
# The same drum at the same speed repeats its vibration within a few dB, coasting or driven; its sound loses the motor's
# share in the coast-down.
CALMER_VIBRATION_DB = 8.0
CALMER_SOUND_DB = 12.0
LEVEL_WINDOW_S = 0.5
SPEED_STEP = 0.08
UNMOVED_SHARE = 0.02
UNMOVED_S = 0.75
STANDING_ABOVE_HZ = 4.0
# Noise shows 0.3 to 0.8 a frame at best. Weaker motion is motion when it beats the paths beside the track, this far off
# in Hz, by several times their scatter.
LEAST_MOTION_SCORE = 1.5
LEAST_MOTION_SCATTERS = 4.0
BESIDE_HZ = (0.8, 8.0)
MOVED_RATIO = 1.15
# A machine beside this one shakes its cabinet by some hundredths of a m/s²; below 0.1 it may be nothing else.
NEIGHBOUR_DB = -20.0


@dataclass(frozen=True, kw_only=True)
class SpeedSources:
    """What one run offers for finding the speed, on the run's clock.

    moved_s : stretches in which the accelerometer was moved about
    """

    low: LowBand | None = None
    acceleration: EvenAcceleration | None = None
    moved_s: tuple[Span, ...] = ()
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
    grid = _grid(sources, highest_hz=_highest_rate_hz(machine, layout))
    plate_hz = (machine.max_spin_rpm or layout.spin_rpm[1]) / 60.0
    vibration = None
    if sources.acceleration is not None:
        vibration = vibration_score(sources.acceleration, grid, low=sources.low)
    score = grid.empty() if vibration is None else vibration.copy()
    if sources.low is not None:
        score += _sound_share(sources.acceleration, grid, plate_hz) * _sound(sources.low, grid, machine, layout)
    track, path = _track(score, grid, sources)
    if vibration is not None:
        _require_motion(vibration, path, track.known, grid)
    if sources.acceleration is not None:
        track = refine_by_vibration(track, sources.acceleration, spoilt_s=sources.spoilt_s)
    if sources.low is None:
        return FoundSpeed(track=_stated(smoothed(track)), family=None, lag_absent="no sound was recorded.")
    low = sources.low
    lag, why = _lag(low, track, vibration is not None)
    if lag is not None:
        low = low.moved(lag.lag_s)
    sources = replace(sources, low=low)
    clock_sigma_s = None if vibration is None else lag.sigma_s if lag is not None else NOTED_START_SIGMA_S
    track = refine_by_swelling(track, low, clock_sigma_s=clock_sigma_s)
    family = learn_orders(low, track)
    if family is not None:
        score += LEARNT_WEIGHT * family_score(low, grid, orders=family.orders, weights=family.weights)
        track, _ = _track(score, grid, sources)
        if sources.acceleration is not None:
            track = refine_by_vibration(track, sources.acceleration, spoilt_s=sources.spoilt_s)
        track = refine_by_swelling(track, low, clock_sigma_s=clock_sigma_s)
        if sources.acceleration is None:
            # Orders learnt on a coarse track are coarse: once sharpened by them, the track teaches them better.
            track = refine_by_tones(track, low, family, creeps=False, clock_sigma_s=0.0)
            family = learn_orders(low, track) or family
        track = refine_by_tones(track, low, family, creeps=layout.drive == "belt", clock_sigma_s=clock_sigma_s or 0.0)
    track = smoothed(track)
    if sources.acceleration is None:
        turning_along = family.orders if family is not None and layout.drive == "direct" else None
        scale = find_scale(low, track, whole_orders=turning_along)
        track = rescaled(track, scale)
        family = rescaled_family(family, scale) if family is not None else None
    return FoundSpeed(track=_stated(track), family=family, lag=lag, lag_absent=why)


def _stated(track: SpeedTrack) -> SpeedTrack:
    if not track.known.any():
        raise NotMeasurable(
            quantity="speed track", reason="what changes with the speed is too faint to state the speed of anything."
        )
    return track


def _lag(low: LowBand, track: SpeedTrack, has_vibration: bool) -> tuple[ClockLag | None, str]:
    if not has_vibration:
        return None, "no vibration was recorded."
    family = learn_orders(low, track, steady=True)
    if family is None:
        return None, "no line in the sound follows the drum."
    try:
        return find_lag(low, track, family), ""
    except NotMeasurable as reason:
        return None, reason.reason


def _grid(sources: SpeedSources, *, highest_hz: float) -> ScoreGrid:
    spans = []
    if sources.acceleration is not None:
        t = sources.acceleration.t_s
        spans.append((float(t[0]), float(t[-1])))
    if sources.low is not None:
        spans.append((sources.low.start_s, sources.low.end_s))
    if not spans:
        raise NotMeasurable(quantity="speed track", reason="no recording can show the speed.")
    t_s = np.arange(min(a for a, _ in spans), max(b for _, b in spans), FRAME_STEP_S)
    if t_s.size < SHORTEST_S / FRAME_STEP_S:
        raise NotMeasurable(quantity="speed track", reason="the recording is shorter than two seconds.")
    return ScoreGrid(t_s=t_s, candidates_hz=np.arange(LOWEST_HZ, highest_hz, GRID_HZ))


def _highest_rate_hz(machine: Machine, layout: Layout) -> float:
    plate = machine.max_spin_rpm if machine.max_spin_rpm is not None else layout.spin_rpm[1]
    return layout.over_speed * plate / 60.0


def _sound_share(acceleration: EvenAcceleration | None, grid: ScoreGrid, plate_hz: float) -> FloatArray:
    """What sound counts for each candidate: all where vibration cannot tell, half beside it [shape=(states,)]."""
    if acceleration is None:
        return np.ones(grid.candidates_hz.size, dtype=np.float32)
    told = grid.candidates_hz <= unfolded_to_hz(acceleration, plate_hz)
    return np.where(told, SOUND_BESIDE_VIBRATION, 1.0).astype(np.float32)


def _sound(low: LowBand, grid: ScoreGrid, machine: Machine, layout: Layout) -> FloatArray:
    score = sound_score(low, grid)
    ratio = machine.pulley_ratio if layout.drive != "direct" else 1.0
    if ratio is not None:
        orders = ratio * MOTOR_ORDERS
        score += FIXED_RATIO_WEIGHT * family_score(low, grid, orders=orders, weights=np.ones(orders.size))
    return score


def _track(score: FloatArray, grid: ScoreGrid, sources: SpeedSources) -> tuple[SpeedTrack, IntArray]:
    path, known = best_path(score, grid, unknown=UNKNOWN_SCORE)
    rate = grid.candidates_hz[path]
    if sources.low is not None:
        known = _drop_unmoved(known, rate, sources.low.quiet_at(grid.t_s))
        level = _sound_level_db(sources.low, grid.t_s)
        known = _drop_too_calm(known, rate, level, allowed_db=CALMER_SOUND_DB)
    if sources.acceleration is not None:
        vibration_db = _vibration_level_db(sources.acceleration, grid.t_s)
        known = _drop_too_calm(known, rate, vibration_db, allowed_db=CALMER_VIBRATION_DB)
    if not known.any():
        raise NotMeasurable(quantity="speed track", reason="no rotation was seen.")
    if sources.acceleration is None or np.percentile(vibration_db[known], 90) < NEIGHBOUR_DB:
        _require_change(rate[known])
    track = SpeedTrack(
        t_s=grid.t_s,
        rate_hz=peak_centre(score, path, grid),
        known=known,
        sigma_hz=GRID_HZ + (0.0 if sources.acceleration is not None else SOUND_SIGMA_SHARE) * rate,
        source="acceleration" if sources.acceleration is not None else "audio",
    )
    return replace(track, rate_hz=smooth_known(track.rate_hz, track)), path


def _require_motion(vibration: FloatArray, path: IntArray, known: BoolArray, grid: ScoreGrid) -> None:
    """A drum that spins shakes its cabinet: a fast track that the vibration does not share is the motor's.

    What the vibration shows along the track is compared with what it shows along the same track moved up or down.
    """
    fast = np.flatnonzero(known & (grid.candidates_hz[path] > STANDING_ABOVE_HZ))
    if fast.size * FRAME_STEP_S < 2.0:
        return
    states = grid.candidates_hz.size
    steps = np.arange(BESIDE_HZ[0], BESIDE_HZ[1], 4 * GRID_HZ) / GRID_HZ
    beside: list[float] = []
    for step in np.rint(np.concatenate([-steps, steps])).astype(int):
        moved = path[fast] + step
        inside = (moved >= 0) & (moved < states)
        if inside.mean() > 0.5:
            beside.append(float(vibration[fast[inside], moved[inside]].mean()))
    if not beside:
        return
    # Lines have side lobes, noise has none: the lower half of the paths beside tells how noise scatters.
    typical, low = np.percentile(beside, [50, 16])
    enough = min(LEAST_MOTION_SCORE, typical + LEAST_MOTION_SCATTERS * (typical - low))
    if float(vibration[fast, path[fast]].mean()) < enough:
        raise NotMeasurable(
            quantity="speed track", reason="a motor is heard, but nothing shakes once per turn: the drum stands still."
        )


def _require_change(rate_hz: FloatArray) -> None:
    """A tone that never changes, or a tremble of the floor, can be anything: a hum, a pump, another machine."""
    if np.percentile(rate_hz, 97) < MOVED_RATIO * np.percentile(rate_hz, 3):
        raise NotMeasurable(
            quantity="speed track",
            reason="all that is noticed keeps one and the same rate: it may be a hum, a pump or another machine.",
        )


def _sound_level_db(low: LowBand, t_s: FloatArray) -> FloatArray:
    """Level of the differenced sound around each time [shape=(len(t_s),), dB]."""
    centres = low.start_s + (np.arange(low.level_nats.size) + 0.5) / low.level_rate_hz
    return _smoothed_db(np.exp(low.level_nats.astype(np.float64)), centres, t_s)


def _vibration_level_db(acceleration: EvenAcceleration, t_s: FloatArray) -> FloatArray:
    """Level of the vibration around each time [shape=(len(t_s),), dB]."""
    return _smoothed_db(np.square(acceleration.axes_m_s2).sum(axis=0), acceleration.t_s, t_s)


def _smoothed_db(power: FloatArray, from_s: FloatArray, t_s: FloatArray) -> FloatArray:
    frames = max(1, int(LEVEL_WINDOW_S / (from_s[1] - from_s[0])))
    level = 10.0 * np.log10(ndimage.uniform_filter1d(power, frames) + 1e-14)
    return np.asarray(np.interp(t_s, from_s, level))


def _drop_unmoved(known: BoolArray, rate_hz: FloatArray, quiet: BoolArray | None) -> BoolArray:
    """Drop every rate that goes on unmoved while the machine is at its quietest: a neighbour's, not this drum's."""
    if quiet is None:
        return known
    out = known.copy()
    for rate in np.unique(np.round(rate_hz[known & quiet & (rate_hz > STANDING_ABOVE_HZ)], 1)):
        same = known & (np.abs(rate_hz - rate) < UNMOVED_SHARE * rate)
        if (same & quiet).sum() * FRAME_STEP_S >= UNMOVED_S and (same & ~quiet).sum() * FRAME_STEP_S >= UNMOVED_S:
            out &= ~same
    return drop_short(out)


def _drop_too_calm(known: BoolArray, rate_hz: FloatArray, level_db: FloatArray, *, allowed_db: float) -> BoolArray:
    """Drop frames far calmer than the same machine was at that speed or below it: not the drum's speed then."""
    index = np.flatnonzero(known)
    if index.size == 0:
        return known
    step = np.floor(np.log(rate_hz[index]) / SPEED_STEP).astype(int)
    order = np.argsort(step, kind="stable")
    index, step, level = index[order], step[order], level_db[index[order]]
    calm = np.zeros(index.size, dtype=bool)
    for speed in np.unique(step):
        far, below, here, above, end = np.searchsorted(step, [speed - 6, speed - 1, speed, speed + 1, speed + 2])
        near, slower = np.sort(level[below:end]), np.sort(level[far:below])
        # A bump or a slide makes some slower moments loud: most of them have to be louder.
        expected = near[near.size // 2]
        if slower.size >= 4:
            expected = max(expected, slower[slower.size // 5])
        calm[here:above] = level[here:above] < expected - allowed_db
    out = known.copy()
    out[index[calm]] = False
    return drop_short(out)
