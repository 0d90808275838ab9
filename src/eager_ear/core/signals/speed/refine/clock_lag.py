"""One clock for sound and vibration: how far the noted start of the sound recording is off.

While the speed changes, the machine's orders lie at the right place in the sound's spectrum only when the vibration's
track is read at the right moment. The lag that puts most line strength on the orders is the lag between the clocks:
a cross-correlation of both sensors' view of the speed. Phase sharpens it: where the speed changes by c Hz a second, a
clock that is d seconds off shows a rate that is c·d off. Errors come from leaving out one stretch at a time (jackknife;
Efron & Tibshirani, An Introduction to the Bootstrap, chapter 11).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import scipy

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.angle import OrderFamily, SpeedTrack, slope_of
from eager_ear.core.signals.dsp import (
    LowBand,
    peak_centre,
)
from eager_ear.core.signals.speed.refine.rate_readings import FRAMES_A_READING, RateReading
from eager_ear.core.units import FloatArray, IntArray

# Somebody starts two devices within a second or so of what he notes.
LONGEST_LAG_S = 1.5
# A quarter of a frame of the track.
LAG_STEP_S = 0.03
# At a steady speed every lag looks alike.
LEAST_SLOPE_HZ_S = 0.3
# Three seconds of changing speed, half a second for each block.
FEWEST_FRAMES = 24
# Left out one at a time for the error (jackknife; Efron, SIAM monograph 38, 1982).
BLOCKS = 6
# Peak over the scatter of all other lags: a hundred lags are tried, four standard deviations leave one in a hundred.
LEAST_STAND_OUT = 4.0
LARGEST_SIGMA_S = 0.15
# How well an order is learnt from steady turning, and how much a belt's creep moves it between regimes.
ORDER_SIGMA_SHARE = 0.003
CREEP_SIGMA_SHARE = 0.01
# Vibration must tell the rate this well, and is taken to be no better: what is common to all its readings is not seen.
LARGEST_RATE_SIGMA_SHARE = 0.02
LEAST_RATE_SIGMA_HZ = 0.01
OUTLIER_SIGMAS = 4.0
LEAST_LAG_SIGMA_S = 0.004


@dataclass(frozen=True, kw_only=True)
class ClockLag:
    """The sound began `lag_s` later than noted; `sigma_s` its standard error."""

    lag_s: float
    sigma_s: float


def find_lag(low: LowBand, track: SpeedTrack, family: OrderFamily) -> ClockLag:
    """Lag of the sound's clock against the track's.

    Raises
    ------
    NotMeasurable
        Too little of the run-up or coast-down is known, or no lag stands out.
    """
    lags = np.arange(-LONGEST_LAG_S, LONGEST_LAG_S + 1e-9, LAG_STEP_S)
    seen = [_scores(low, track, family, lags, part) for part in range(len(low.spectra))]
    blocks = np.sum([s for s in seen if s is not None], axis=0)
    if all(s is None for s in seen):
        raise NotMeasurable(quantity="clock lag", reason="too little of the run-up or coast-down is known.")
    total = blocks.sum(axis=0)
    best = _peak(total, lags)
    away = np.abs(lags - best) > 0.3
    stand_out = float((total.max() - total[away].mean()) / max(float(total[away].std()), 1e-9))
    left_out = np.array([_peak(total - block, lags) for block in blocks])
    sigma = float(np.sqrt((BLOCKS - 1) / BLOCKS * np.sum((left_out - left_out.mean()) ** 2)))
    if stand_out < LEAST_STAND_OUT or sigma > LARGEST_SIGMA_S:
        raise NotMeasurable(quantity="clock lag", reason="sound and vibration show no common change of speed.")
    return ClockLag(lag_s=best, sigma_s=float(np.hypot(sigma, 0.3 * LAG_STEP_S)))


def _scores(low: LowBand, track: SpeedTrack, family: OrderFamily, lags: FloatArray, part: int) -> FloatArray | None:
    """Line strength on the orders [shape=(BLOCKS, lags)], frames of changing speed only; None with too few."""
    frames = low.spectra[part]
    slope = slope_of(track)
    index = np.clip(np.searchsorted(track.t_s, frames.t_s), 0, track.t_s.size - 1)
    moving = track.known[index] & (np.abs(slope[index]) > LEAST_SLOPE_HZ_S)
    if moving.sum() < FEWEST_FRAMES:
        return None
    rows = np.flatnonzero(moving)
    out = np.zeros((BLOCKS, lags.size))
    block = np.arange(rows.size) * BLOCKS // rows.size
    lines = scipy.ndimage.gaussian_filter1d(frames.lines[rows], 1.0, axis=1)
    # Beyond the last bin nothing is known: one more, of zero, stands for that.
    lines = np.pad(lines, ((0, 0), (0, 1)))
    last, first = lines.shape[1] - 1, np.arange(rows.size) * lines.shape[1]
    bins = np.interp(frames.t_s[rows] + lags[:, None], track.t_s, track.rate_hz) / frames.bin_hz
    strength = np.zeros(bins.shape)
    for order, weight in zip(family.orders, family.weights, strict=True):
        strength += weight * lines.take(first + np.minimum(np.rint(order * bins), last).astype(int))
    for k in range(BLOCKS):
        out[k] = strength[:, block == k].sum(axis=1)
    return out


def _peak(score: FloatArray, lags: FloatArray) -> float:
    best = int(np.argmax(score))
    near = slice(max(0, best - 4), best + 5)
    centre = float(peak_centre(score[near], lags[near], above=score[near].min(), power=2))
    return centre if np.isfinite(centre) else float(lags[best])


def sharpened_lag(track: SpeedTrack, readings: Sequence[RateReading], *, regime: IntArray, sigma_s: float) -> ClockLag:
    """How much later than noted the sound began, from the rates that its lines tell beside those of the vibration.

    Weighted least squares for the lag and, for every line and regime, a share by which its order is off.

    Parameters
    ----------
    track : rests on vibration alone
    readings : of lines in the sound, read along the track
    regime : array [shape=(frames,)], in which a belt's creep stays the same; all alike without a belt
    sigma_s : standard error of the noted start [s]

    Raises
    ------
    NotMeasurable
        Too few readings while the speed changes.
    """
    slope = slope_of(track)
    frame, column, error, sigma = _stacked(track, readings, regime)
    if np.unique(frame[np.abs(slope[frame]) > LEAST_SLOPE_HZ_S]).size < FEWEST_FRAMES:
        raise NotMeasurable(quantity="clock lag", reason="too little of the run-up or coast-down is known.")
    regimes = int(regime.max()) + 1
    design = np.zeros((frame.size, 1 + len(readings) * regimes))
    design[:, 0] = slope[frame]
    design[np.arange(frame.size), 1 + column] = track.rate_hz[frame]
    share_sigma = ORDER_SIGMA_SHARE if regimes == 1 else CREEP_SIGMA_SHARE
    prior = np.diag(np.append(1.0 / sigma_s**2, np.full(design.shape[1] - 1, 1.0 / share_sigma**2)))
    weight = 1.0 / (FRAMES_A_READING * sigma**2)

    def solved(weight: FloatArray) -> FloatArray:
        normal = design.T @ (weight[:, None] * design) + prior
        return np.asarray(np.linalg.solve(normal, design.T @ (weight * error)))

    for _ in range(3):
        off = (error - design @ solved(weight)) / sigma
        weight = 1.0 / (FRAMES_A_READING * sigma**2 * np.maximum(1.0, np.abs(off) / OUTLIER_SIGMAS) ** 2)
    block = np.argsort(np.argsort(frame, kind="stable")) * BLOCKS // frame.size
    left_out = np.array([solved(np.where(block == k, 0.0, weight))[0] for k in range(BLOCKS)])
    sigma_lag = float(np.sqrt((BLOCKS - 1) / BLOCKS * np.sum((left_out - left_out.mean()) ** 2)))
    return ClockLag(lag_s=float(solved(weight)[0]), sigma_s=float(np.hypot(sigma_lag, LEAST_LAG_SIGMA_S)))


def _stacked(
    track: SpeedTrack, readings: Sequence[RateReading], regime: IntArray
) -> tuple[IntArray, IntArray, FloatArray, FloatArray]:
    """All readings where the track is known well: frame, line and regime, error and its sigma [shape=(n,) each, Hz]."""
    known = track.known & (track.sigma_hz < LARGEST_RATE_SIGMA_SHARE * track.rate_hz)
    uses = [np.flatnonzero(known & np.isfinite(reading.sigma_hz)) for reading in readings]
    sigma_hz = [
        np.sqrt(reading.sigma_hz[use] ** 2 + track.sigma_hz[use] ** 2 + LEAST_RATE_SIGMA_HZ**2)
        for reading, use in zip(readings, uses, strict=True)
    ]
    return (
        np.concatenate(uses),
        np.concatenate([k * (int(regime.max()) + 1) + regime[use] for k, use in enumerate(uses)]),
        np.concatenate([reading.error_hz[use] for reading, use in zip(readings, uses, strict=True)]),
        np.concatenate(sigma_hz),
    )
