"""What a heavy drum can do between two readings: smoothing of the speed track.

Programs hold a speed or ramp it, and a drum let go falls steadily: the slope of the speed hardly drifts, but now and
then turns a corner. So the second differences follow a Student distribution, and the readings too, each with its own
standard error: a stretch read badly, such as the jump over the critical speed where the once-per-turn motion is mostly
ringing, is carried by its neighbours. Smoothing by second differences: Whittaker, Proc. Edinburgh Math. Soc. 41, 1923;
corners kept by heavy tails, solved by reweighting: Lange, Little & Taylor, J. Am. Stat. Assoc. 84(408), 1989.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import scipy

from eager_ear.core.signals.angle import FRAME_STEP_S, SpeedTrack, known_spans
from eager_ear.core.signals.speed.refine.rate_readings import FRAMES_A_READING
from eager_ear.core.signals.speed.search.plausible_spans import drop_short
from eager_ear.core.units import BoolArray, FloatArray

# Drift of the slope between corners [Hz²/s³]: hunting and a coast-down's bend, a few hundredths of a Hz/s in a second.
# Corners turn a ramp into a plateau, 1.5 Hz/s, within about a second: the tails must hold those.
SLOPE_DRIFT = 0.02
START_SHARE = 100.0
TAIL_BEND = 1.0
TAIL_READING = 4.0
# Readings are hardly doubted within so many of their standard errors. Frames without one are all but free: the little
# that they weigh keeps the equations from being singular.
OUTLIER_SIGMAS = 5.0
UNSEEN_TRUST = 1e-6
ROUNDS = 5
# Products of the second difference's weights 1, -2, 1, by their places.
SECOND_DIFFERENCE = {(0, 0): 1.0, (1, 1): 4.0, (2, 2): 1.0, (1, 0): -2.0, (2, 1): -2.0, (2, 0): 1.0}
LONGEST_BRIDGE_S = 2.5
LARGEST_SIGMA_SHARE = 0.015
# What is stated in the end: a little less than what is worked with. But where less than so much of the recording would
# be known, a rate known half as well is worth more than none.
STATED_SIGMA_SHARE = 0.011
FAINT_SIGMA_SHARE = 0.026
FAINT_SHARE = 0.45
LOOSEST_SIGMA_SHARE = 0.07


def smoothed(track: SpeedTrack) -> SpeedTrack:
    """The track smoothed within its known stretches and carried over short gaps as far as its error stays small."""
    loosely = track.known.copy()
    bridge = int(LONGEST_BRIDGE_S / FRAME_STEP_S)
    joined = (
        scipy.ndimage.binary_closing(np.pad(track.known, bridge), iterations=bridge // 2)[bridge:-bridge] | track.known
    )
    rate, sigma = track.rate_hz.copy(), track.sigma_hz.copy()
    for span in known_spans(joined):
        if span.size < 8:
            continue
        seen = track.known[span]
        rate[span], sigma[span] = _smooth(track.rate_hz[span], track.sigma_hz[span], seen)
        loosely[span] = sigma[span] < LOOSEST_SIGMA_SHARE * rate[span]
    loosely = drop_short(loosely)
    # A rate that is known worse than its limit is followed, but not known.
    known = drop_short(loosely & (sigma < LARGEST_SIGMA_SHARE * rate))
    return SpeedTrack(t_s=track.t_s, rate_hz=rate, known=known, sigma_hz=sigma, source=track.source, loosely=loosely)


def stated(track: SpeedTrack) -> SpeedTrack:
    """The track as it is handed on: known where its error is small, in a faint test where it is not large."""
    followed, share = track.followed, track.sigma_hz / np.maximum(track.rate_hz, 1e-9)
    known = followed & (share < STATED_SIGMA_SHARE)
    if known.mean() < FAINT_SHARE:
        known = followed & (share < FAINT_SIGMA_SHARE)
    return replace(track, known=drop_short(known), loosely=followed)


def _smooth(rate_hz: FloatArray, sigma_hz: FloatArray, seen: BoolArray) -> tuple[FloatArray, FloatArray]:
    """Smoothed rate and its standard error [shape=(n,)]."""
    n = rate_hz.size
    sigma_hz = np.maximum(sigma_hz, 1e-4)
    reading = np.where(seen, 1.0 / (FRAMES_A_READING * sigma_hz**2), UNSEEN_TRUST)
    bend2 = SLOPE_DRIFT * FRAME_STEP_S**3
    stiff, trust = np.full(n - 2, 1.0 / START_SHARE / bend2), reading
    out: FloatArray = rate_hz
    covariance: FloatArray = np.zeros((3, n))
    for _ in range(ROUNDS):
        banded = np.zeros((3, n))
        for (above, below), product in SECOND_DIFFERENCE.items():
            banded[above - below, below : below + n - 2] += product * stiff
        banded[0] += trust
        factor = scipy.linalg.cholesky_banded(banded, lower=True)
        covariance = _inverse_band(factor)
        out = scipy.linalg.cho_solve_banded((factor, True), trust * rate_hz)
        off = (rate_hz - out) / (OUTLIER_SIGMAS * sigma_hz)
        trust = reading * (TAIL_READING + 1.0) / (TAIL_READING + off**2)
        bend = out[2:] - 2.0 * out[1:-1] + out[:-2]
        stiff = (TAIL_BEND + 1.0) / (TAIL_BEND + (bend**2 + _variance_of_bend(covariance)) / bend2) / bend2
    return np.maximum(out, 0.0), np.sqrt(np.maximum(covariance[0], 1e-10))


def _inverse_band(factor: FloatArray) -> FloatArray:
    """The inverse's own diagonal and the two below it, from a banded Cholesky factor [shape=(3, n), lower form].

    Time and memory grow with n alone (Takahashi, Fagan & Chin, 8th PICA Conf., 1973; Erisman & Tinney, Comm. ACM
    18(3), 1975).
    """
    own, below, further = factor
    first, second, own2 = (below / own).tolist(), (further / own).tolist(), (1.0 / own**2).tolist()
    # Of the next two places: their variances, and the covariance between them.
    next_, after, between = 0.0, 0.0, 0.0
    band: tuple[list[float], list[float], list[float]] = ([], [], [])
    keep0, keep1, keep2 = (diagonal.append for diagonal in band)
    for l1, l2, own_variance in zip(first[::-1], second[::-1], own2[::-1], strict=True):
        c1 = -(l1 * next_ + l2 * between)
        c2 = -(l1 * between + l2 * after)
        c0 = own_variance - l1 * c1 - l2 * c2
        keep0(c0)
        keep1(c1)
        keep2(c2)
        next_, after, between = c0, next_, c1
    return np.array(band)[:, ::-1]


def _variance_of_bend(covariance: FloatArray) -> FloatArray:
    """Variance of every second difference, from the covariance's diagonals [shape=(n - 2,)]."""
    d0, d1, d2 = covariance
    return np.asarray(d0[2:] + 4.0 * d0[1:-1] + d0[:-2] - 4.0 * (d1[1:-1] + d1[:-2]) + 2.0 * d2[:-2])
