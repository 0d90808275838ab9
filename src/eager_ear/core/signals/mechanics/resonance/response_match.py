"""What the sensor saw of the swept response, compared with what spring, damper and cabinet would show.

What spring and damper hold reaches the sensor through the cabinet on its feet, one further resonance above (Ewins,
Modal Testing, 2nd ed., section 2.2); the sensor's noise is added. Compared is the logarithm of the amplitude. The
scale is projected out (Golub & Pereyra, SIAM J. Numer. Anal. 10(2), 1973, variable projection), the cabinet's two
numbers are fitted along: taken from a grid they would hold the damping where they happened to fit it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import scipy

from eager_ear.core.signals.angle import OrderCurves
from eager_ear.core.signals.dsp import by_bin, speed_bins
from eager_ear.core.signals.mechanics.resonance.swept_oscillator import Passage
from eager_ear.core.units import FloatArray

# Where the fit begins: cabinets on their feet rock at 6 to 30 Hz, rubber and floor damp them well; the last stands for
# a rigid one.
CABINET_HZ = np.array([7.0, 12.0, 20.0, 36.0, 150.0])
CABINET_DAMPING = np.array([0.1, 0.25, 0.6])
ABOVE_CRITICAL = 1.25
CABINET_LOG_RANGE = np.log(np.array([[5.0, 0.04], [200.0, 1.0]]))
# The usual cabinet, and how well its two numbers are known beforehand: a factor e^1.4 either way.
CABINET_LOG_USUAL = np.log(np.array([14.0, 0.25]))
CABINET_PRIOR = 0.5
# Where the group hardly moves friction holds it, which a viscous damper does not describe: a frame counts by its share
# of the largest travel, down to a twentieth.
TRAVEL_PERCENTILE = 98
LEAST_WEIGHT = 0.05
SPEED_BINS = 24
MOST_OF_ONE_FRAME = 0.5
# A frame further off than this, in logarithms, counts ever less in the fit.
USUAL_RESIDUAL = 0.2
STEP = 2e-3
MOST_EVALUATIONS = 15
# Relative change of parameters, or of what is left, below which the fit ends.
CLOSE_ENOUGH = 1e-3
# Damping ratios that a suspended group may have.
DAMPING_RANGE = (0.008, 0.6)
# Parameters of the model: critical speed, damping, cabinet's rate and damping, scale.
PARAMETERS = 5


def _weights(rate: FloatArray) -> FloatArray:
    """Equal say for every stretch of log speed, however long the machine lingered there [shape like rate]."""
    bins = speed_bins(rate, SPEED_BINS)
    counts = np.bincount(bins)[bins]
    return np.asarray(1.0 / np.sqrt(counts))


@dataclass(frozen=True)
class Match:
    """How near the model comes: logarithms of critical speed [Hz], damping ratio, cabinet's rate [Hz] and damping
    [shape=(4,)], and the residual [shape=(frames,)]."""

    parameters: FloatArray
    residual: FloatArray

    @property
    def cost(self) -> float:
        return float(_cost(self.residual))


class Comparison:
    """Measured 1x acceleration of one axis over all passages [m/s²] against the model's."""

    def __init__(self, passages: Sequence[Passage], curves: OrderCurves, row: int) -> None:
        self.passages = passages
        self.rate_hz = np.concatenate([p.rate_hz for p in passages])
        self._measured = np.concatenate([np.abs(curves.amplitude_m_s2[row, 0, p.frames]) for p in passages])
        # Amplitude of noise alone, as its mean: `noise_m_s2` is its root mean square.
        self._noise = max(float(curves.noise_m_s2[row]), 1e-9)
        weight = np.concatenate([_weights(p.rate_hz) for p in passages])
        travel = self._measured / self.rate_hz**2
        counts = weight * np.clip(travel / np.percentile(travel, TRAVEL_PERCENTILE), LEAST_WEIGHT, 1.0)
        # Frames overlap: every stretch of log speed counts as one observation, and the less the less it weighs against
        # the others (Kish, Survey Sampling, section 11.7: effective size of a weighted sample).
        stretch = np.concatenate([speed_bins(p.rate_hz, SPEED_BINS) + k * SPEED_BINS for k, p in enumerate(passages)])
        shares = np.bincount(stretch, weights=counts**2)
        self.observations = float(np.sum(shares) ** 2 / np.sum(shares**2))
        self._weight = counts * np.sqrt(self.observations / np.sum(counts**2))
        # Single precision does for logarithms of amplitudes, and takes a quarter of the time.
        self._log_measured = np.log(self._measured + 1e-12).astype(np.float32)
        # A quiet frame says little about the logarithm of what lies under its noise.
        self._sure = (self._weight * self._measured / np.hypot(self._measured, self._noise)).astype(np.float32)
        # Scale by the loud frames, where noise does not matter, then the noise is added to all.
        loud = (self._weight * (self._measured > 2.0 * self._noise)) ** 2
        self._loud = (loud / max(float(loud.sum()), 1e-12)).astype(np.float32)

    @property
    def freedom(self) -> float:
        return max(self.observations - PARAMETERS, 1.0)

    def fit(self, *, critical_hz: FloatArray, dampings: Sequence[float], within_hz: tuple[float, float]) -> Match:
        """The closest model whose critical speed lies within a range.

        Parameters
        ----------
        critical_hz, dampings : where to look first [shape=(k,)]
        """
        start = self._best_of(critical_hz, dampings)
        spread = max(float(np.sum(start.residual**2)) / self.freedom, 1e-4)
        known = np.sqrt(CABINET_PRIOR * spread)

        def residuals(at: FloatArray) -> FloatArray:
            return np.append(self._residual_at(at), known * (at[2:] - CABINET_LOG_USUAL))

        lowest = np.array([np.log(within_hz[0]), np.log(DAMPING_RANGE[0]), *CABINET_LOG_RANGE[0]])
        highest = np.array([np.log(within_hz[1]), np.log(DAMPING_RANGE[1]), *CABINET_LOG_RANGE[1]])
        found = scipy.optimize.least_squares(
            residuals,
            np.clip(start.parameters, lowest + 1e-6, highest - 1e-6),
            jac=lambda at: np.vstack([self._slopes(at), known * np.eye(2, 4, 2)]),
            bounds=(lowest, highest),
            loss="soft_l1",
            f_scale=USUAL_RESIDUAL,
            ftol=CLOSE_ENOUGH,
            xtol=CLOSE_ENOUGH,
            max_nfev=MOST_EVALUATIONS,
        )
        return Match(found.x, self._residual_at(found.x))

    def standard_errors(self, match: Match) -> FloatArray:
        """Standard errors of the logarithms of critical speed and damping, cabinet and scale unknown [shape=(2,)]."""
        slopes = self._slopes(match.parameters)
        variance = float(np.sum(match.residual**2)) / self.freedom * self._repeats(match.residual)
        information = slopes.T @ slopes / max(variance, 1e-12) + np.diag([0.0, 0.0, CABINET_PRIOR, CABINET_PRIOR])
        try:
            return np.asarray(np.sqrt(np.maximum(np.diag(np.linalg.inv(information))[:2], 0.0)))
        except np.linalg.LinAlgError:
            return np.array([np.inf, np.inf])

    def _best_of(self, critical_hz: FloatArray, dampings: Sequence[float]) -> Match:
        """The closest of a grid, every cabinet tried."""
        cabinets = _log_cabinet(self.rate_hz, CABINET_HZ[:, None], CABINET_DAMPING[:, None, None])
        cabinet_power = np.exp(2.0 * cabinets).astype(np.float32)
        cabinet_loud = (cabinets @ self._loud).astype(np.float32)
        best, least = None, np.inf
        for f0 in critical_hz:
            allowed = np.flatnonzero(ABOVE_CRITICAL * f0 < CABINET_HZ)
            for damping in dampings:
                held = self._held(np.log([f0, damping]))
                scale = (self._log_measured - held) @ self._loud - cabinet_loud[:, allowed].ravel()
                shown = cabinet_power[:, allowed].reshape(-1, self.rate_hz.size) * np.exp(np.float32(2.0) * held)
                residuals = self._residual(shown * np.exp(np.float32(2.0) * scale)[:, None])
                costs = _cost(residuals)
                k = int(np.argmin(costs))
                if best is None or costs[k] < least:
                    cabinet = (CABINET_HZ[allowed[k % allowed.size]], CABINET_DAMPING[k // allowed.size])
                    best, least = Match(np.log([f0, damping, *cabinet]), residuals[k]), float(costs[k])
        if best is None:
            raise ValueError("no critical speed to try")
        return best

    def _held(self, parameters: FloatArray) -> FloatArray:
        f0, damping = float(np.exp(parameters[0])), float(np.exp(parameters[1]))
        return np.concatenate([p.log_held(f0, damping) for p in self.passages])

    def _residual(self, power: FloatArray) -> FloatArray:
        """Weighted difference of the logarithms, the sensor's noise added to the model's power [shape like it]."""
        logarithm = np.log(power + np.float32(self._noise**2))
        return np.asarray((np.float32(0.5) * logarithm - self._log_measured) * self._sure)

    def _shown(self, at: FloatArray) -> FloatArray:
        """Logarithm of the model at four parameters, at the scale that suits them best [shape=(frames,)]."""
        shown = self._held(at) + _log_cabinet(self.rate_hz, np.exp(at[2]), np.exp(at[3]))
        return np.asarray(shown + (self._log_measured - shown) @ self._loud)

    def _residual_at(self, at: FloatArray) -> FloatArray:
        """Residual at four parameters, at the scale that suits them best [shape=(frames,)]."""
        return self._residual(np.exp(2.0 * self._shown(at)).astype(np.float32))

    def _slopes(self, at: FloatArray) -> FloatArray:
        """Change of the residual with each parameter, its scale along [shape=(frames, 4)]."""
        shown = self._shown(at)
        held = self._held(at)
        # What spring and damper hold is marched, so by differences; the cabinet in closed form.
        changes = [(self._held(at + step) - held) / STEP for step in STEP * np.eye(2, 4)]
        slopes = np.stack([*changes, *_cabinet_slopes(self.rate_hz, np.exp(at[2]), np.exp(at[3]))], axis=1)
        slopes = slopes - self._loud @ slopes
        power = np.exp(2.0 * shown)
        counts = self._sure * power / (power + self._noise**2)
        return np.asarray(counts[:, None] * slopes)

    def _repeats(self, residual: FloatArray) -> float:
        """How many stretches of log speed say the same: (1 + q)/(1 - q) for a correlation q between neighbours."""
        product = power = 0.0
        begin = 0
        for passage in self.passages:
            span = slice(begin, begin + passage.rate_hz.size)
            begin = span.stop
            _, means = by_bin(residual[span] / self._weight[span], speed_bins(passage.rate_hz, SPEED_BINS))
            product += float(np.sum(means[1:] * means[:-1]))
            power += float(np.sum(means**2))
        correlation = float(np.clip(product / max(power, 1e-12), 0.0, 0.9))
        return (1.0 + correlation) / (1.0 - correlation)


def _cost(residual: FloatArray) -> FloatArray:
    """Sum of squares over the frames; a wild one counts no more than so much [shape without the last axis]."""
    return np.asarray(np.minimum(residual**2, MOST_OF_ONE_FRAME).sum(axis=-1))


def _log_cabinet(rate_hz: FloatArray, cabinet_hz: FloatArray | float, damping: FloatArray | float) -> FloatArray:
    """Logarithm of what a cabinet passes on of what it is shaken with [broadcast over its arguments]."""
    ratio = rate_hz / cabinet_hz
    return np.asarray(np.log(ratio**2 / np.sqrt((1 - ratio**2) ** 2 + (2 * damping * ratio) ** 2)))


def _cabinet_slopes(rate_hz: FloatArray, cabinet_hz: float, damping: float) -> tuple[FloatArray, FloatArray]:
    """Change of `_log_cabinet` with the logarithms of the cabinet's rate and damping [shape=(frames,) each]."""
    squared = (rate_hz / cabinet_hz) ** 2
    damped = (2.0 * damping) ** 2 * squared
    whole = (1.0 - squared) ** 2 + damped
    return np.asarray((damped - 2.0 * squared * (1.0 - squared)) / whole - 2.0), np.asarray(-damped / whole)
