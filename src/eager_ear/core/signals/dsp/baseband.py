"""A line brought down to zero frequency and averaged there: the one way in which anything here is demodulated."""

from __future__ import annotations

from typing import TypeVar

import numpy as np

from eager_ear.core.units import ComplexArray, FloatArray

Values = TypeVar("Values", FloatArray, ComplexArray)

# A mean over a shorter axis takes longer than as many steps through all values.
LONG_BLOCK = 32


def turned_back(turns: FloatArray) -> ComplexArray:
    """exp(-2j·pi·turns) [shape like it, complex64]: whole turns are taken off before precision is.

    >>> quarter = turned_back(np.array([1e6 + 0.25]))[0]
    >>> round(abs(float(quarter.real)), 5), round(float(quarter.imag), 5)
    (0.0, -1.0)
    """
    angle = (turns - np.floor(turns)).astype(np.float32) * np.float32(2.0 * np.pi)
    out = np.empty(angle.shape, dtype=np.complex64)
    np.cos(angle, out=out.real)
    np.negative(np.sin(angle), out=out.imag)
    return out


def tone_carrier(frequency_hz: float, *, count: int, rate_hz: float) -> ComplexArray:
    """What turns a tone of that frequency back, at `count` values of that rate [shape=(count,), complex64]."""
    return turned_back(frequency_hz / rate_hz * np.arange(count))


def block_means(values: Values, block: int) -> Values:
    """Means over so many values at a time along the last axis, without what is left over [shape=(..., n // block)].

    >>> block_means(np.array([1.0, 3.0, 5.0, 7.0, 9.0]), 2).tolist()
    [2.0, 6.0]
    """
    count = values.shape[-1] // block
    whole = values[..., : count * block]
    if block >= LONG_BLOCK:
        return np.asarray(whole.reshape(*whole.shape[:-1], count, block).mean(axis=-1))
    return np.asarray(sum((whole[..., k::block] for k in range(1, block)), start=whole[..., ::block]) / block)


def hann(length: int) -> FloatArray:
    """Window of odd length, so that it has a middle sample, with the sum one [shape=(length or one more,)].

    >>> float(hann(4).sum())
    1.0
    """
    window = np.hanning((length | 1) + 2)[1:-1].astype(np.float32)
    return np.asarray(window / window.sum())
