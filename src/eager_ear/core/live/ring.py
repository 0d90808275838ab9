"""The last seconds of something evenly sampled."""

from __future__ import annotations

import numpy as np

from eager_ear.core.units import FloatArray


class Ring:
    """Evenly sampled values, of which the last `kept_s` seconds are kept."""

    def __init__(self, *, rate_hz: float, start_s: float, kept_s: float) -> None:
        self._rate_hz = rate_hz
        self._start_s = start_s
        self._kept = int(kept_s * rate_hz)
        self._values = np.zeros(0, dtype=np.float32)
        self._dropped = 0

    def push(self, values: FloatArray) -> None:
        """Append values [shape=(n,)]."""
        joined = np.concatenate([self._values, values.astype(np.float32, copy=False)])
        extra = max(0, joined.size - self._kept)
        self._values = joined[extra:]
        self._dropped += extra

    def ending_at(self, end_s: float, *, count: int) -> FloatArray | None:
        """So many values up to a moment [shape=(count,)]; None where they are not there, or not any more."""
        last = round((end_s - self._start_s) * self._rate_hz) - self._dropped
        if last < count or last > self._values.size:
            return None
        return self._values[last - count : last]
