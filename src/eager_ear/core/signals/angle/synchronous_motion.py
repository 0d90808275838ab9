"""How the cabinet moves over one turn at full speed: vibration averaged against drum angle.

Time-synchronous averaging (McFadden, Mech. Syst. Signal Process. 1(1), 1987, pp. 83-95), order by order: 1x, 2x and 3x
are turned by the phase of the strongest 1x and then averaged, so that the track's slow error of angle does not smear
them. The angle begins where that axis goes furthest; where on the drum that is, nobody can tell without a pulse.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.angle.order_amplitudes import ORDERS, WINDOW_S, OrderCurves
from eager_ear.core.signals.angle.track import FRAME_STEP_S, SpeedTrack
from eager_ear.core.units import ComplexArray, FloatArray

# As steady as a controlled drum is; below this it is still on the ramp.
FULL_SPEED_SHARE = 0.97
# Four windows of the order amplitudes: fewer give no scatter.
SHORTEST_S = 3.0
# Of some dozen amplitudes shown, noise alone draws one in ten runs.
CLEAR_SIGMAS = 3.0


@dataclass(frozen=True, kw_only=True)
class TurnMotion:
    """Displacement over one turn, by axis and order.

    amplitude_mm : array [shape=(axes, 3), complex, peak], of 1x, 2x and 3x
    sigma_mm : array [shape=(axes, 3)], standard error of either part
    main_axis : index of the axis that moves most
    """

    speed_rpm: float
    axis_names: tuple[str, ...]
    amplitude_mm: ComplexArray
    sigma_mm: FloatArray
    main_axis: int

    @property
    def clear(self) -> ComplexArray:
        """The amplitudes that stand three standard errors above nothing, zero elsewhere [shape=(axes, 3)]."""
        return np.where(np.abs(self.amplitude_mm) > CLEAR_SIGMAS * self.sigma_mm, self.amplitude_mm, 0.0)

    def displacement_mm(self, cells: int) -> FloatArray:
        """Displacement at even steps of angle [shape=(axes, cells), mm], of what is clear."""
        angle = 2 * np.pi * np.arange(cells) / cells
        waves = np.exp(1j * np.outer(ORDERS, angle))
        return np.asarray((self.clear @ waves).real)


def turn_motion(curves: OrderCurves, *, track: SpeedTrack) -> TurnMotion:
    """Average the motion at full speed over the drum's angle.

    Raises
    ------
    NotMeasurable
        Less than three seconds at full speed, or no 1x above the noise there.
    """
    use = curves.known & (curves.rate_hz > FULL_SPEED_SHARE * track.max_rpm / 60.0)
    if use.sum() * FRAME_STEP_S < SHORTEST_S:
        raise NotMeasurable(quantity="motion over one turn", reason="full speed was recorded for less than 3 s.")
    omega = 2 * np.pi * np.outer(ORDERS, curves.rate_hz[use])
    moved_mm = -1000.0 * curves.amplitude_m_s2[:, :, use] / omega**2
    main = int(np.argmax(np.median(np.abs(moved_mm[:, 0]), axis=1)))
    if not curves.significant(1)[use].mean() > 0.5:
        raise NotMeasurable(quantity="motion over one turn", reason="the cabinet hardly moves once per turn.")
    phase = np.angle(moved_mm[main, 0])
    aligned = moved_mm * np.exp(-1j * np.outer(ORDERS, phase))
    # Windows overlap: frames nearer than a window are not independent.
    independent = max(use.sum() * FRAME_STEP_S / WINDOW_S, 2.0)
    spread = np.sqrt(0.5 * (np.var(aligned.real, axis=2) + np.var(aligned.imag, axis=2)))
    return TurnMotion(
        speed_rpm=60.0 * float(np.median(curves.rate_hz[use])),
        axis_names=curves.axis_names,
        amplitude_mm=aligned.mean(axis=2),
        sigma_mm=spread / np.sqrt(independent),
        main_axis=main,
    )
