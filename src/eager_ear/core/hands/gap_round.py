"""Gap between drum lip and tub, read at one place while the drum turns: run-out and ovality.

Least squares of mean + first + second harmonic on the readings; the first harmonic is the run-out of the drum's
axis, the second an oval rim. Standard error from the residual (Montgomery, Peck & Vining, Introduction to Linear
Regression Analysis, chapter 3).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from eager_ear.core.errors import BadField

READING_SIGMA_MM = 0.25


@dataclass(frozen=True, kw_only=True)
class GapRound:
    """Run-out amplitude, where it is widest, oval amplitude, standard errors; None where too few readings carry it."""

    mean_mm: float
    runout_mm: float
    runout_sigma_mm: float
    widest_deg: float
    oval_mm: float | None
    oval_sigma_mm: float | None


def fit_gap_round(gaps_mm: Sequence[float]) -> GapRound:
    """Fit the readings, taken in equal steps round one turn.

    Raises
    ------
    BadField
        Fewer than four readings.

    >>> angles = np.arange(8) * np.pi / 4
    >>> fit = fit_gap_round(list(10.0 + 3.0 * np.cos(angles - np.pi / 2)))
    >>> round(fit.runout_mm, 3), round(fit.widest_deg)
    (3.0, 90)
    """
    count = len(gaps_mm)
    if count < 4:
        raise BadField(field="gaps_mm", reason="at least four readings are needed.")
    angle = 2 * np.pi * np.arange(count) / count
    columns = [np.ones(count), np.cos(angle), np.sin(angle)]
    with_oval = count >= 5
    if with_oval:
        columns += [np.cos(2 * angle)] + ([np.sin(2 * angle)] if count >= 6 else [])
    basis = np.stack(columns, axis=1)
    gaps = np.asarray(gaps_mm, dtype=float)
    solved, *_ = np.linalg.lstsq(basis, gaps, rcond=None)
    left = count - basis.shape[1]
    residual = float(np.sum((gaps - basis @ solved) ** 2))
    # With few readings the residual says little: the reading's own error stands in for four more.
    variance = (residual + 4 * READING_SIGMA_MM**2) / (left + 4)
    return GapRound(
        mean_mm=float(solved[0]),
        runout_mm=float(np.hypot(solved[1], solved[2])),
        runout_sigma_mm=float(np.sqrt(2.0 * variance / count)),
        widest_deg=float(np.degrees(np.arctan2(solved[2], solved[1])) % 360.0),
        oval_mm=float(np.hypot(solved[3], solved[4] if count >= 6 else 0.0)) if with_oval else None,
        oval_sigma_mm=float(np.sqrt(2.0 * variance / count)) if with_oval else None,
    )
