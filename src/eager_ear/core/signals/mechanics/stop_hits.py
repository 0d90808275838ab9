"""How often the suspended group ran into its stops on the way through the critical speed.

The group swings widest there. What it does once or twice a turn ends at a few times the drum's rate; steel on rubber
does not. So the acceleration above that is looked at: what stands out of the sensor's noise, and out of what the
cabinet shows over the turn around it, is an impact. A cabinet that rings with the drum does so all around the turn.
Within half a turn one impact is counted.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import scipy

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.machine import Layout
from eager_ear.core.signals.angle import SpeedTrack
from eager_ear.core.signals.dsp import EvenAcceleration
from eager_ear.core.units import BoolArray, FloatArray, IntArray, Span, within

# A hit lasts some hundredths of a second: slower sensors do not see it.
LEAST_RATE_HZ = 50.0
# The passage in multiples of the critical speed: a group that hits its stops is held up by them beyond its own.
PASSAGE = (0.6, 1.8)
# Above so many times the fastest rate of the passage nothing is left of once and twice per turn.
CLEAR_OF_ORDERS = 2.2
HIGHEST_SHARE = 0.45
LEAST_BAND_SHARE = 0.12
# One sample in a million of noise stands out so far; an impact also has so many times the power of the turn around it.
# What rings with the drum, a line that beats with its neighbours, has four times its median at most.
FALSE_ALARM = 1e-6
LEAST_CREST = 8.0
LEAST_PASSAGE_TURNS = 3.0
TURNS_APART = 0.5
LONGEST_GAP_S = 12.0
GAP_MARGIN_S = 0.5


@dataclass(frozen=True, kw_only=True)
class StopHits:
    """Hits in the passage through the critical speed.

    count : of them; turns : that the passage took, all passages together
    rise_db : median of how far they stand out of the turn around them, 0.0 without hits
    speed_rpm : slowest and fastest at which they came, None without hits
    """

    count: int
    turns: float
    rise_db: float
    speed_rpm: tuple[float, float] | None


def passage_of(critical_hz: Sequence[float], *, layout: Layout) -> Span:
    """Rates of the drum between which its group swings widest [Hz]: by the critical speeds, else by its layout."""
    if critical_hz:
        return PASSAGE[0] * min(critical_hz), PASSAGE[1] * max(critical_hz)
    return layout.critical_rpm[0] / 60.0, layout.critical_rpm[1] / 60.0


def count_stop_hits(acceleration: EvenAcceleration, *, track: SpeedTrack, passage_hz: Span) -> StopHits:
    """Count hits while the drum passes through its critical speed; hits that merge count as one.

    Parameters
    ----------
    passage_hz : slowest and fastest rate of the passage [Hz]

    Raises
    ------
    NotMeasurable
        The sensor is too slow, or the passage was not followed.

    Source: the excess over exponential noise as in line detection (McDonough & Whalen, Detection of Signals in Noise,
    2nd ed., chapter 7); gamma tail for the sum over axes.
    """
    rate = acceleration.sample_rate_hz
    low_hz, high_hz = CLEAR_OF_ORDERS * passage_hz[1], HIGHEST_SHARE * rate
    if rate < LEAST_RATE_HZ or high_hz - low_hz < LEAST_BAND_SHARE * rate:
        raise NotMeasurable(quantity="stop hits", reason="the sensor is too slow to tell hits from the drum's swing.")
    turning_hz = _rates(track, acceleration.t_s)
    # The filter rings where a gap begins and ends.
    clean = ~within(
        acceleration.t_s, [(begin - GAP_MARGIN_S, end + GAP_MARGIN_S) for begin, end in acceleration.gaps_s]
    )
    passing = clean & (turning_hz > passage_hz[0]) & (turning_hz < passage_hz[1])
    turns = float(turning_hz[passing].sum()) / rate
    if turns < LEAST_PASSAGE_TURNS:
        raise NotMeasurable(quantity="stop hits", reason="the drum was not followed through the critical speed.")
    band = scipy.signal.butter(4, (low_hz, high_hz), "bandpass", fs=rate, output="sos")
    power = np.square(scipy.signal.sosfiltfilt(band, acceleration.axes_m_s2, axis=1)).sum(axis=0)
    around = _around(power, turn=int(rate / passage_hz[0]))
    stands_out = (power > _noise_limit(power[clean], axes=len(acceleration.axis_names))) & (
        power > LEAST_CREST * around
    )
    index = _impacts(power, passing & stands_out, apart=TURNS_APART * rate / np.maximum(turning_hz, 0.1))
    if index.size == 0:
        return StopHits(count=0, turns=turns, rise_db=0.0, speed_rpm=None)
    speeds = 60.0 * turning_hz[index]
    return StopHits(
        count=int(index.size),
        turns=turns,
        rise_db=float(np.median(10.0 * np.log10(power[index] / around[index]))),
        speed_rpm=(float(speeds.min()), float(speeds.max())),
    )


def _rates(track: SpeedTrack, t_s: FloatArray) -> FloatArray:
    """The drum's rate, straight lines over short unknown stretches; NaN beyond [shape like `t_s`, Hz]."""
    known = np.flatnonzero(track.followed)
    if known.size < 2:
        return np.full(t_s.size, np.nan)
    times = track.t_s[known]
    after = np.clip(np.searchsorted(times, t_s), 1, times.size - 1)
    bridged = times[after] - times[after - 1] < LONGEST_GAP_S
    rate = np.interp(t_s, times, track.rate_hz[known], left=np.nan, right=np.nan)
    return np.where(bridged, rate, np.nan)


def _around(power: FloatArray, *, turn: int) -> FloatArray:
    """Usual power over a turn around each sample [shape like `power`]."""
    return np.asarray(np.maximum(scipy.ndimage.median_filter(power, size=max(3, turn), mode="nearest"), 1e-20))


def _noise_limit(power: FloatArray, *, axes: int) -> float:
    """Power that the sensor's noise hardly exceeds: the quietest tenth of the samples tells how much it is."""
    # A sum over axes is a gamma variable of half as many degrees of freedom.
    scale = float(np.percentile(power, 10)) / float(scipy.special.gammaincinv(0.5 * axes, 0.1))
    return scale * float(scipy.special.gammainccinv(0.5 * axes, FALSE_ALARM))


def _impacts(power: FloatArray, above: BoolArray, *, apart: FloatArray) -> IntArray:
    """Samples at which impacts are strongest, none nearer to a stronger one than half a turn [shape=(k,)]."""
    found: list[int] = []
    for index in np.flatnonzero(above & (power == scipy.ndimage.maximum_filter1d(power, 3))):
        if found and index - found[-1] < apart[index]:
            if power[index] > power[found[-1]]:
                found[-1] = int(index)
        else:
            found.append(int(index))
    return np.array(found, dtype=int)
