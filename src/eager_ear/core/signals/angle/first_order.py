"""What a sensor shows once per turn, as a complex amplitude over time: order tracking by the drum's own angle.

Cosine and sine of the drum's angle are fitted over a sliding Hann window by least squares (the sliding form of the
three-parameter sine fit, IEEE Std 1057). Plain demodulation would do where the drum turns fast: but a real line has a
alias at the negative rate, which lies within the window where the drum turns slowly, and where the sampling
folds it back; and a window with a gap in it sees too little. The fit takes out both.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from eager_ear.core.signals.angle.track import SpeedTrack
from eager_ear.core.signals.dsp import block_means, hann, turned_back
from eager_ear.core.units import ComplexArray, FloatArray, Span, within

# How much must be left of a window that lies in spoilt stretches, or cannot tell a line from its alias.
LEAST_TOLD = 0.4
BLOCKS_A_WINDOW = 8
# So many bandwidths off a Hann window shows less than a thousandth of a line.
BESIDE_BANDWIDTHS = 3.0


@dataclass(frozen=True, kw_only=True)
class OncePerTurn:
    """Once-per-turn part of several signals.

    base : array [shape=(rows, values), complex, half the peak] at `t_s` [s], `step_s` apart
    reach : so many values are half a window
    noise : array [shape=(values,)], variance that noise gives each part of `base`, real and imaginary, in all rows
        together; inf where the window cannot tell
    """

    t_s: FloatArray
    step_s: float
    base: ComplexArray
    reach: int
    noise: FloatArray

    @classmethod
    def of(
        cls,
        track: SpeedTrack,
        rows: FloatArray,
        *,
        rate_hz: float,
        start_s: float,
        bandwidth_hz: float,
        spoilt_s: Sequence[Span],
    ) -> OncePerTurn:
        """Fit every row [shape=(rows, n)] over windows of one over the bandwidth.

        Means over an eighth of the window come first, so that the window works on few values.

        Parameters
        ----------
        spoilt_s : stretches [s, the track's clock] that do not show the machine
        """
        block = max(1, int(rate_hz / (BLOCKS_A_WINDOW * bandwidth_hz)))
        count = rows.shape[1] // block
        t_s = start_s + np.arange(count * block) / rate_hz
        rows = rows[:, : count * block]
        good = (~within(t_s, spoilt_s)).astype(np.complex64)
        turn_back = good * turned_back(track.turns_at(t_s))
        window = hann(max(5, int(rate_hz / block / bandwidth_hz)))

        def windowed(values: ComplexArray) -> ComplexArray:
            return np.stack([np.convolve(row, window, mode="same") for row in values])

        seen, aliased = windowed(block_means(np.stack([good, turn_back**2]), block))
        seen = seen.real
        told = seen**2 - np.abs(aliased) ** 2
        clear = told > LEAST_TOLD
        share = np.where(clear, told, 1.0)
        line = block_means(rows * turn_back, block)
        turned = windowed(line)
        offset = np.exp(2j * np.pi * BESIDE_BANDWIDTHS / BLOCKS_A_WINDOW * np.arange(count)).astype(np.complex64)
        beside = np.concatenate([windowed(line * shift) for shift in (offset, np.conj(offset))])
        noise = min(_white(rows) * float(np.sum(window**2)) / block, _beside(beside))
        return cls(
            t_s=t_s[::block] + 0.5 * (block - 1) / rate_hz,
            step_s=block / rate_hz,
            base=np.where(clear, (seen * turned - aliased * np.conj(turned)) / share, 0.0),
            reach=window.size // 2,
            noise=np.where(clear, 0.5 * noise * seen / share, np.inf),
        )


def _white(rows: FloatArray) -> float:
    """Variance of white noise in all rows together, from the least of their steps: of slow signals it sees little."""
    # Twice the 20th percentile of a squared normal variable is 0.128.
    steps = np.square(np.diff(rows, axis=1))
    rank = steps.shape[1] // 5
    return float(np.partition(steps, rank, axis=1)[:, rank].sum() / 0.128)


def _beside(values: ComplexArray) -> float:
    """Power of all rows together a little beside the line, on its calmer side [values: shape=(2 * rows, n)].

    The rows of one side come first.
    """
    power = np.square(np.abs(values))
    rows = power.shape[0] // 2
    # Median of a sum of so many exponential variables over its mean (Wilson & Hilferty, PNAS 17, 1931).
    middle = (1.0 - 1.0 / (9.0 * rows)) ** 3
    return float(min(np.median(side.sum(axis=0)) for side in (power[:rows], power[rows:])) / middle)
