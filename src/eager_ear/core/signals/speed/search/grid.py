"""The moments and candidate speeds at which every sensor is asked."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from eager_ear.core.units import FloatArray

# From one candidate to the next a line at 30 times the rate moves by less than its own width.
GRID_HZ = 0.1


@dataclass(frozen=True, kw_only=True)
class ScoreGrid:
    """Moments and candidates that all scores share: t_s [shape=(frames,), s], candidates_hz [shape=(states,)]."""

    t_s: FloatArray
    candidates_hz: FloatArray

    def empty(self) -> FloatArray:
        return np.zeros((self.t_s.size, self.candidates_hz.size), dtype=np.float32)


def at_times(values: FloatArray, from_s: FloatArray, to_s: FloatArray) -> FloatArray:
    """Rows at the nearest times; zero rows where no frame is within half a second."""
    if from_s.size > 1:
        index = np.clip(np.searchsorted(from_s, to_s), 1, from_s.size - 1)
        index = index - ((to_s - from_s[index - 1]) < (from_s[index] - to_s))
    else:
        index = np.zeros(to_s.size, dtype=int)
    out = values[index].copy()
    out[np.abs(from_s[index] - to_s) > 0.5] = 0.0
    return np.asarray(out)
