"""A drum that was flicked and runs out: how fast it slows, from the moments at which a mark goes by."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from eager_ear.core.errors import NotMeasurable

LEAST_TAPS = 4
# A thumb taps so evenly: known from people who tap along with what they see.
TAP_SIGMA_S = 0.06


@dataclass(frozen=True, kw_only=True)
class Flick:
    """slowing_rpm_s : loss of speed, with its standard error; begins_rpm : speed at the first tap

    to_rest : turns from the first tap until it rests, if it slows evenly
    """

    slowing_rpm_s: float
    slowing_sigma_rpm_s: float
    begins_rpm: float
    to_rest: float


def fit_flick(taps_s: Sequence[float]) -> Flick:
    """Even slowing through one tap a turn: turns = w·t − a·t²/2, by least squares.

    Raises
    ------
    NotMeasurable
        Too few taps, out of order, or a drum that does not slow.

    >>> flick = fit_flick([0.0, 1.0, 2.3, 4.2])
    >>> round(flick.slowing_rpm_s, 1), round(flick.begins_rpm)
    (10.0, 64)
    """
    taps = np.asarray(taps_s, dtype=float) - float(taps_s[0]) if len(taps_s) else np.zeros(0)
    if len(taps) < LEAST_TAPS or np.any(np.diff(taps) <= 0.0):
        raise NotMeasurable(quantity="how fast it slows", reason=f"tap at {LEAST_TAPS} turns at least, as they go by.")
    turns = np.arange(len(taps), dtype=float)
    basis = np.stack([np.ones_like(taps), taps, -0.5 * taps**2], axis=1)
    (_, speed, slowing), *_ = np.linalg.lstsq(basis, turns, rcond=None)
    # An error of a tap is one of so many turns at the speed of its moment.
    sigma_turns = TAP_SIGMA_S * np.maximum(speed - slowing * taps, 0.05)
    solve = np.linalg.pinv(basis)
    sigma = float(np.sqrt(np.sum((solve[2] * sigma_turns) ** 2)))
    if slowing <= 0.0 or speed <= 0.0:
        raise NotMeasurable(
            quantity="how fast it slows", reason="by these taps it does not slow: flick it and tap again."
        )
    return Flick(
        slowing_rpm_s=60.0 * float(slowing),
        slowing_sigma_rpm_s=60.0 * sigma,
        begins_rpm=60.0 * float(speed),
        to_rest=float(speed**2 / (2.0 * slowing)),
    )
