"""Small sums of the hand checks: swings to damping, belt tension, capacitor."""

from __future__ import annotations

import math
from collections.abc import Sequence

STILL_SHARE = 0.05
# Coarse metric threads of the feet in use (M8 to M12): 1.25 to 1.75 mm a turn.
FOOT_THREAD_MM = 1.75


def belt_tension_n(*, span_hz: float, span_mm: float, kg_per_m: float) -> float:
    """Tension of a plucked span, T = 4·m·L²·f² (string's fundamental).

    >>> round(belt_tension_n(span_hz=60.0, span_mm=300.0, kg_per_m=0.05), 1)
    64.8
    """
    return 4.0 * kg_per_m * (span_mm / 1000.0) ** 2 * span_hz**2


def swings_from_peaks(peaks_mm: Sequence[float]) -> float:
    """Full swings until a twentieth is left, from the logarithmic decrement of successive peaks on one side.

    >>> round(swings_from_peaks([20.0, 10.0, 5.0]), 2)
    4.32
    """
    first, last = max(peaks_mm[0], 1e-6), max(peaks_mm[-1], 1e-6)
    decrement = math.log(max(first / last, 1.0 + 1e-6)) / (len(peaks_mm) - 1)
    return min(60.0, -math.log(STILL_SHARE) / decrement)


def damping_from_swings(swings: float) -> float:
    """Damping ratio at which that many full swings fall to a twentieth.

    >>> round(damping_from_swings(4.0), 3)
    0.118
    """
    decrement = -math.log(STILL_SHARE) / max(swings, 0.1)
    return decrement / math.hypot(2 * math.pi, decrement)


def foot_turns(gap_mm: float, *, thread_mm: float = FOOT_THREAD_MM) -> float:
    """Turns by which a foot is to be screwed out to close a gap.

    >>> foot_turns(3.5)
    2.0
    """
    return gap_mm / thread_mm


def capacitor_excess(*, measured_uf: float, rated_uf: float, tolerance_pct: float) -> float:
    """Deviation from the rated value in multiples of the tolerance.

    >>> capacitor_excess(measured_uf=36.0, rated_uf=40.0, tolerance_pct=5.0)
    2.0
    """
    return abs(measured_uf - rated_uf) / rated_uf * 100.0 / max(tolerance_pct, 0.1)


def swings_from_damping(damping_ratio: float) -> float:
    """Full swings until a twentieth is left, at that damping ratio; the inverse of `damping_from_swings`.

    >>> round(swings_from_damping(damping_from_swings(4.0)), 6)
    4.0
    """
    ratio = min(max(damping_ratio, 1e-3), 0.95)
    return -math.log(STILL_SHARE) * math.sqrt(1.0 - ratio**2) / (2.0 * math.pi * ratio)
