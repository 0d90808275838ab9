"""Unit conversions, array aliases and shares in words, used throughout the core."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

FloatArray = NDArray[np.floating[Any]]
ComplexArray = NDArray[np.complexfloating[Any, Any]]
BoolArray = NDArray[np.bool_]
IntArray = NDArray[np.integer[Any]]
# Begin and end on the run's clock [s].
Span = tuple[float, float]

STANDARD_GRAVITY_M_S2 = 9.80665
MOST_DECIMALS = 4


def rpm_to_hz(speed_rpm: float) -> float:
    """Revolutions per minute to revolutions per second.

    >>> rpm_to_hz(1200.0)
    20.0
    """
    return speed_rpm / 60.0


def hz_to_rpm(rate_hz: float) -> float:
    """Revolutions per second to revolutions per minute.

    >>> hz_to_rpm(20.0)
    1200.0
    """
    return rate_hz * 60.0


def power_to_db(power: FloatArray, *, floor: float = 1e-20) -> FloatArray:
    """Power ratio to decibel, floored so that silence stays finite.

    >>> float(power_to_db(np.array([100.0]))[0])
    20.0
    """
    return 10.0 * np.log10(np.maximum(power, floor))


def odds_to_decibans(probability: float, *, limit_db: float = 60.0) -> float:
    """Ten times the base-10 logarithm of the odds, limited.

    >>> odds_to_decibans(0.5)
    0.0
    >>> round(odds_to_decibans(10 / 11), 6)
    10.0
    """
    tiny = 10.0 ** (-limit_db / 10.0)
    clipped = min(max(probability, tiny), 1.0 - tiny)
    return float(10.0 * np.log10(clipped / (1.0 - clipped)))


def within(t_s: FloatArray, spans: Sequence[Span]) -> BoolArray:
    """Whether each moment lies in one of the stretches [shape like `t_s`].

    >>> within(np.array([0.5, 1.5, 2.5]), [(1.0, 2.0)])
    array([False,  True, False])
    """
    inside = np.zeros(np.shape(t_s), dtype=bool)
    for begin, end in spans:
        inside |= (t_s >= begin) & (t_s <= end)
    return inside


def percent(probability: float) -> str:
    r"""Whole percents, never 0 or 100.

    >>> percent(0.9987), percent(0.5)
    ('over 99\xa0%', '50\xa0%')
    """
    if probability > 0.99:
        return "over 99\u00a0%"
    if probability < 0.01:
        return "under 1\u00a0%"
    return f"{100 * probability:.0f}\u00a0%"


def plus_minus(value: float, sigma: float, *, decimals: int) -> str:
    """A number with its standard error, with more decimals where the error would read as none.

    >>> plus_minus(0.0512, 0.0021, decimals=2), plus_minus(6.24, 0.43, decimals=1), plus_minus(3.0, 0.0, decimals=1)
    ('0.051 ± 0.002', '6.2 ± 0.4', '3.0 ± 0.0')
    """
    while sigma > 0 and round(sigma, decimals) == 0 and decimals < MOST_DECIMALS:
        decimals += 1
    return f"{value:.{decimals}f} ± {sigma:.{decimals}f}"
