"""Motor current from a clamp meter: when the motor is energised, what it draws at the start and running.

A standing rotor draws several times what it draws when running; the surge dies down as the motor gains speed
(Fitzgerald, Kingsley & Umans, Electric Machinery, 6th ed., section 6.5).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.types import CurrentSignal
from eager_ear.core.units import FloatArray

# Controls, lamps and valves draw some hundredths of an ampere, the smallest washer motors one.
LEAST_MOTOR_A = 0.3
# Energised above this share of the way from rest to what it draws mostly.
ON_SHARE = 0.2
# Programs pause between tumbling strokes; what is shorter is a flicker of the meter.
SHORTEST_S = 0.5
SURGE_S = 1.5
# Until the current has settled after the last change of speed.
SETTLED_SHARE = 0.5


@dataclass(frozen=True, kw_only=True)
class MotorCurrent:
    """What the clamp meter showed, on the run's clock.

    spans : when the motor was energised [s]
    starting_a : highest in the first 1.5 s of a span; None when the recording begins energised
    running_a, running_sigma_a : median of the later half of the longest span, and its scatter
    off_s : when it was last switched off, None when the recording ends energised
    """

    spans: tuple[tuple[float, float], ...]
    starting_a: float | None
    running_a: float
    running_sigma_a: float
    off_s: float | None


def measure_current(signal: CurrentSignal, *, start_s: float) -> MotorCurrent:
    """Read a current recording.

    Raises
    ------
    NotMeasurable
        No motor drew current while it was recorded, or the recording is too coarse.
    """
    t_s, amps = signal.t_s + start_s, np.abs(signal.current_a)
    step_s = float(np.median(np.diff(t_s)))
    if signal.duration_s < 2.0 or step_s > SHORTEST_S:
        raise NotMeasurable(quantity="motor current", reason="it needs two seconds of at least two readings a second.")
    rest, most = float(np.percentile(amps, 2)), float(np.percentile(amps, 90))
    if most < LEAST_MOTOR_A:
        raise NotMeasurable(
            quantity="motor current", reason=f"no more than {most:.2f} A were drawn: no motor was energised."
        )
    # Where the motor runs from the first reading to the last there is no rest to compare with.
    if rest > 0.5 * most:
        rest = 0.0
    on = amps > rest + ON_SHARE * (most - rest)
    frames = max(1, round(SHORTEST_S / step_s))
    on = scipy.ndimage.binary_opening(
        scipy.ndimage.binary_closing(np.pad(on, frames, mode="edge"), np.ones(frames)), np.ones(frames)
    )
    labels, count = scipy.ndimage.label(on[frames:-frames])
    pieces = [np.flatnonzero(labels == k) for k in range(1, count + 1)]
    if not pieces:
        raise NotMeasurable(quantity="motor current", reason="the motor was energised for less than half a second.")
    spans = tuple((float(t_s[p[0]]), float(t_s[p[-1]])) for p in pieces)
    longest = max(pieces, key=lambda p: float(t_s[p[-1]] - t_s[p[0]]))
    later = amps[longest[int(SETTLED_SHARE * longest.size) :]]
    ended = spans[-1][1] < t_s[-1] - SHORTEST_S
    return MotorCurrent(
        spans=spans,
        starting_a=_starting(t_s, amps, spans),
        running_a=float(np.median(later)),
        running_sigma_a=float(1.4826 * np.median(np.abs(later - np.median(later)))),
        off_s=spans[-1][1] + 0.5 * step_s if ended else None,
    )


def _starting(t_s: FloatArray, amps: FloatArray, spans: tuple[tuple[float, float], ...]) -> float | None:
    seen = [begin for begin, _ in spans if begin > t_s[0] + SHORTEST_S]
    surges = [float(amps[(t_s >= begin) & (t_s < begin + SURGE_S)].max()) for begin in seen]
    return max(surges) if surges else None
