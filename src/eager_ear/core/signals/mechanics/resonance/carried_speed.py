"""The speed carried through the critical one, where vibration tells it wrongly.

As the drum passes its critical speed the group falls behind the force by half a turn, and what then rings on does so at
its own rate, the less damped the longer (Lewis, Trans. ASME 54, 1932, pp. 253-261). A rate read off the vibration falls
behind on the way up, and on the way down stays where the group rings while the drum goes on slowing. Motor and inertia
know nothing of it: what the speed does on both sides, or above where below nothing is seen, is carried through.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import scipy

from eager_ear.core.signals.angle import FRAME_STEP_S, SpeedTrack
from eager_ear.core.units import BoolArray, FloatArray, IntArray

# On the way up the lag is small below the first share of the critical speed; beyond the second what rings has died
# down, or is so far off that it does not disturb.
UP_FROM, UP_TO = 0.85, 1.6
# Coming from above nothing rings yet down to this share of it.
DOWN_FROM = 1.55
# What is carried on into the unseen is carried down to this share of it: past the peak, no further.
CARRIED_TO = 0.62
# A coast-down bends little between this share and where it is carried on from.
DOWN_LEARNT_FROM = 3.2
# Frames on either side from which the slope is taken: a second and a quarter.
SIDE_FRAMES = 10
FEWEST_SIDE_FRAMES = 5
# A line over the rate wants a second and a half of coasting, through so much of the critical speed.
FEWEST_DOWN_FRAMES = 12
LEAST_FALL_SHARE = 0.2
# What is carried on into the unseen is not longer than what it was learnt from, by a little.
LONGEST_SHARE = 1.2
# Slower ramps and coast-downs than these are no passage.
LEAST_RISE_HZ_S, LEAST_FALL_HZ_S = 0.1, 0.05
# A ramp that takes longer from one side to the other is not one.
LONGEST_GAP_S = 12.0
# How well a speed is known that was carried: on ramps and coast-downs of other physics nine of ten lay within.
CARRIED_SIGMA_SHARE = 0.03


def carried_through(track: SpeedTrack, *, critical_hz: float, power_cut_s: float) -> SpeedTrack | None:
    """The track with its speed carried through a critical speed, both ways; None where neither way can be.

    Parameters
    ----------
    critical_hz : [Hz], about where the group resonates
    power_cut_s : [s], when the motor was switched off; infinite where nobody knows
    """
    rate, followed = track.rate_hz.copy(), track.followed.copy()
    up = _up(track, critical_hz, track.followed & (track.t_s < power_cut_s))
    down = _down(track, critical_hz, track.followed & (track.t_s > power_cut_s))
    for way in (up, down):
        if way is not None:
            frames, carried, forgotten = way
            followed[forgotten] = False
            rate[frames], followed[frames] = carried, True
    if up is None and down is None:
        return None
    return replace(track, rate_hz=rate, known=followed, loosely=followed)


def with_carried(track: SpeedTrack, carried: SpeedTrack, *, critical_hz: float) -> SpeedTrack:
    """The track that was found, told anew where its speed had to be carried; what rings on is known no more.

    Parameters
    ----------
    carried : by `carried_through`; critical_hz : [Hz], where the group was found to resonate
    """
    changed = carried.followed & (carried.rate_hz != track.rate_hz) & (carried.rate_hz < UP_TO * critical_hz)
    rings = ~carried.followed & (track.rate_hz > CARRIED_TO * critical_hz) & (track.rate_hz < UP_TO * critical_hz)
    return replace(
        track,
        rate_hz=np.where(changed, carried.rate_hz, track.rate_hz),
        sigma_hz=np.where(changed, CARRIED_SIGMA_SHARE * carried.rate_hz, track.sigma_hz),
        known=track.known & ~rings,
        loosely=(track.followed | changed) & ~rings,
    )


def _up(track: SpeedTrack, critical_hz: float, seen: BoolArray) -> tuple[IntArray, FloatArray, slice] | None:
    """Frames, their rates, and what is to be forgotten: a cubic between both sides, or the ramp carried back."""
    t_s, rate = track.t_s, track.rate_hz
    index = np.flatnonzero(seen)
    above = index[rate[index] > UP_TO * critical_hz]
    if above.size == 0:
        return None
    first = int(above[0])
    right = index[(index >= first) & (index < first + SIDE_FRAMES)]
    if right.size < FEWEST_SIDE_FRAMES:
        return None
    rise = _slope(t_s[right], rate[right])
    below = index[(index < first) & (rate[index] < UP_FROM * critical_hz)]
    if below.size and t_s[first] - t_s[below[-1]] < LONGEST_GAP_S:
        last = int(below[-1])
        left = index[(index <= last) & (index > last - SIDE_FRAMES)]
        if left.size < FEWEST_SIDE_FRAMES:
            return None
        ends = t_s[[last, first]]
        cubic = scipy.interpolate.CubicHermiteSpline(ends, rate[[last, first]], [_slope(t_s[left], rate[left]), rise])
        frames = np.arange(last, first + 1)
        return frames, np.maximum(cubic(t_s[frames]), CARRIED_TO * critical_hz), slice(0, 0)
    if rise < LEAST_RISE_HZ_S:
        return None
    back = int((rate[first] - CARRIED_TO * critical_hz) / rise / FRAME_STEP_S)
    frames = np.arange(max(0, first - back), first)
    return frames, rate[first] + rise * (t_s[frames] - t_s[first]), slice(0, first)


def _down(track: SpeedTrack, critical_hz: float, seen: BoolArray) -> tuple[IntArray, FloatArray, slice] | None:
    """Frames, their rates, and what is to be forgotten: the coast-down carried on as it came."""
    t_s, rate = track.t_s, track.rate_hz
    index = np.flatnonzero(seen)
    above = index[rate[index] > DOWN_FROM * critical_hz]
    if above.size == 0:
        return None
    last = int(above[-1])
    learnt = index[(index <= last) & (rate[index] < DOWN_LEARNT_FROM * critical_hz)]
    if learnt.size < FEWEST_DOWN_FRAMES or np.ptp(rate[learnt]) < LEAST_FALL_SHARE * critical_hz:
        return None
    # Friction takes an equal share in each second, drag one that goes with the speed: the fall is a line over the rate.
    fall = np.polynomial.Polynomial.fit(rate[learnt], np.gradient(rate[learnt], t_s[learnt]), 1)
    carried = [float(rate[last])]
    for _ in range(int(LONGEST_SHARE * learnt.size)):
        further = carried[-1] + FRAME_STEP_S * min(float(fall(carried[-1])), -LEAST_FALL_HZ_S)
        if further < CARRIED_TO * critical_hz:
            break
        carried.append(further)
    frames = np.arange(last + 1, min(t_s.size, last + len(carried)))
    return frames, np.array(carried[1 : 1 + frames.size]), slice(last + 1, None)


def _slope(t_s: FloatArray, rate_hz: FloatArray) -> float:
    return float(np.polyfit(t_s, rate_hz, 1)[0])
