"""The spin test cut into phases by the speed track: rest, tumble, distribute, ramp, plateau, coast-down.

Limits are those of the job: a drum that turns below one g at its wall (about 60 to 70 rpm at a washer's radius)
tumbles its load; up to twice that speed it spreads the load; a change by less than 9 rpm a second is no ramp.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
import scipy

from eager_ear.core.signals.angle import STEADY_HZ_S, SpeedTrack
from eager_ear.core.units import BoolArray, FloatArray

PhaseName = Literal["rest", "tumble", "distribute", "ramp", "plateau", "slowing", "coast_down", "unknown"]

# Above 70 turns a minute clothes no longer fall.
TUMBLE_BELOW_HZ = 1.15
# Up to 130 turns a minute a control spreads the load before it spins.
DISTRIBUTE_BELOW_HZ = 2.2
# Less is no phase but a wobble of the track.
SHORTEST_S = 0.7
# A control holds its top speed within three percent.
NEAR_TOP = 0.97


@dataclass(frozen=True, kw_only=True)
class Phase:
    name: PhaseName
    start_s: float
    end_s: float

    @property
    def duration_s(self) -> float:
        return self.end_s - self.start_s


@dataclass(frozen=True, kw_only=True)
class Phases:
    """Phases in order of time.

    power_cut_s : when power was cut, as metered or noted, or else `fall_s`
    fall_s : where the final fall of the speed begins, None when it was not recorded
    """

    parts: tuple[Phase, ...]
    power_cut_s: float | None
    fall_s: float | None = None

    def spans(self, name: PhaseName) -> tuple[tuple[float, float], ...]:
        return tuple((p.start_s, p.end_s) for p in self.parts if p.name == name)

    def mask(self, name: PhaseName, t_s: FloatArray) -> BoolArray:
        """Which of these times lie in a phase of that name [shape like t_s, bool]."""
        inside = np.zeros(t_s.shape, dtype=bool)
        for start, end in self.spans(name):
            inside |= (t_s >= start) & (t_s < end)
        return inside


def cut_phases(track: SpeedTrack, *, rests: tuple[tuple[float, float], ...], noted_power_cut_s: float | None) -> Phases:
    """Name every stretch of the track.

    Parameters
    ----------
    rests : stretches in which the machine was found standing
    noted_power_cut_s : float | None [s], as metered or written down by the technician; found from the fall when None
    """
    slope = np.gradient(scipy.ndimage.gaussian_filter1d(track.rate_hz, 3.0), track.t_s)
    fall_s = _final_fall(track)
    cut_s = noted_power_cut_s if noted_power_cut_s is not None else fall_s
    labels: list[PhaseName] = []
    for t, rate, known, change in zip(track.t_s, track.rate_hz, track.known, slope, strict=True):
        if any(a <= t < b for a, b in rests):
            labels.append("rest")
        elif not known:
            labels.append("unknown")
        elif cut_s is not None and t >= cut_s:
            labels.append("coast_down")
        elif change > STEADY_HZ_S:
            labels.append("ramp")
        elif change < -STEADY_HZ_S:
            labels.append("slowing")
        elif rate < TUMBLE_BELOW_HZ:
            labels.append("tumble")
        elif rate < DISTRIBUTE_BELOW_HZ:
            labels.append("distribute")
        else:
            labels.append("plateau")
    return Phases(parts=_runs(track.t_s, labels), power_cut_s=cut_s, fall_s=fall_s)


def _final_fall(track: SpeedTrack) -> float | None:
    """Start of the last long fall from near the top: the knee after which the drum never speeds up again."""
    if not track.known.any():
        return None
    rate = np.where(track.known, scipy.ndimage.gaussian_filter1d(track.rate_hz, 2.0), np.nan)
    top = float(np.nanpercentile(rate, 97.0))
    high = np.flatnonzero(rate >= NEAR_TOP * top)
    after = rate[high[-1] + 1 :]
    after = after[np.isfinite(after)]
    if after.size < 8 or after[-1] > 0.8 * top:
        return None
    # The knee lies a little before the 97 % mark; extend the fall's line back to the top.
    fall = slice(high[-1], min(high[-1] + 16, rate.size))
    t, r = track.t_s[fall], rate[fall]
    good = np.isfinite(r)
    if good.sum() < 4:
        return float(track.t_s[high[-1]])
    slope, offset = np.polyfit(t[good], r[good], 1)
    level = float(np.nanmedian(rate[high[max(0, high.size - 40) :]]))
    knee = (level - offset) / slope if slope < 0 else float(track.t_s[high[-1]])
    return float(np.clip(knee, track.t_s[high[-1]] - 3.0, track.t_s[high[-1]]))


def _runs(t_s: FloatArray, labels: list[PhaseName]) -> tuple[Phase, ...]:
    parts: list[Phase] = []
    step = float(t_s[1] - t_s[0])
    for t, name in zip(t_s, labels, strict=True):
        if parts and parts[-1].name == name:
            parts[-1] = Phase(name=name, start_s=parts[-1].start_s, end_s=float(t) + step)
        else:
            parts.append(Phase(name=name, start_s=float(t), end_s=float(t) + step))
    merged: list[Phase] = []
    for part in parts:
        if merged and (part.duration_s < SHORTEST_S or merged[-1].name == part.name):
            merged[-1] = Phase(name=merged[-1].name, start_s=merged[-1].start_s, end_s=part.end_s)
        else:
            merged.append(part)
    return tuple(merged)
