"""What makes a track doubtful although lines follow it: they may be a neighbour's, a hum's."""

from __future__ import annotations

import numpy as np
import scipy

from eager_ear.core.signals.angle import FRAME_STEP_S
from eager_ear.core.signals.dsp import EvenAcceleration, LowBand
from eager_ear.core.signals.gates import gate
from eager_ear.core.signals.speed.search.grid import ScoreGrid
from eager_ear.core.signals.speed.search.plausible_spans import drop_short
from eager_ear.core.units import BoolArray, FloatArray, IntArray

# Longer than a turn at distribution speed, so that a level does not follow single impacts.
LEVEL_WINDOW_S = 0.5
# Steps of eight percent: the level of a machine changes by less than a decibel within one.
SPEED_STEP = 0.08
# A track at rest scatters by half a percent; no drum keeps a speed through a pause within two.
UNMOVED_SHARE = 0.02
# Six frames in either state: fewer are the ends of a ramp.
UNMOVED_S = 0.75
# Slower, tumbling stops and starts at one speed by itself.
STANDING_ABOVE_HZ = 4.0
# A recording from rest to rest spans far more; a mains-driven neighbour far less.
MOVED_RATIO = 1.15
# A steady line that is the drum's is not there for so long before or after, a second and more away from its stretch.
AWAY_S = 1.5
LEAST_AWAY_S = 5.0
GONE_SHARE = 0.3
# At its fastest a machine is as loud as in its loudest tenth: 95 of 100 tracks keep within half a decibel of it, 98
# within five.
FASTEST_SHARE = 0.9
LOUD_PERCENT = 90.0
# Gaining speed, over a second.
RISING_HZ_S = 0.15
RISING_FRAMES = 8
CALMER_THAN_LOUDEST_DB = 5.0


@gate("unchanging", harmless=lambda *_: None)
def unchanging(score: FloatArray, path: IntArray, known: BoolArray, grid: ScoreGrid) -> int | None:
    """Candidate that a path keeps to all the time: a line that neither changes its rate nor comes or goes can be
    anything, a hum, a pump, another machine. None where it changes.
    """
    rate_hz = grid.candidates_hz[path[known]]
    if np.percentile(rate_hz, 97) > MOVED_RATIO * np.percentile(rate_hz, 3):
        return None
    held = int(np.median(path[known]))
    shown = score[:, max(0, held - 2) : held + 3].max(axis=1)
    away = ~scipy.ndimage.binary_dilation(known, iterations=int(AWAY_S / FRAME_STEP_S))
    stays = away.sum() * FRAME_STEP_S < LEAST_AWAY_S or shown[away].mean() > GONE_SHARE * shown[known].mean()
    return held if stays else None


def sound_level_db(low: LowBand, t_s: FloatArray) -> FloatArray:
    """Level of the differenced sound around each time [shape=(len(t_s),), dB]."""
    centres = low.start_s + (np.arange(low.level_nats.size) + 0.5) / low.level_rate_hz
    return _smoothed_db(np.exp(low.level_nats.astype(np.float64)), centres, t_s)


def vibration_level_db(acceleration: EvenAcceleration, t_s: FloatArray) -> FloatArray:
    """Level of the vibration around each time [shape=(len(t_s),), dB]."""
    return _smoothed_db(np.square(acceleration.axes_m_s2).sum(axis=0), acceleration.t_s, t_s)


def _smoothed_db(power: FloatArray, from_s: FloatArray, t_s: FloatArray) -> FloatArray:
    frames = max(1, int(LEVEL_WINDOW_S / (from_s[1] - from_s[0])))
    level = 10.0 * np.log10(np.maximum(scipy.ndimage.uniform_filter1d(power, frames), 0.0) + 1e-14)
    return np.asarray(np.interp(t_s, from_s, level))


@gate("unmoved", harmless=lambda known, *_, **__: known)
def drop_unmoved(known: BoolArray, rate_hz: FloatArray, quiet: BoolArray | None) -> BoolArray:
    """Drop every rate that goes on unmoved while the machine is at its quietest: a neighbour's, not this drum's."""
    if quiet is None:
        return known
    out = known.copy()
    for rate in np.unique(np.round(rate_hz[known & quiet & (rate_hz > STANDING_ABOVE_HZ)], 1)):
        same = known & (np.abs(rate_hz - rate) < UNMOVED_SHARE * rate)
        if (same & quiet).sum() * FRAME_STEP_S >= UNMOVED_S and (same & ~quiet).sum() * FRAME_STEP_S >= UNMOVED_S:
            out &= ~same
    return drop_short(out)


@gate("calm at its fastest", harmless=lambda *_, **__: False)
def calm_at_its_fastest(known: BoolArray, rate_hz: FloatArray, level_db: FloatArray, *, spoilt: BoolArray) -> bool:
    """Whether a machine would be far louder elsewhere than where a path is fastest: then something else is followed.

    The noise of drum and motor rises with their speed. While they gain speed belts squeal and groups reach their stops,
    so what is louder on the way up says nothing; what is louder later, or at a slower speed that is kept, does.

    Parameters
    ----------
    level_db : level of the sound at every frame [shape like `known`]
    spoilt : frames at which somebody talks
    """
    fastest = known & (rate_hz > FASTEST_SHARE * rate_hz[known].max())
    later = np.arange(known.size) > int(fastest.argmax())
    rises = np.gradient(scipy.ndimage.uniform_filter1d(rate_hz, RISING_FRAMES), FRAME_STEP_S) > RISING_HZ_S
    telling = ~spoilt & (later | (known & ~rises)) | fastest
    loudest_db = float(np.percentile(level_db[telling], LOUD_PERCENT))
    return loudest_db - float(np.median(level_db[fastest])) > CALMER_THAN_LOUDEST_DB


@gate("too calm", harmless=lambda known, *_, **__: known)
def drop_too_calm(known: BoolArray, rate_hz: FloatArray, level_db: FloatArray, *, allowed_db: float) -> BoolArray:
    """Drop frames far calmer than the same machine was at that speed or below it: not the drum's speed then."""
    index = np.flatnonzero(known)
    if index.size == 0:
        return known
    step = np.floor(np.log(rate_hz[index]) / SPEED_STEP).astype(int)
    order = np.argsort(step, kind="stable")
    index, step, level = index[order], step[order], level_db[index[order]]
    calm = np.zeros(index.size, dtype=bool)
    for speed in np.unique(step):
        far, below, here, above, end = np.searchsorted(step, [speed - 6, speed - 1, speed, speed + 1, speed + 2])
        near, slower = np.sort(level[below:end]), np.sort(level[far:below])
        # A bump or a slide makes some slower moments loud: most of them have to be louder.
        expected = near[near.size // 2]
        if slower.size >= 4:
            expected = max(expected, slower[slower.size // 5])
        calm[here:above] = level[here:above] < expected - allowed_db
    out = known.copy()
    out[index[calm]] = False
    return drop_short(out)
