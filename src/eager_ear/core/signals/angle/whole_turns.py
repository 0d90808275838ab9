"""Even steps of drum angle laid over the stretches in which the speed is known."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy

from eager_ear.core.signals.angle.track import FRAME_STEP_S, SpeedTrack
from eager_ear.core.units import FloatArray

# Twenty-four orders: above the third harmonic of any race of a drum bearing, so that nothing read folds back.
CELLS_PER_TURN = 48


@dataclass(frozen=True, kw_only=True)
class TurnStretch:
    """Whole revolutions in one known stretch.

    border_s : array [shape=(turns * cells + 1,), s], when each cell border passes
    turns : number of whole revolutions; cells : cells per revolution
    """

    border_s: FloatArray
    turns: int
    cells: int

    @property
    def turn_border_s(self) -> FloatArray:
        """When each turn begins, and the last one ends [shape=(turns + 1,), s]."""
        return self.border_s[:: self.cells]


def turn_stretches(
    track: SpeedTrack,
    *,
    cells: int,
    above_hz: float,
    span: tuple[float, float],
    fewest_turns: int,
) -> tuple[TurnStretch, ...]:
    """Cut every known stretch faster than `above_hz` inside `span` into whole revolutions."""
    inside = track.known & (track.rate_hz > above_hz) & (track.t_s >= span[0]) & (track.t_s <= span[1])
    labels, count = scipy.ndimage.label(inside)
    out: list[TurnStretch] = []
    for k in range(1, count + 1):
        part = np.flatnonzero(labels == k)
        if part.size < 4:
            continue
        t_s = np.arange(track.t_s[part[0]], track.t_s[part[-1]], FRAME_STEP_S / 5)
        turns = track.turns_at(t_s)
        turns = turns - turns[0]
        whole = int(turns[-1])
        if whole < fewest_turns:
            continue
        borders = np.interp(np.arange(whole * cells + 1) / cells, turns, t_s)
        out.append(TurnStretch(border_s=borders, turns=whole, cells=cells))
    return tuple(out)
