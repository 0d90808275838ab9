"""The search for the track: what all sensors say of every candidate at every moment, the best path, and its doubts.

The scores grow as more is learnt of the machine; each time the path is found anew.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.machine import Layout, Machine
from eager_ear.core.signals.even_grid import EvenAcceleration
from eager_ear.core.signals.low_band import LowBand
from eager_ear.core.signals.order_families import OrderFamily
from eager_ear.core.signals.speed_doubts import (
    drop_too_calm,
    drop_unmoved,
    require_change,
    require_motion,
    sound_level_db,
    vibration_level_db,
)
from eager_ear.core.signals.speed_path import best_path, peak_centre
from eager_ear.core.signals.speed_scores import (
    GRID_HZ,
    MOTOR_ORDERS,
    ScoreGrid,
    family_score,
    sound_score,
    unfolded_to_hz,
    vibration_score,
)
from eager_ear.core.signals.speed_track import FRAME_STEP_S, LOWEST_HZ, SpeedTrack, smooth_known
from eager_ear.core.units import FloatArray, IntArray

# The combs over sound are as wide as their frames blur; before any line is followed by its phase, this is the error.
SOUND_SIGMA_SHARE = 0.015
SHORTEST_S = 2.0
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
# A machine beside this one shakes its cabinet by some hundredths of a m/s²; below 0.1 it may be nothing else.
NEIGHBOUR_DB = -20.0


@dataclass(kw_only=True)
class SpeedSearch:
    """Scores so far [shape=(frames, states)]; `vibration` is what the accelerometer alone says, None without one."""

    grid: ScoreGrid
    low: LowBand | None
    acceleration: EvenAcceleration | None
    score: FloatArray
    vibration: FloatArray | None

    @classmethod
    def of(
        cls, low: LowBand | None, acceleration: EvenAcceleration | None, *, machine: Machine, layout: Layout
    ) -> SpeedSearch:
        """Score every candidate by what needs no knowledge of the machine but its plate.

        Raises
        ------
        NotMeasurable
            No sensor, or recordings too short.
        """
        plate_hz = (machine.max_spin_rpm or layout.spin_rpm[1]) / 60.0
        grid = _grid(low, acceleration, highest_hz=layout.over_speed * plate_hz)
        vibration = vibration_score(acceleration, grid, low=low) if acceleration is not None else None
        score = grid.empty() if vibration is None else vibration.copy()
        if low is not None:
            score += _sound_share(acceleration, grid, plate_hz) * _sound(low, grid, machine, layout)
        return cls(grid=grid, low=low, acceleration=acceleration, score=score, vibration=vibration)

    def learn(self, family: OrderFamily, low: LowBand) -> None:
        """Add what the machine's own orders say, on the sound's clock as it is known by now."""
        self.low = low
        self.score += LEARNT_WEIGHT * family_score(low, self.grid, orders=family.orders, weights=family.weights)

    def track(self) -> SpeedTrack:
        """The best path through the scores so far.

        Raises
        ------
        NotMeasurable
            No rotation is seen.
        """
        return self._track()[0]

    def moving_track(self) -> SpeedTrack:
        """As `track`, but refused where an accelerometer was there and shook with nothing once per turn."""
        track, path = self._track()
        if self.vibration is not None:
            require_motion(self.vibration, path, track.known, self.grid)
        return track

    def _track(self) -> tuple[SpeedTrack, IntArray]:
        grid = self.grid
        path, known = best_path(self.score, grid, unknown=UNKNOWN_SCORE)
        rate = grid.candidates_hz[path]
        if self.low is not None:
            known = drop_unmoved(known, rate, self.low.quiet_at(grid.t_s))
            level_db = sound_level_db(self.low, grid.t_s)
            known = drop_too_calm(known, rate, level_db, allowed_db=CALMER_SOUND_DB)
        shaken_db = None
        if self.acceleration is not None:
            shaken_db = vibration_level_db(self.acceleration, grid.t_s)
            known = drop_too_calm(known, rate, shaken_db, allowed_db=CALMER_VIBRATION_DB)
        if not known.any():
            raise NotMeasurable(quantity="speed track", reason="no rotation was seen.")
        if shaken_db is None or np.percentile(shaken_db[known], 90) < NEIGHBOUR_DB:
            require_change(rate[known])
        track = SpeedTrack(
            t_s=grid.t_s,
            rate_hz=peak_centre(self.score, path, grid),
            known=known,
            sigma_hz=GRID_HZ + (0.0 if self.acceleration is not None else SOUND_SIGMA_SHARE) * rate,
            source="acceleration" if self.acceleration is not None else "audio",
        )
        return replace(track, rate_hz=smooth_known(track.rate_hz, track)), path


def _grid(low: LowBand | None, acceleration: EvenAcceleration | None, *, highest_hz: float) -> ScoreGrid:
    spans = []
    if acceleration is not None:
        t = acceleration.t_s
        spans.append((float(t[0]), float(t[-1])))
    if low is not None:
        spans.append((low.start_s, low.end_s))
    if not spans:
        raise NotMeasurable(quantity="speed track", reason="no recording can show the speed.")
    t_s = np.arange(min(a for a, _ in spans), max(b for _, b in spans), FRAME_STEP_S)
    if t_s.size < SHORTEST_S / FRAME_STEP_S:
        raise NotMeasurable(quantity="speed track", reason="the recording is shorter than two seconds.")
    return ScoreGrid(t_s=t_s, candidates_hz=np.arange(LOWEST_HZ, highest_hz, GRID_HZ))


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
