"""Corners of the cabinet compared: where the machine moves most at equal speed.

The same spin is recorded again with the sensor on another corner. Level against speed is compared within ranges of
speed that every run holds, so that a run that reached another speed does not pass for a calmer corner. The error is
that of a mean over those ranges (Bendat & Piersol, Random Data, 4th ed., section 4.2), and how much the same spot
differs from one spin to the next, since the drum's unbalance is never quite the same again.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Protocol

import numpy as np

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.angle import OrderCurves
from eager_ear.core.signals.dsp import by_bin
from eager_ear.core.units import FloatArray

CORNER_OF_POSITION = {
    "top_front_left": "front_left",
    "top_front_right": "front_right",
    "top_rear_right": "rear_right",
    "top_rear_left": "rear_left",
}
# Steps of eight percent: finer than any resonance is wide.
SPEED_STEP = 0.08
# A median of fewer follows a single bump.
FEWEST_FRAMES = 4
# Half of them are independent: two are the least that scatter.
FEWEST_RANGES = 4
# An empty drum's residual unbalance moves by about a tenth from one spin to the next.
AGAIN_SIGMA_DB = 1.0


class CornerRun(Protocol):
    """A spin as far as it is compared: where the sensor lay, what was in the drum, levels by range of speed."""

    @property
    def position(self) -> str | None: ...
    @property
    def load(self) -> str | None: ...
    @property
    def corner_levels_db(self) -> Mapping[int, float] | None: ...


@dataclass(frozen=True, kw_only=True)
class CornerLevel:
    """One corner's once-per-turn motion against the mean of all corners, at equal speed [dB]."""

    corner: str
    level_db: float
    sigma_db: float


@dataclass(frozen=True, kw_only=True)
class CornerComparison:
    """All corners, the largest first; `speed_rpm` the range in which they were compared."""

    corners: tuple[CornerLevel, ...]
    speed_rpm: tuple[float, float]

    @property
    def ahead_db(self) -> float:
        """How far the largest corner is above the next one [dB]."""
        return self.corners[0].level_db - self.corners[1].level_db

    @property
    def ahead_sigma_db(self) -> float:
        """Standard error of `ahead_db` [dB]."""
        return float(np.hypot(self.corners[0].sigma_db, self.corners[1].sigma_db))


def compare_corners(runs: Sequence[CornerRun]) -> CornerComparison:
    """Compare the runs that were recorded at a corner; of two at one corner the later counts.

    Raises
    ------
    NotMeasurable
        Fewer than two corners, differing loads, or no range of speed that all of them hold.
    """
    at: dict[str, CornerRun] = {}
    for run in runs:
        corner = CORNER_OF_POSITION.get(run.position or "")
        if corner is not None and run.corner_levels_db is not None:
            at[corner] = run
    if len(at) < 2:
        raise NotMeasurable(quantity="corner comparison", reason="vibration was not recorded at two corners.")
    if len({run.load or "empty" for run in at.values()}) > 1:
        raise NotMeasurable(quantity="corner comparison", reason="the corners were recorded with differing loads.")
    levels = {corner: run.corner_levels_db or {} for corner, run in at.items()}
    shared = sorted(set.intersection(*(set(found) for found in levels.values())))
    if len(shared) < FEWEST_RANGES:
        raise NotMeasurable(
            quantity="corner comparison", reason="the recordings from the corners share too little of their speeds."
        )
    table = np.array([[levels[corner][k] for k in shared] for corner in levels])
    table -= table.mean(axis=0)
    # Neighbouring ranges of speed share a window: half of them are independent.
    error = table.std(axis=1, ddof=1) / np.sqrt(max(len(shared) / 2.0, 1.0))
    sigma = np.hypot(error, AGAIN_SIGMA_DB)
    found = [
        CornerLevel(corner=corner, level_db=float(row.mean()), sigma_db=float(s))
        for corner, row, s in zip(levels, table, sigma, strict=True)
    ]
    low, high = (60.0 * float(np.exp(SPEED_STEP * k)) for k in (shared[0], shared[-1] + 1))
    return CornerComparison(corners=tuple(sorted(found, key=lambda c: -c.level_db)), speed_rpm=(low, high))


def levels_by_speed(curves: OrderCurves) -> dict[int, float]:
    """Median once-per-turn level by range of log speed [dB]: upwards, or of all axes where that was not recorded.

    A stiff case moves sideways as a whole; its corners differ in how far they go up and down.
    """
    use = np.flatnonzero(curves.significant(1))
    rows = [i for i, name in enumerate(curves.axis_names) if name == "z"] or list(range(len(curves.axis_names)))
    power: FloatArray = (np.abs(curves.amplitude_m_s2[rows, 0][:, use]) ** 2).sum(axis=0)
    ranges = np.floor(np.log(np.maximum(curves.rate_hz[use], 1e-3)) / SPEED_STEP).astype(int)
    found, medians = by_bin(power, ranges, of=np.median, fewest=FEWEST_FRAMES)
    return dict(zip(found.tolist(), (10.0 * np.log10(medians)).tolist(), strict=True))
