"""Drum speed against time: what a track is, and the track that tacho pulses give."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import scipy

from eager_ear.core.signals.types import TachoSignal
from eager_ear.core.units import BoolArray, FloatArray, IntArray

# Eight a second: a run-up moves by a tenth of a hertz in between, and no technician reads it finer.
FRAME_STEP_S = 0.125
# Half a turn a second: slower than any drum tumbles.
LOWEST_HZ = 0.5
TACHO = "tacho"
# Nine turns a minute in a second: slower change is a control's own hunting.
STEADY_HZ_S = 0.15
# As fast as it gets: within the ripple of a speed control.
TOP_SHARE = 0.98
# What a parabola fitted to so many even values gives at each of them (Savitzky & Golay, Anal. Chem. 36(8), 1964).
PARABOLA_FRAMES = 7
_POWERS = np.vander(np.arange(PARABOLA_FRAMES) - PARABOLA_FRAMES // 2, 3).astype(float)
PARABOLA = _POWERS @ np.linalg.pinv(_POWERS)


@dataclass(frozen=True, kw_only=True)
class SpeedTrack:
    """Drum speed on an even clock.

    t_s : array [shape=(n,), s]; rate_hz : array [shape=(n,), Hz], meaningful where `known`
    known : array [shape=(n,), bool]; sigma_hz : array [shape=(n,), Hz], standard error of `rate_hz`
    source : which sensor the track rests on
    loosely : array [shape=(n,), bool], where the rate is followed, if too loosely to be called known; None for nowhere
    """

    t_s: FloatArray
    rate_hz: FloatArray
    known: BoolArray
    sigma_hz: FloatArray
    source: str
    loosely: BoolArray | None = None

    @property
    def followed(self) -> BoolArray:
        """Where the rate is known or at least loosely followed [shape=(n,)]: enough to find 1x again."""
        return self.known if self.loosely is None else np.asarray(self.known | self.loosely)

    @property
    def max_rpm(self) -> float:
        """Highest speed held for at least a second (97th percentile guards against one bad frame)."""
        rates = self.rate_hz[self.known]
        return float(np.percentile(rates, 97.0) * 60.0) if rates.size else 0.0

    @property
    def max_rpm_sigma(self) -> float:
        """Standard error of the speed where it is as fast as that: of its middle, since frames close by err alike."""
        fast = self.known & (self.rate_hz * 60.0 > TOP_SHARE * self.max_rpm)
        return float(np.median(self.sigma_hz[fast]) * 60.0) if fast.any() else 0.0

    def at(self, t_s: FloatArray) -> FloatArray:
        """Rate at other times [shape like t_s, Hz]; NaN where unknown."""
        rate = np.interp(t_s, self.t_s, self.rate_hz, left=np.nan, right=np.nan)
        nearest = np.clip(np.searchsorted(self.t_s, t_s), 0, self.t_s.size - 1)
        return np.where(self.known[nearest], rate, np.nan)

    def turns_at(self, t_s: FloatArray) -> FloatArray:
        """Revolutions since the start [shape like t_s]; unknown stretches are bridged by straight lines in speed."""
        return np.asarray(np.interp(t_s, self.t_s, self._turns))

    @cached_property
    def _turns(self) -> FloatArray:
        step = np.diff(self.t_s, prepend=self.t_s[0])
        told = self.followed
        filled = np.interp(self.t_s, self.t_s[told], self.rate_hz[told]) if told.any() else self.rate_hz
        mean_rate = 0.5 * (filled + np.concatenate([filled[:1], filled[:-1]]))
        return np.asarray(np.cumsum(mean_rate * step))


def known_spans(known: BoolArray) -> list[IntArray]:
    """Indices of every unbroken known stretch."""
    labels, count = scipy.ndimage.label(known)
    return [np.flatnonzero(labels == k) for k in range(1, count + 1)]


def slope_of(track: SpeedTrack) -> FloatArray:
    """How fast the rate changes, over about half a second [shape=(n,), Hz/s]."""
    return np.asarray(np.gradient(scipy.ndimage.gaussian_filter1d(track.rate_hz, 3.0), track.t_s))


def smooth_known(rate_hz: FloatArray, track: SpeedTrack) -> FloatArray:
    """Local parabolas over seven frames of every known stretch [shape like `rate_hz`]."""
    out = rate_hz.copy()
    half = PARABOLA_FRAMES // 2
    for span in known_spans(track.known):
        if span.size >= PARABOLA_FRAMES:
            rate = rate_hz[span]
            begin = PARABOLA[:half] @ rate[:PARABOLA_FRAMES]
            end = PARABOLA[half + 1 :] @ rate[-PARABOLA_FRAMES:]
            smooth = np.concatenate([begin, np.convolve(rate, PARABOLA[half], mode="valid"), end])
            # A parabola may swing below zero where the drum comes to rest.
            out[span] = np.maximum(smooth, 0.5 * LOWEST_HZ)
    return out


def track_from_pulses(tacho: TachoSignal, *, start_s: float) -> SpeedTrack:
    """Rate between neighbouring pulses, one a revolution, put on the even clock."""
    pulses = tacho.pulse_s + start_s
    middle = 0.5 * (pulses[1:] + pulses[:-1])
    periods = np.diff(pulses)
    t_s = np.arange(pulses[0], pulses[-1], FRAME_STEP_S)
    turning = np.interp(t_s, middle, periods) < 1.0 / (0.5 * LOWEST_HZ)
    return SpeedTrack(
        t_s=t_s,
        rate_hz=np.interp(t_s, middle, 1.0 / periods),
        known=turning,
        sigma_hz=np.full(t_s.size, 1e-3),
        source=TACHO,
    )


def track_points(track: SpeedTrack, *, rests: Sequence[tuple[float, float]] = ()) -> list[list[float]]:
    """The track as `[t_s, rpm]` pairs, known stretches only, and zero where the machine stands."""
    points = [
        [round(float(t), 3), round(float(r) * 60.0, 2)]
        for t, r, k in zip(track.t_s, track.rate_hz, track.known, strict=True)
        if k
    ]
    for begin, end in rests:
        points.extend([[round(float(t), 3), 0.0] for t in np.arange(begin, end, FRAME_STEP_S)])
    return sorted(points)
