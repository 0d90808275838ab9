"""What the sensor saw of the swept response, compared with what spring, damper and cabinet would show.

What spring and damper hold reaches the sensor through the cabinet on its feet, one further resonance above, which is
fitted along (Ewins, Modal Testing, 2nd ed., section 2.2), as is the sensor's noise. Compared is the logarithm of the
amplitude; the cabinet's two numbers and the scale are projected out (Golub & Pereyra, SIAM J. Numer. Anal. 10(2),
1973, variable projection).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from eager_ear.core.signals.orders import OrderCurves
from eager_ear.core.signals.swept_response import Passage
from eager_ear.core.units import FloatArray, IntArray

# Cabinets on their feet rock at 6 to 30 Hz; rubber and floor damp them well. The last stands for a rigid one.
CABINET_HZ = np.append(np.geomspace(6.0, 40.0, 13), 150.0)
CABINET_DAMPING = np.array([0.08, 0.16, 0.32, 0.64])
ABOVE_CRITICAL = 1.25
# How well those two numbers are known beforehand, as a factor e^1.4 either way.
CABINET_PRIOR = 0.5
# Where the group hardly moves friction holds it, which a viscous damper does not describe: a frame counts by its share
# of the largest travel, down to a twentieth.
TRAVEL_PERCENTILE = 98
LEAST_WEIGHT = 0.05
SPEED_BINS = 25
MOST_OF_ONE_FRAME = 0.5
# Parameters of the model: critical speed, damping, cabinet's rate and damping, scale.
PARAMETERS = 5


def _weights(rate: FloatArray) -> FloatArray:
    """Equal say for every stretch of log speed, however long the machine lingered there [shape like rate]."""
    bins = _speed_bins(rate)
    counts = np.bincount(bins, minlength=SPEED_BINS + 2)[bins]
    return np.asarray(1.0 / np.sqrt(counts))


def _speed_bins(rate: FloatArray) -> IntArray:
    return np.digitize(np.log(rate), np.linspace(np.log(rate.min()), np.log(rate.max()) + 1e-9, SPEED_BINS))


@dataclass(frozen=True)
class Match:
    """How near the model comes: residual [shape=(frames,)], logarithms of the cabinet's two numbers and the scale."""

    residual: FloatArray
    cabinet_log: tuple[float, float]
    scale_log: float

    @property
    def cost(self) -> float:
        return float(_cost(self.residual))


class Comparison:
    """Measured 1x acceleration of one axis over all passages [m/s²] against the model's.

    Parameters of the model are the logarithms of critical speed [Hz] and damping ratio [shape=(2,)].
    """

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
        stretch = np.concatenate([_speed_bins(p.rate_hz) + k * SPEED_BINS for k, p in enumerate(passages)])
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
        cabinets = _log_cabinet(self.rate_hz, CABINET_HZ[:, None], CABINET_DAMPING[:, None, None])
        self._cabinet_power = np.exp(2.0 * cabinets).astype(np.float32)
        self._cabinet_loud = (cabinets @ self._loud).astype(np.float32)

    @property
    def freedom(self) -> float:
        return max(self.observations - PARAMETERS, 1.0)

    def best_of(self, f0: FloatArray, dampings: Sequence[float]) -> FloatArray:
        """The closest parameters of a grid, every fourth cabinet tried [shape=(2,)]."""
        grid = [np.array([np.log(f), np.log(damping)]) for f in f0 for damping in dampings]
        return min(grid, key=lambda parameters: self.closest(parameters, every=4).cost)

    def closest(self, parameters: FloatArray, *, every: int = 1) -> Match:
        """Best scale and best of every so many cabinets taken for these parameters."""
        above = np.flatnonzero(ABOVE_CRITICAL * np.exp(parameters[0]) < CABINET_HZ)
        allowed = above[(above.size - 1) % every :: every]
        held = self._held(parameters)
        scale = (self._log_measured - held) @ self._loud - self._cabinet_loud[:, allowed].ravel()
        shown = self._cabinet_power[:, allowed].reshape(-1, self.rate_hz.size) * np.exp(np.float32(2.0) * held)
        residuals = self._residual(shown * np.exp(np.float32(2.0) * scale)[:, None])
        k = int(np.argmin(_cost(residuals)))
        damping, rate = CABINET_DAMPING[k // allowed.size], CABINET_HZ[allowed[k % allowed.size]]
        return Match(residuals[k], (float(np.log(rate)), float(np.log(damping))), float(scale[k]))

    def standard_errors(self, parameters: FloatArray, match: Match) -> FloatArray:
        """Standard errors of the two logarithms at their match, cabinet and scale unknown as they are [shape=(2,)]."""
        at = np.array([*parameters, *match.cabinet_log, match.scale_log])
        steps = np.array([2e-3, 2e-3, 1e-2, 1e-2, 1e-2])
        columns = [self._residual_at(at + step) - match.residual for step in np.diag(steps)]
        jacobian = np.stack(columns, axis=1) / steps
        variance = float(np.sum(match.residual**2)) / self.freedom * self._repeats(match.residual)
        information = jacobian.T @ jacobian / max(variance, 1e-12)
        information += np.diag([0.0, 0.0, CABINET_PRIOR, CABINET_PRIOR, 0.0])
        try:
            return np.asarray(np.sqrt(np.maximum(np.diag(np.linalg.inv(information))[:2], 0.0)))
        except np.linalg.LinAlgError:
            return np.array([np.inf, np.inf])

    def _held(self, parameters: FloatArray) -> FloatArray:
        f0, damping = float(np.exp(parameters[0])), float(np.exp(parameters[1]))
        return np.concatenate([p.log_held(f0, damping) for p in self.passages])

    def _residual(self, power: FloatArray) -> FloatArray:
        """Weighted difference of the logarithms, the sensor's noise added to the model's power [shape like it]."""
        logarithm = np.log(power + np.float32(self._noise**2))
        return np.asarray((np.float32(0.5) * logarithm - self._log_measured) * self._sure)

    def _residual_at(self, at: FloatArray) -> FloatArray:
        cabinet = _log_cabinet(self.rate_hz, np.exp(at[2]), np.exp(at[3]))
        return self._residual(np.exp(2.0 * (self._held(at[:2]) + cabinet + at[4])).astype(np.float32))

    def _repeats(self, residual: FloatArray) -> float:
        """How many stretches of log speed say the same: (1 + q)/(1 - q) for a correlation q between neighbours."""
        product = power = 0.0
        begin = 0
        for passage in self.passages:
            span = slice(begin, begin + passage.rate_hz.size)
            begin = span.stop
            bins = _speed_bins(passage.rate_hz)
            error = residual[span] / self._weight[span]
            means = np.bincount(bins, weights=error)[np.unique(bins)] / np.bincount(bins)[np.unique(bins)]
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
