"""How far a track that rests on sound is off as a whole.

Lines of a motor follow every change of speed, but which multiple of the drum's rate they stand at is learnt from the
track itself, so a common error of all rates stays. What the drum does once per turn tells it: laid over drum angle, the
low sound and the modulation of the noise stand at the orders 1, 2 and 3 exactly. The evidence is that of tones of
unknown strength in noise, summed over segments and orders, and with it comes a standard error (Bayesian; Bretthorst,
Bayesian Spectrum Analysis and Parameter Estimation, 1988, chapter 2).
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from eager_ear.core.signals.angle import OrderFamily, SpeedTrack, TurnLines, turn_lines
from eager_ear.core.signals.dsp import (
    LowBand,
    by_bin,
    speed_bins,
)
from eager_ear.core.units import FloatArray

# Error of tracks by the combs over sound alone, of which most is common to all moments.
PRIOR_SIGMA = 0.008
OFFSETS = np.arange(-0.03, 0.03001, 0.0005)
DRUM_ORDERS = (1, 2, 3)
# Long segments resolve, short ones hold together where the track wanders.
SEGMENTS_TURNS = (128, 256)
SPEED_BINS = 4
# A line that is clear in one segment is clear; more of it says nothing about where it stands in the others.
LARGEST_NATS = 4.0
# How well a learnt order is known, and how often a strong line of a direct drive is its motor's. Motors have four poles
# and more; what is slower is the drum's, and broad.
ORDER_SIGMA = 0.03
ORDER_SIGMA_SHARE = 0.001
MOTOR_SHARE = 0.8
MOTOR_LINES = 6
LEAST_MOTOR_ORDER = 3.5


@dataclass(frozen=True, kw_only=True)
class TrackScale:
    """The drum turned `factor` times as fast as the track says; `sigma` is the factor's standard error."""

    factor: float
    sigma: float


def find_scale(low: LowBand, track: SpeedTrack, *, whole_orders: FloatArray | None = None) -> TrackScale:
    """Common factor of a track that rests on sound; one, with the error of such tracks, where nothing tells it.

    Parameters
    ----------
    whole_orders : orders learnt from a motor that turns with the drum: its lines stand at whole orders
    """
    slow, slow_rate_hz = low.slow
    evidence = np.zeros(OFFSETS.size)
    for values, rate_hz in ((slow, slow_rate_hz), (low.modulation, low.level_rate_hz)):
        for turns in SEGMENTS_TURNS:
            lines = turn_lines(values, track, rate_hz=rate_hz, start_s=low.start_s, turns=turns)
            evidence += _drum_evidence(lines) / len(SEGMENTS_TURNS)
    if whole_orders is not None:
        evidence += _whole_evidence(whole_orders)
    return _estimate(evidence)


def rescaled(track: SpeedTrack, scale: TrackScale) -> SpeedTrack:
    """The track at another scale, whose error is part of every rate's."""
    rate_hz = scale.factor * track.rate_hz
    return replace(track, rate_hz=rate_hz, sigma_hz=np.hypot(scale.factor * track.sigma_hz, scale.sigma * rate_hz))


def rescaled_family(family: OrderFamily, scale: TrackScale) -> OrderFamily:
    """The same lines as multiples of the corrected rate."""
    return replace(family, orders=family.orders / scale.factor)


def _drum_evidence(lines: TurnLines) -> FloatArray:
    """Log-likelihood ratio of every offset [shape=(offsets,)], ranges of speed counting alike.

    A tone of the room stands at one order as long as the speed stays; it must not win by the length of the plateau.
    """
    if not lines.rate_hz.size:
        return np.zeros(OFFSETS.size)
    # A line's log-likelihood, less what noise shows on average.
    strength = np.minimum(np.log1p(lines.ratio) - 0.6, LARGEST_NATS)
    at = np.outer(DRUM_ORDERS, 1.0 + OFFSETS)
    reads = np.array([np.interp(at, lines.order, row).sum(axis=0) for row in strength])
    _, means = by_bin(reads, speed_bins(lines.rate_hz, SPEED_BINS))
    # Segments overlap by half: two of them say what one says.
    return np.asarray(np.mean(means, axis=0) * 0.5 * lines.rate_hz.size)


def _whole_evidence(orders: FloatArray) -> FloatArray:
    """Log-likelihood of every offset when the lines stand at whole orders, or somewhere else now and then."""
    moved = np.outer(1.0 / (1.0 + OFFSETS), orders[orders > LEAST_MOTOR_ORDER][:MOTOR_LINES])
    off = moved - np.rint(moved)
    sigma = np.hypot(ORDER_SIGMA, ORDER_SIGMA_SHARE * moved)
    density = np.exp(-0.5 * (off / sigma) ** 2) / (sigma * np.sqrt(2.0 * np.pi))
    return np.asarray(np.log(1.0 - MOTOR_SHARE + MOTOR_SHARE * density).sum(axis=1))


def _estimate(evidence: FloatArray) -> TrackScale:
    posterior = evidence - 0.5 * (OFFSETS / PRIOR_SIGMA) ** 2
    weight = np.exp(posterior - posterior.max())
    weight /= weight.sum()
    offset = float(np.sum(weight * OFFSETS))
    step = float(OFFSETS[1] - OFFSETS[0])
    variance = float(np.sum(weight * (OFFSETS - offset) ** 2)) + step**2 / 12.0
    return TrackScale(factor=1.0 + offset, sigma=float(np.sqrt(variance)))
