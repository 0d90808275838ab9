"""What slows the drum once the motor is off: dw/dt = -(c0 + c1·w + c2·w²).

Fitted in integral form, w(t) - w(0) = -(c0·t + c1·∫w + c2·∫w²), by non-negative least squares: no derivative of a
noisy track is taken (Lawson & Hanson, Solving Least Squares Problems, chapter 23).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.angle import SpeedTrack
from eager_ear.core.signals.speed import Phases
from eager_ear.core.units import FloatArray

# A dozen readings of the rate: fewer tell no curve.
SHORTEST_COAST_S = 1.5
# No drum coasts for five minutes: what is fitted then is drag that cannot be told from none.
LONGEST_COAST_S = 300.0
# Below the slowest speed that is seen the drag is carried on as it was fitted, though grease and seals stick there: a
# twentieth of what is left, and the more the less was seen, is how far off that was on washers of both physics.
UNSEEN_SHARE = 0.05


@dataclass(frozen=True, kw_only=True)
class CoastDownFit:
    """Drag terms [rad/s², 1/s, 1/rad] with standard errors, and what follows from them, likewise."""

    coulomb: float
    viscous: float
    quadratic: float
    sigma: tuple[float, float, float]
    time_to_rest_s: float
    time_sigma_s: float
    turns_to_rest: float
    turns_sigma: float
    extrapolated: bool


def fit_coast_down(track: SpeedTrack, *, phases: Phases) -> CoastDownFit:
    """Fit the final fall of the speed.

    Raises
    ------
    NotMeasurable
        No coast-down in the recording, or too short.
    """
    cut = phases.power_cut_s
    if cut is None:
        raise NotMeasurable(quantity="coast-down", reason="the recording holds no fall from full speed to rest.")
    use = track.known & (track.t_s >= cut + 0.3)
    t_s, w = track.t_s[use], 2 * np.pi * track.rate_hz[use]
    if t_s.size < 8 or t_s[-1] - t_s[0] < SHORTEST_COAST_S or w[-1] > 0.85 * w[0]:
        raise NotMeasurable(quantity="coast-down", reason="too little of the fall was recorded.")
    steps = np.diff(t_s)

    def integral(y: FloatArray) -> FloatArray:
        return np.concatenate([[0.0], np.cumsum(0.5 * (y[1:] + y[:-1]) * steps)])

    basis = np.stack([t_s - t_s[0], integral(w), integral(w**2)], axis=1)
    scale = basis[-1].copy()
    terms, _ = scipy.optimize.nnls(basis / scale, w[0] - w)
    residual = basis / scale @ terms - (w[0] - w)
    # Cumulated regressors leave correlated residuals: a tenth of the points counts as independent.
    variance = float(np.sum(residual**2)) / max(t_s.size / 10.0 - 3.0, 1.0)
    free = np.flatnonzero(terms > 0.0)
    squares = (basis / scale).T @ (basis / scale)
    covariance = np.linalg.pinv(squares) * variance
    held = np.zeros_like(covariance)
    held[np.ix_(free, free)] = np.linalg.pinv(squares[np.ix_(free, free)]) * variance
    c0, c1, c2 = terms / scale
    sigma = np.sqrt(np.maximum(np.diag(covariance), 0.0)) / scale
    start_w = float(np.interp(cut, track.t_s, track.rate_hz)) * 2 * np.pi
    seconds, turns = _run_out(start_w, float(c0), float(c1), float(c2))
    if not np.isfinite(seconds):
        raise NotMeasurable(quantity="coast-down", reason="the fall does not point to a stop.")
    errors = _run_out_errors(start_w, terms / scale, held / np.outer(scale, scale))
    unseen = np.array(_run_out(float(w[-1]), float(c0), float(c1), float(c2)))
    carried_on = UNSEEN_SHARE * unseen * (1.0 + unseen[0] / float(t_s[-1] - cut))
    time_sigma_s, turns_sigma = (float(e) for e in np.hypot(errors, carried_on))
    return CoastDownFit(
        coulomb=float(c0),
        viscous=float(c1),
        quadratic=float(c2),
        sigma=(float(sigma[0]), float(sigma[1]), float(sigma[2])),
        time_to_rest_s=seconds,
        time_sigma_s=time_sigma_s,
        turns_to_rest=turns,
        turns_sigma=turns_sigma,
        extrapolated=bool(w[-1] > 0.1 * w[0]),
    )


def _run_out(start_w: float, c0: float, c1: float, c2: float) -> tuple[float, float]:
    """Seconds and turns from `start_w` to rest under the fitted drag."""
    w: FloatArray = np.linspace(start_w, 0.0, 2001)
    fall = c0 + c1 * w + c2 * w**2
    if fall[-1] <= 1e-3:
        return float("inf"), float("inf")
    seconds = float(np.trapezoid(1.0 / fall[::-1], w[::-1]))
    turns = float(np.trapezoid(w[::-1] / fall[::-1], w[::-1])) / (2 * np.pi)
    return (seconds, turns) if seconds < LONGEST_COAST_S else (float("inf"), float("inf"))


def _run_out_errors(start_w: float, terms: FloatArray, covariance: FloatArray) -> FloatArray:
    """Standard errors of seconds and turns, carried on from the terms' (first order, by differences) [shape=(2,)].

    Parameters
    ----------
    terms : array [shape=(3,)]; covariance : of them [shape=(3, 3)]
    """
    spread = np.sqrt(np.maximum(np.diag(covariance), 0.0))
    slopes, now = np.zeros((2, terms.size)), np.array(_run_out(start_w, *terms))
    # What was held at zero has no say: the others were fitted without it.
    for k in np.flatnonzero((terms > 0.0) & (spread > 0.0)):
        step = np.zeros(terms.size)
        step[k] = min(0.1 * spread[k], 0.1 * terms[k])
        # Forwards: with less drag it might never stop.
        slopes[:, k] = (np.array(_run_out(start_w, *(terms + step))) - now) / step[k]
    return np.asarray(np.sqrt(np.maximum(np.einsum("ij,jk,ik->i", slopes, covariance, slopes), 0.0)))
