"""Hum at twice the mains frequency: a motor that is energised and stands."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.dsp import LowBand
from eager_ear.core.units import FloatArray

# A hum is on where the line at twice the mains stands this far above its floor for at least this long.
HUM_NATS = 3.5
SHORTEST_HUM_S = 1.5
HUM_STEP_DB = 10.0
# Mains frequency is kept to half a percent: what is as loud this far beside it is another tone.
BESIDE_HZ = 6.0
LEAST_OVER_BESIDE_DB = 6.0
# A hum that is on for less of the recording has an end in it, whether its step was seen or not.
STEADY_SHARE = 0.8
# Frames that part the first multiples of the line from each other and from most else.
SHARE_FRAME_S, MULTIPLES, LINE_HZ = 0.5, 6, 4.0
# Below lie handling and doors.
LOWEST_HZ = 60.0
# Within 10 dB of its loudest a hum is on.
ON_SHARE = 0.1


@dataclass(frozen=True, kw_only=True)
class Hum:
    """Hum at twice the mains frequency.

    seconds : how long it is on; rise_db : how far it rises above its own quietest
    level_db : of the line while it is on [dB re full scale]; over_beside_db : above what lies beside it
    share : the part of all sound below 3 kHz that is this hum while it is on; a motor that stands makes no other
    steady : on all through, so that nothing in the recording tells whether it is the machine's
    """

    frequency_hz: float
    seconds: float
    rise_db: float
    level_db: float
    over_beside_db: float
    share: float
    steady: bool


def find_hum(low: LowBand) -> Hum:
    """Hum that comes and goes, as that of a motor which is switched; where there is none, one that stays.

    Raises
    ------
    NotMeasurable
        The recording is shorter than half a second.
    """
    if low.samples.size < SHARE_FRAME_S * low.rate_hz:
        raise NotMeasurable(quantity="hum", reason="the recording is shorter than half a second.")
    heard = [_at(low, mains) for mains in low.mains_hz]
    return max(heard, key=lambda hum: (hum.seconds > 0 and not hum.steady, hum.seconds))


def _at(low: LowBand, mains_hz: int) -> Hum:
    """What hums at twice a mains frequency; no second of it where nothing does."""
    part = low.spectra[-1]
    strength = part.raw[:, round(2 * mains_hz / part.bin_hz)]
    step = float(part.t_s[1] - part.t_s[0]) if part.t_s.size > 1 else part.frame_s
    on = scipy.ndimage.binary_opening(strength > HUM_NATS, iterations=2)
    seconds = float(on.sum()) * step
    level = low.tone_level_db(2.0 * mains_hz)
    over = float(np.percentile(level - _beside_db(low, 2.0 * mains_hz), 90))
    rise = float(np.percentile(level, 90) - np.percentile(level, 5))
    steady = rise < HUM_STEP_DB and float(on.mean()) >= STEADY_SHARE
    hums = seconds >= SHORTEST_HUM_S and over >= LEAST_OVER_BESIDE_DB and (steady or rise >= HUM_STEP_DB)
    return Hum(
        frequency_hz=2.0 * mains_hz,
        seconds=seconds if hums else 0.0,
        rise_db=rise,
        level_db=float(np.percentile(level, 90)),
        over_beside_db=over,
        share=_share(low, 2.0 * mains_hz) if hums else 0.0,
        steady=hums and steady,
    )


def _share(low: LowBand, frequency_hz: float) -> float:
    """Part of the power that lies in the first multiples of a frequency, in the frames where they are loud."""
    length = int(SHARE_FRAME_S * low.rate_hz)
    count = low.samples.size // length
    frames = low.samples[: count * length].reshape(count, length) * np.hanning(length).astype(np.float32)
    power = np.abs(scipy.fft.rfft(frames, axis=1)) ** 2
    hz = scipy.fft.rfftfreq(length, 1.0 / low.rate_hz)
    multiple = np.clip(np.round(hz / frequency_hz), 1, MULTIPLES)
    of_the_hum = np.abs(hz - multiple * frequency_hz) <= LINE_HZ
    hums = power[:, of_the_hum].sum(axis=1)
    share = hums / np.maximum(power[:, hz > LOWEST_HZ].sum(axis=1), 1e-20)
    return float(np.median(share[hums >= ON_SHARE * np.percentile(hums, 95)]))


def _beside_db(low: LowBand, frequency_hz: float) -> FloatArray:
    """Level of what lies just beside a line, the louder side [shape=(frames,), dB re full scale]."""
    return np.maximum(low.tone_level_db(frequency_hz - BESIDE_HZ), low.tone_level_db(frequency_hz + BESIDE_HZ))


def room_hum_db(low: LowBand) -> dict[float, float]:
    """Level of the line at twice the mains in a room whose machine is off, by its frequency [Hz, dB re full scale]."""
    return {2.0 * mains: float(np.median(low.tone_level_db(2.0 * mains))) for mains in low.mains_hz}
