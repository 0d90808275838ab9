"""How the drum comes to speed, and what becomes of it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.angle import SpeedTrack
from eager_ear.core.signals.speed import Phases


@dataclass(frozen=True, kw_only=True)
class Arrival:
    """How the drum came to speed.

    ramp_s : from leaving the slow turning to 95 % of the highest speed
    share_of_plate : highest speed over the plate's, None when the plate is not known
    plateau_s : time spent within 3 % of the highest speed
    fell_before_cut_s : how much earlier the speed fell than the power was noted to be cut, None when not noted
    """

    ramp_s: float
    share_of_plate: float | None
    plateau_s: float
    fell_before_cut_s: float | None


def measure_arrival(
    track: SpeedTrack, *, phases: Phases, plate_rpm: float | None, noted_power_cut_s: float | None
) -> Arrival:
    """Time to full speed and what became of it.

    Raises
    ------
    NotMeasurable
        The run-up is not in the recording.
    """
    top_hz = track.max_rpm / 60.0
    known = np.flatnonzero(track.known)
    slow = known[track.rate_hz[known] < 0.35 * top_hz]
    full = known[track.rate_hz[known] > 0.95 * top_hz]
    slow = slow[slow < full[0]] if full.size else slow
    if slow.size == 0 or full.size == 0:
        raise NotMeasurable(quantity="time to full speed", reason="the run-up was not recorded from slow turning on.")
    step = float(track.t_s[1] - track.t_s[0])
    fell = None
    if noted_power_cut_s is not None and phases.fall_s is not None:
        fell = noted_power_cut_s - phases.fall_s
    return Arrival(
        ramp_s=float(track.t_s[full[0]] - track.t_s[slow[-1]]),
        share_of_plate=None if plate_rpm is None else 60.0 * top_hz / plate_rpm,
        plateau_s=float((track.rate_hz[known] > 0.97 * top_hz).sum()) * step,
        fell_before_cut_s=fell,
    )
