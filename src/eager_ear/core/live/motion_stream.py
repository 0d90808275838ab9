"""Acceleration as it comes in, row by row, and the last seconds of it on an even clock."""

from __future__ import annotations

import numpy as np

from eager_ear.core.errors import BadSignal
from eager_ear.core.signals.dsp import GRAVITY_S, Decimator, silence_gaps
from eager_ear.core.signals.speed import FAST_RATE_HZ, SLOWED_RATE_HZ
from eager_ear.core.signals.types import ACCELERATION_RATE_RANGE_HZ, LARGEST_M_S2, AccelerationSignal
from eager_ear.core.units import FloatArray

# Gravity is told from motion by what lasts four seconds: twice that is kept.
KEPT_S = 8.0
# So much has to be there before the sensor's rate is known well enough.
LEARN_RATE_S = 2.0
MOST_ROWS = int(KEPT_S * ACCELERATION_RATE_RANGE_HZ[1])
# Clocks begin with the recording: what is more than a day from there is no time.
LATEST_CLOCK_S = 86_400.0


class MotionStream:
    """Rows of acceleration with their times on the common clock.

    rate_hz : of the even clock, None until two seconds have come in
    """

    def __init__(self) -> None:
        self._t_s = np.zeros(0)
        self._axes = np.zeros((3, 0))
        self._slowed: Decimator | None = None
        self.rate_hz: float | None = None

    @property
    def end_s(self) -> float | None:
        """Time of the last row, None before the first."""
        return float(self._t_s[-1]) if self._t_s.size else None

    def push(self, t_s: FloatArray, axes_m_s2: FloatArray) -> None:
        """Take more rows; those that are not later than the last one are left out.

        Parameters
        ----------
        t_s : array [shape=(n,), s]; axes_m_s2 : array [shape=(3, n), m/s²]

        Raises
        ------
        BadSignal
            Values that are not finite numbers or no reading, or rows that come faster than any sensor's; none is taken.
        """
        if axes_m_s2.shape != (3, t_s.size) or not (np.isfinite(t_s).all() and np.isfinite(axes_m_s2).all()):
            raise BadSignal(reason="A block of acceleration holds values that are not finite numbers.")
        if (np.abs(t_s) > LATEST_CLOCK_S).any() or (np.abs(axes_m_s2) > LARGEST_M_S2).any():
            raise BadSignal(reason="A block of acceleration holds a time beyond a day, or a value that is no reading.")
        latest = np.maximum.accumulate(np.concatenate([[self.end_s if self._t_s.size else -np.inf], t_s]))
        later = t_s > latest[:-1]
        t_s, axes_m_s2 = t_s[later], axes_m_s2[:, later]
        if t_s.size == 0:
            return
        kept = np.concatenate([self._t_s, t_s])
        first = int(np.searchsorted(kept, kept[-1] - KEPT_S))
        if kept.size - first > MOST_ROWS:
            raise BadSignal(reason="The rows of acceleration come faster than any sensor's.")
        self._t_s = kept[first:]
        self._axes = np.concatenate([self._axes, axes_m_s2], axis=1)[:, first:]
        if self.rate_hz is None and self._t_s[-1] - self._t_s[0] >= LEARN_RATE_S:
            signal = self._signal()
            if signal is not None:
                rate = signal.sample_rate_hz
                target = SLOWED_RATE_HZ if rate > FAST_RATE_HZ else rate
                self._slowed = Decimator(sample_rate_hz=rate, target_hz=target)
                self.rate_hz = self._slowed.rate_hz

    def ending_at(self, end_s: float, *, count: int) -> FloatArray | None:
        """So many even values of each axis up to a moment, without gravity [shape=(3, count), m/s²]; None without."""
        if self.rate_hz is None or self._slowed is None:
            return None
        wanted = end_s - np.arange(count - 1, -1, -1) / self.rate_hz
        slack = 2.0 / self.rate_hz
        if wanted[0] < self._t_s[0] - slack or wanted[-1] > self._t_s[-1] + slack:
            return None
        # As much as is asked for, and what the filters look at beside it.
        beside_s = self._slowed.reach / self.rate_hz + slack
        first, last = np.searchsorted(self._t_s, [wanted[0] - beside_s, wanted[-1] + beside_s])
        rows = slice(max(int(first) - 1, 0), int(last) + 1)
        stamps, axes = self._t_s[rows], self._axes[:, rows]
        lately = slice(int(np.searchsorted(self._t_s, self._t_s[-1] - GRAVITY_S)), None, self._slowed.factor)
        gravity = np.median(self._axes[:, lately], axis=1)
        raw_hz = self.rate_hz * self._slowed.factor
        t_s = np.arange(stamps[0], stamps[-1], 1.0 / raw_hz)
        even = np.stack([np.interp(t_s, stamps, axis) for axis in axes]) - gravity[:, None]
        silence_gaps(even, t_s, stamps_s=stamps, rate_hz=raw_hz)
        slow_s = t_s[:: self._slowed.factor]
        return np.stack([np.interp(wanted, slow_s, row) for row in self._slowed(even)]).astype(np.float32)

    def _signal(self) -> AccelerationSignal | None:
        try:
            return AccelerationSignal(t_s=self._t_s, axes_m_s2=self._axes)
        except BadSignal:
            # Too few rows, or too slow a sensor to say anything.
            return None
