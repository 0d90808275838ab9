"""The search for the track: what all sensors say of every candidate at every moment, the best path, and its doubts.

The scores grow as more is learnt of the machine; each time the path is found anew.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.machine import OVER_SPEED, Layout, Machine
from eager_ear.core.signals.angle import FRAME_STEP_S, LOWEST_HZ, OrderFamily, SpeedTrack, smooth_known
from eager_ear.core.signals.dsp import EvenAcceleration, LowBand
from eager_ear.core.signals.speed.search.aliasing import aliased
from eager_ear.core.signals.speed.search.drum_or_motor import require_turning
from eager_ear.core.signals.speed.search.grid import GRID_HZ, ScoreGrid
from eager_ear.core.signals.speed.search.plausible_spans import carried_on
from eager_ear.core.signals.speed.search.scores import (
    MOTOR_ORDERS,
    family_score,
    low_lines_score,
    modulation_score,
    unfolded_to_hz,
    vibration_score,
)
from eager_ear.core.signals.speed.search.validity_gates import (
    calm_at_its_fastest,
    drop_too_calm,
    drop_unmoved,
    sound_level_db,
    unchanging,
    vibration_level_db,
)
from eager_ear.core.signals.speed.search.viterbi import best_path, rate_of_path, without_ridge
from eager_ear.core.signals.types import AccelerationSignal
from eager_ear.core.units import BoolArray, FloatArray, IntArray, within

# The combs are as wide as their frames blur; before any line is followed by its phase, this is the error.
COMB_SIGMA_SHARE = 0.015
SHORTEST_S = 2.0
# Score a frame must show to beat "speed unknown". The best path through pure noise averages 0.3 to 0.8 a frame, and
# its best two seconds reach 1.3 (white noise, all layouts, 50 to 400 Hz). Entering and leaving cost on top, so that
# ten seconds have to average 1.3 and two seconds 2.5.
UNKNOWN_SCORE = 1.0
LEAST_END_SCORE = 1.3
# Where a sensor shows a drum through less than this share of a recording, what is known is carried on as far as it
# beats what a path shows that noise did not choose: one that has to begin where the drum was seen has few to choose
# from. How well the rate is told there, its error says.
LITTLE_KNOWN_SHARE = 0.45
CARRIED_SCORE = 0.2
CARRIED_END_SCORE = 0.4
SOUND_BESIDE_VIBRATION = 0.5
# What the lowest lines and the modulation of the noise count, by the drum. A top loader's motor hums at low rates too,
# and need not turn its drum; a front loader's noise may swell with the cage of a collapsed bearing.
LOW_LINES_WEIGHT = {"front": 0.6, "top": 0.5}
MODULATION_WEIGHT = {"front": 0.4, "top": 0.7}
LEAST_LOW_LINES = -0.5
# Where lines and modulation together show nothing, the modulation alone may: at nearly its full weight, if its rate
# runs through the speeds as a spin does.
MODULATION_ALONE_WEIGHT = 0.8
RUNS_RATIO = 1.5
FIXED_RATIO_WEIGHT = 0.35
LEARNT_WEIGHT = 0.6
# The same drum at the same speed repeats its vibration within a few dB, coasting or driven; its sound loses the motor's
# share in the coast-down.
CALMER_VIBRATION_DB = 8.0
CALMER_SOUND_DB = 12.0
SHOWN_SHARE = 1.0 / 3.0
# A machine beside this one shakes its cabinet by some hundredths of a m/s²; below 0.1 it may be nothing else.
NEIGHBOUR_DB = -20.0
# So many steady lines are left out at most, each with what its frames blur.
MOST_STEADY_LINES = 3
STEADY_STATES = 12


@dataclass(kw_only=True)
class SpeedSearch:
    """Scores so far [shape=(frames, states)].

    turning : what only a drum shows, once per turn: by the accelerometer, by the sound's lowest lines
    modulated : by the modulation of its noise, None without sound
    stamped : the acceleration as its sensor stamped it, and its time zero on the run's clock
    beside_hz : rates at which a machine beside this one shakes it
    """

    grid: ScoreGrid
    low: LowBand | None
    acceleration: EvenAcceleration | None
    score: FloatArray
    turning: tuple[FloatArray, ...]
    modulated: FloatArray | None = None
    stamped: tuple[AccelerationSignal, float] | None = None
    beside_hz: tuple[float, ...] = ()
    _heard_db: FloatArray | None = field(default=None, init=False)

    @property
    def _folds(self) -> bool:
        """Whether the sensor is too slow for the fastest candidates."""
        sensor = self.acceleration
        return sensor is not None and bool(self.grid.candidates_hz[-1] > 0.5 * sensor.sample_rate_hz)

    @cached_property
    def _shaken_db(self) -> FloatArray:
        """Level of the vibration at every moment [shape=(frames,), dB]."""
        if self.acceleration is None:
            return np.full(self.grid.t_s.size, -np.inf)
        return vibration_level_db(self.acceleration, self.grid.t_s)

    @classmethod
    def of(
        cls,
        low: LowBand | None,
        acceleration: EvenAcceleration | None,
        *,
        machine: Machine,
        layout: Layout,
        stamped: tuple[AccelerationSignal, float] | None = None,
        beside_hz: tuple[float, ...] = (),
    ) -> SpeedSearch:
        """Score every candidate by what needs no knowledge of the machine but its plate.

        Raises
        ------
        NotMeasurable
            No sensor, or recordings too short.
        """
        plate_hz = (machine.max_spin_rpm or layout.spin_rpm[1]) / 60.0
        grid = _grid(low, acceleration, highest_hz=OVER_SPEED * plate_hz)
        score, turning, modulated = grid.empty(), [], None
        if acceleration is not None:
            turning.append(vibration_score(acceleration, grid, low=low))
            score += turning[0]
        if low is not None:
            modulated, low_lines = modulation_score(low, grid), low_lines_score(low, grid)
            # Coupler, clutch, collar and hub of a top loader let a motor run without its drum: its lines prove nothing.
            turning.extend([low_lines] if layout.drum == "front" else [])
            # Where other lines stand close by, a rate may show none of its own without being the less likely.
            sound = LOW_LINES_WEIGHT[layout.drum] * np.maximum(low_lines, LEAST_LOW_LINES)
            sound += MODULATION_WEIGHT[layout.drum] * modulated
            sound += _motor(low, grid, machine, layout)
            score += _sound_share(acceleration, grid, plate_hz) * sound
        return cls(
            grid=grid,
            low=low,
            acceleration=acceleration,
            score=score,
            turning=tuple(turning),
            modulated=modulated,
            stamped=stamped,
            beside_hz=beside_hz,
        )

    def learn(self, family: OrderFamily, low: LowBand) -> SpeedTrack | None:
        """The track by what the machine's own orders say as well, on the sound's clock as it is known by now.

        Where no rotation is seen with them they are unlearnt again, and None is returned.
        """
        self.low, self._heard_db = low, None
        before = self.score
        self.score = before + LEARNT_WEIGHT * family_score(low, self.grid, orders=family.orders, weights=family.weights)
        try:
            return self.track()
        except NotMeasurable:
            self.score = before
            return None

    def require_turning(self, track: SpeedTrack) -> None:
        """Refuse a track that nothing but a motor shows.

        Raises
        ------
        NotMeasurable
            Neither the cabinet nor the noise does anything once per turn.
        """
        require_turning(
            self.turning, track, self.grid, modulated=self.modulated, low=self.low, beside_hz=self.beside_hz
        )

    def track(self, *, carries: bool = True) -> SpeedTrack:
        """The best path through the scores so far.

        Parameters
        ----------
        carries : on along a less demanding path, where little is known

        Raises
        ------
        NotMeasurable
            No rotation is seen.
        """
        grid = self.grid
        for _ in range(MOST_STEADY_LINES):
            path, known = self._followed()
            if known.sum() * FRAME_STEP_S < SHORTEST_S:
                raise NotMeasurable(quantity="speed track", reason="no rotation was seen.")
            if not self._may_be_a_neighbour(path, known):
                break
            # Somebody else's: the drum's may be found once it is left out.
            held = unchanging(self.score, path, known, grid)
            if held is not None:
                beside = slice(max(0, held - STEADY_STATES), held + STEADY_STATES + 1)
                self.score[:, beside] = np.minimum(self.score[:, beside], 0.0)
            elif self._is_louder_elsewhere(path, known):
                self.score = without_ridge(self.score, path, known)
            else:
                break
        else:
            raise NotMeasurable(
                quantity="speed track",
                reason="all that is noticed keeps one and the same rate, or is calm while the machine is loud: "
                "it may be a hum, a pump or another machine.",
            )
        if carries and known.mean() < LITTLE_KNOWN_SHARE:
            path, known = self._carried_on(path, known)
        track = SpeedTrack(
            t_s=grid.t_s,
            rate_hz=rate_of_path(self.score, path, grid),
            known=known,
            sigma_hz=GRID_HZ + COMB_SIGMA_SHARE * grid.candidates_hz[path],
            source="acceleration" if self.acceleration is not None else "audio",
        )
        return replace(track, rate_hz=smooth_known(track.rate_hz, track))

    def first_track(self) -> SpeedTrack:
        """The best path; where there is none, the one that the modulation of the noise shows if it may speak for
        itself.

        Raises
        ------
        NotMeasurable
            No rotation is seen, or by the modulation none that runs through the speeds.
        """
        try:
            return self.track()
        except NotMeasurable:
            if self.modulated is None:
                raise
            self.score = np.maximum(self.score, MODULATION_ALONE_WEIGHT * self.modulated)
        # The better of two scores is higher in noise as well: that would carry anything on.
        track = self.track(carries=False)
        low_hz, high_hz = np.percentile(track.rate_hz[track.known], (3, 97))
        if high_hz < RUNS_RATIO * low_hz:
            raise NotMeasurable(quantity="speed track", reason="no rotation was seen.")
        return track

    def _carried_on(self, path: IntArray, known: BoolArray) -> tuple[IntArray, BoolArray]:
        """The path, its known stretches carried on to where a less demanding path that goes through them goes."""
        further, goes_on = self._followed(unknown=CARRIED_SCORE, least_end=CARRIED_END_SCORE)
        return carried_on(path, known, further, goes_on)

    def _followed(
        self, *, unknown: float = UNKNOWN_SCORE, least_end: float = LEAST_END_SCORE
    ) -> tuple[IntArray, BoolArray]:
        """Best path, and where it is known, without what is a neighbour's or too calm for its speed."""
        grid = self.grid
        path, known = best_path(
            self.score,
            grid,
            unknown=unknown,
            least_end=least_end,
            felt=self.acceleration is not None,
            images=self._images if self._folds else None,
        )
        rate = grid.candidates_hz[path]
        if self.low is not None:
            known = drop_unmoved(known, rate, self.low.quiet_at(grid.t_s))
            known = drop_too_calm(known, rate, self._heard(self.low), allowed_db=CALMER_SOUND_DB)
        if self.acceleration is not None:
            # Beyond a third of its rate a sensor's own low-pass makes a machine calmer.
            level = rate < SHOWN_SHARE * self.acceleration.sample_rate_hz
            calm = drop_too_calm(known & level, rate, self._shaken_db, allowed_db=CALMER_VIBRATION_DB)
            known = calm | (known & ~level)
        return path, known

    def _images(self, path: IntArray, known: BoolArray) -> BoolArray:
        """Where the path follows the alias of what a slow sensor saw [shape=(frames,)]."""
        if self.stamped is None:
            return np.zeros_like(known)
        signal, start_s = self.stamped
        rate_hz = self.grid.candidates_hz[path]
        return aliased(signal, start_s=start_s, t_s=self.grid.t_s, rate_hz=rate_hz, known=known)

    def _may_be_a_neighbour(self, path: IntArray, known: BoolArray) -> bool:
        """Whether the cabinet shakes no more than a machine beside it could make it, or not along this path."""
        if self.acceleration is None:
            return True
        frames = np.flatnonzero(known)
        felt = float(self.turning[0][frames, path[frames]].mean())
        return bool(np.median(self._shaken_db[known]) < NEIGHBOUR_DB or felt < UNKNOWN_SCORE)

    def _is_louder_elsewhere(self, path: IntArray, known: BoolArray) -> bool:
        """Whether the sound, where it is all there is, is far louder elsewhere than where the path is fastest."""
        if self.low is None or self.acceleration is not None:
            return False
        spoilt = within(self.grid.t_s, self.low.spoilt_s)
        return calm_at_its_fastest(known, self.grid.candidates_hz[path], self._heard(self.low), spoilt=spoilt)

    def _heard(self, low: LowBand) -> FloatArray:
        """Level of the sound at every moment [shape=(frames,), dB]."""
        if self._heard_db is None:
            self._heard_db = sound_level_db(low, self.grid.t_s)
        return self._heard_db


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
    told = grid.candidates_hz <= unfolded_to_hz(acceleration.sample_rate_hz, plate_hz)
    return np.where(told, SOUND_BESIDE_VIBRATION, 1.0).astype(np.float32)


def _motor(low: LowBand, grid: ScoreGrid, machine: Machine, layout: Layout) -> FloatArray:
    """What the motor's lines say, where its ratio to the drum is known."""
    ratio = machine.pulley_ratio if layout.drive != "direct" else 1.0
    if ratio is None:
        return grid.empty()
    orders = ratio * MOTOR_ORDERS
    return FIXED_RATIO_WEIGHT * family_score(low, grid, orders=orders, weights=np.ones(orders.size))
