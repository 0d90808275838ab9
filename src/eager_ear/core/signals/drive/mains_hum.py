"""Hum at twice the mains frequency: a motor that is energised and stands."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.dsp import LowBand

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
        on = scipy.ndimage.binary_opening(strength > HUM_NATS, iterations=2)
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
