"""What the drive does over the whole test: hum without motion, late or incomplete arrival, cut-out."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy import ndimage

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.low_band import LowBand
from eager_ear.core.signals.phases import Phases
from eager_ear.core.signals.speed_track import SpeedTrack

# A hum is on where the line at twice the mains stands this far above its floor for at least this long.
HUM_NATS = 3.5
SHORTEST_HUM_S = 1.5
HUM_STEP_DB = 10.0
# Mains frequency is kept to half a percent: what is as loud this far beside it is another tone.
BESIDE_HZ = 6.0
LEAST_OVER_BESIDE_DB = 6.0


@dataclass(frozen=True, kw_only=True)
class Hum:
    """Hum at twice the mains frequency: seconds of it and how far it rises above its own quietest [dB]."""

    frequency_hz: float
    seconds: float
    rise_db: float


def find_hum(low: LowBand) -> Hum:
    """Hum that comes and goes: an energised motor, unlike a transformer, is switched.

    Raises
    ------
    NotMeasurable
        The recording is shorter than a frame.
    """
    if not low.spectra:
        raise NotMeasurable(quantity="hum", reason="the recording is shorter than half a second.")
    part = low.spectra[-1]
    best = Hum(frequency_hz=2.0 * low.mains_hz[0], seconds=0.0, rise_db=0.0)
    for mains in low.mains_hz:
        centre = round(2 * mains / part.bin_hz)
        strength = part.raw[:, centre]
        step = float(part.t_s[1] - part.t_s[0]) if part.t_s.size > 1 else part.frame_s
        on = ndimage.binary_opening(strength > HUM_NATS, iterations=2)
        seconds = float(on.sum()) * step
        if seconds < max(SHORTEST_HUM_S, best.seconds):
            continue
        level = low.tone_level_db(2.0 * mains)
        beside = np.maximum(low.tone_level_db(2.0 * mains - BESIDE_HZ), low.tone_level_db(2.0 * mains + BESIDE_HZ))
        if np.percentile(level - beside, 90) < LEAST_OVER_BESIDE_DB:
            continue
        rise = float(np.percentile(level, 90) - np.percentile(level, 5))
        if rise >= HUM_STEP_DB and seconds > best.seconds:
            best = Hum(frequency_hz=2.0 * mains, seconds=seconds, rise_db=rise)
    return best


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
