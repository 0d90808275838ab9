"""How far a spin test has come: its phases so far, and what is still missing for a full one.

A full test goes from rest to rest: the room, the ramp through the critical speed, full speed, and the
coast-down with the motor off, from which drag, bearings and the motor's share are told apart.
"""

from __future__ import annotations

from collections import deque
from dataclasses import dataclass, field
from typing import Literal

from eager_ear.core.live.speed import LiveSpeed
from eager_ear.core.signals.angle import STEADY_HZ_S
from eager_ear.core.signals.speed import DISTRIBUTE_BELOW_HZ, NEAR_TOP, TUMBLE_BELOW_HZ

LivePhase = Literal["listening", "rest", "tumble", "distribute", "ramp", "plateau", "slowing"]
PartName = Literal["rest_before", "ramp", "full_speed", "coast_down", "rest_after"]
# What the analysis needs of each: two seconds of the room for its floor, a hundred turns and more for narrow lines.
# Slow turning is not among them: an empty drum hardly shows it, so nobody could be told that it is there.
NEEDED_S: dict[PartName, float] = {
    "rest_before": 2.0,
    "ramp": 3.0,
    "full_speed": 8.0,
    "coast_down": 3.0,
    "rest_after": 2.0,
}
# Slower than this nobody calls it a spin, and critical speeds lie below.
SPIN_HZ = 6.0
# At rest a machine is as quiet as it was before the test, within what a room scatters.
REST_MARGIN_DB = 3.0
RISEN_DB = 10.0
# Live, a speed that is held scatters more than one that was smoothed from both sides.
HELD_HZ_S = 2.0 * STEADY_HZ_S
# What was held for so long is no overshoot of a reading that was carried on over the end of a ramp.
HELD_S = 2.0


@dataclass(frozen=True, kw_only=True)
class Progress:
    """phase : of the moment; seen_s : how long each part has been recorded; missing : parts still short, in order."""

    phase: LivePhase
    seen_s: dict[PartName, float] = field(default_factory=dict)
    missing: tuple[PartName, ...] = tuple(NEEDED_S)


class SpinProgress:
    """Adds up the parts of one test from its readings."""

    def __init__(self) -> None:
        self._seen_s = dict.fromkeys(NEEDED_S, 0.0)
        self._last_s: float | None = None
        self._quietest_db = float("inf")
        self._loudest_db = -float("inf")
        self._recent: deque[tuple[float, float]] = deque()
        self._top_hz = 0.0
        self._phase: LivePhase = "listening"

    @property
    def state(self) -> Progress:
        missing = tuple(name for name, needed in NEEDED_S.items() if self._seen_s[name] < needed)
        return Progress(phase=self._phase, seen_s=dict(self._seen_s), missing=missing)

    def stands(self, level_db: float | None) -> bool:
        """Whether the machine is as quiet as it ever was, having been much louder."""
        return self._is_quiet(level_db) and self._loudest_db > self._quietest_db + RISEN_DB

    def add(self, *, t_s: float, speed: LiveSpeed | None, level_db: float | None) -> None:
        """One reading more; a clock that jumps counts for a second at most."""
        step_s = 0.0 if self._last_s is None else min(max(t_s - self._last_s, 0.0), 1.0)
        self._last_s = t_s
        if level_db is not None:
            self._quietest_db = min(self._quietest_db, level_db)
            self._loudest_db = max(self._loudest_db, level_db)
        if speed is None or speed.steady:
            self._without_speed(step_s, level_db)
        else:
            self._with_speed(step_s, speed, self._held_hz(t_s, speed.rate_hz))

    def _is_quiet(self, level_db: float | None) -> bool:
        return level_db is not None and level_db < self._quietest_db + REST_MARGIN_DB

    def _without_speed(self, step_s: float, level_db: float | None) -> None:
        self._phase = "listening"
        if self._top_hz < SPIN_HZ:
            # Before anything has turned, what is quiet may still turn out to have been loud.
            if self._is_quiet(level_db):
                self._phase = "rest"
                self._seen_s["rest_before"] += step_s
        elif self.stands(level_db):
            self._phase = "rest"
            self._seen_s["rest_after"] += step_s

    def _held_hz(self, t_s: float, rate_hz: float) -> float:
        """The lowest rate of the last two seconds; zero while the drum has not been seen for so long."""
        self._recent.append((t_s, rate_hz))
        while len(self._recent) > 1 and self._recent[1][0] <= t_s - HELD_S:
            self._recent.popleft()
        return min(rate for _, rate in self._recent) if t_s - self._recent[0][0] >= HELD_S else 0.0

    def _with_speed(self, step_s: float, speed: LiveSpeed, held_hz: float) -> None:
        rate = speed.rate_hz
        if speed.slope_hz_s > HELD_HZ_S:
            self._phase = "ramp"
        elif speed.slope_hz_s < -HELD_HZ_S:
            self._phase = "slowing"
        elif rate < TUMBLE_BELOW_HZ:
            self._phase = "tumble"
        elif rate < DISTRIBUTE_BELOW_HZ:
            self._phase = "distribute"
        else:
            self._phase = "plateau"
        if held_hz > self._top_hz / NEAR_TOP and held_hz > SPIN_HZ:
            # What was full speed until now was a step on the way.
            self._seen_s["full_speed"] = self._seen_s["coast_down"] = self._seen_s["rest_after"] = 0.0
        self._top_hz = max(self._top_hz, held_hz)
        if self._phase == "ramp":
            self._seen_s["ramp"] += step_s
        elif self._top_hz < SPIN_HZ:
            return
        elif self._phase == "slowing" and rate < NEAR_TOP * self._top_hz:
            self._seen_s["coast_down"] += step_s
        elif rate > NEAR_TOP * self._top_hz:
            self._seen_s["full_speed"] += step_s
