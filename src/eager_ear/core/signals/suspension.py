"""Critical speed and damping ratio from the run-up, or from the coast-down when that shows it better.

The rotating-unbalance response x(r) = e·r²/sqrt((1-r²)²+(2·zeta·r)²) (Inman, Engineering Vibration, section 2.5)
holds for a steady speed; a ramp lowers, shifts and widens the peak. So the model itself is driven through the
measured speed profile: a damped oscillator under the rotating force, demodulated with the window that was used on the
measurement. Compared is the logarithm of the amplitude; scale and a power-law trend over speed (cabinet and
sensor's place) are fitted along. Springs' force reaches the sensor as spring plus damper force.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy import optimize
from scipy import signal as sps

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.machine import Layout
from eager_ear.core.signals.orders import WINDOW_S, OrderCurves
from eager_ear.core.signals.phases import Phases
from eager_ear.core.signals.speed_track import SpeedTrack
from eager_ear.core.units import BoolArray, FloatArray

# Fast enough that the bilinear rule bends frequencies by less than 2 % up to three times the highest critical speed.
MODEL_RATE_HZ = 240.0
DAMPING_RANGE = (0.008, 0.6)
LONGEST_TREND = 1.0
# Above this multiple of the highest critical speed the cabinet's own resonance takes over.
TOP_OF_RANGE = 1.6
# A peak is one when its far side has been seen as well.
FALL_SEEN_TO = 1.5


@dataclass(frozen=True, kw_only=True)
class SuspensionFit:
    """One resonance passed in the run-up; sigmas are standard errors from the fit's curvature."""

    axis: str
    critical_hz: float
    critical_sigma_hz: float
    damping_ratio: float
    damping_sigma: float
    peak_mm: float
    residual_db: float


def fit_run_up(curves: OrderCurves, *, track: SpeedTrack, phases: Phases, layout: Layout) -> tuple[SuspensionFit, ...]:
    """Fit the resonance in each radial axis; strongest first.

    Raises
    ------
    NotMeasurable
        No ramp through the range where this layout's critical speed lies, or 1x too weak there.
    """
    low_hz, high_hz = (rpm / 60.0 for rpm in layout.critical_rpm)
    passages = [
        use
        for use in (
            _run_up_frames(curves, phases, top_hz=TOP_OF_RANGE * high_hz),
            _coast_frames(curves, phases, top_hz=TOP_OF_RANGE * high_hz),
        )
        if use.sum() >= 12 and curves.rate_hz[use].min() < 0.8 * high_hz
    ]
    if not passages:
        raise NotMeasurable(
            quantity="critical speed and damping",
            reason="once-per-turn vibration was not seen clearly through the ramp.",
        )
    radial = ("x", "z") if layout.drum == "front" else ("x", "y")
    fits: list[SuspensionFit] = []
    for row, name in enumerate(curves.axis_names):
        if name in radial:
            tried = [_fit_axis(curves, row, use, track, low_hz=low_hz, high_hz=high_hz) for use in passages]
            good = [fit for fit in tried if fit is not None]
            if good:
                fits.append(min(good, key=lambda f: f.damping_sigma / f.damping_ratio))
    if not fits:
        raise NotMeasurable(
            quantity="critical speed and damping", reason="no resonance peak stands out in run-up or coast-down."
        )
    return tuple(sorted(fits, key=lambda f: -f.peak_mm))


def _run_up_frames(curves: OrderCurves, phases: Phases, *, top_hz: float) -> BoolArray:
    cut = phases.power_cut_s if phases.power_cut_s is not None else np.inf
    rising = curves.significant(1) & (curves.t_s < cut) & (curves.rate_hz < top_hz)
    if not rising.any():
        return rising
    # Only the last approach counts: an earlier one may have turned back below the critical speed.
    reached = np.flatnonzero(rising)
    breaks = np.flatnonzero(np.diff(reached) > 12)
    start = reached[breaks[-1] + 1] if breaks.size and reached.size - breaks[-1] > 24 else reached[0]
    return np.asarray(rising & (np.arange(rising.size) >= start))


def _coast_frames(curves: OrderCurves, phases: Phases, *, top_hz: float) -> BoolArray:
    """The same passage backwards, with the motor off: slower and undisturbed by the drive."""
    cut = phases.power_cut_s if phases.power_cut_s is not None else np.inf
    return np.asarray(curves.significant(1) & (curves.t_s > cut) & (curves.rate_hz < top_hz))


def _fit_axis(
    curves: OrderCurves, row: int, use: BoolArray, track: SpeedTrack, *, low_hz: float, high_hz: float
) -> SuspensionFit | None:
    measured = np.log(curves.displacement_mm(1)[row, use] + 1e-9)
    rate = curves.rate_hz[use]
    frames = np.flatnonzero(use)
    span = (float(track.t_s[frames[0]]) - 3.0, float(track.t_s[frames[-1]]) + 0.5)
    drive = _Drive.along(track, span=span)
    weight = _weights(rate)

    def residual(parameters: FloatArray) -> FloatArray:
        f0, damping = float(np.exp(parameters[0])), float(np.exp(parameters[1]))
        model = np.log(drive.amplitude(f0, damping, track.t_s[frames]) + 1e-9)
        trend = np.log(rate / f0)
        basis = np.stack([np.ones_like(rate), trend], axis=1)
        # Ridge on the trend: a prior of zero with one standard deviation of LONGEST_TREND.
        rows = np.vstack([basis * weight[:, None], [[0.0, 0.3 / LONGEST_TREND]]])
        target = np.concatenate([(measured - model) * weight, [0.0]])
        solved, *_ = np.linalg.lstsq(rows, target, rcond=None)
        return np.asarray(rows @ solved - target)

    grid = [
        (np.log(f0), np.log(damping))
        for f0 in np.geomspace(max(low_hz, rate.min()), min(high_hz, rate.max()), 16)
        for damping in (0.03, 0.08, 0.2)
    ]
    if rate.max() < low_hz:
        return None
    costs = [float(np.sum(residual(np.array(p)) ** 2)) for p in grid]
    best = optimize.least_squares(
        residual,
        np.array(grid[int(np.argmin(costs))]),
        bounds=([np.log(low_hz * 0.8), np.log(DAMPING_RANGE[0])], [np.log(high_hz * 1.2), np.log(DAMPING_RANGE[1])]),
        loss="soft_l1",
        f_scale=0.15,
        diff_step=1e-3,
        max_nfev=40,
    )
    f0, damping = float(np.exp(best.x[0])), float(np.exp(best.x[1]))
    sigma = _standard_errors(best.jac, residual(best.x), weight)
    peak_near = np.abs(np.log(rate / f0)) < 0.35
    spread = float(np.sqrt(np.average((residual(best.x)[:-1] / weight) ** 2, weights=weight**2)))
    covered = rate.min() < 1.05 * f0 and rate.max() > FALL_SEEN_TO * f0 and 0.85 * low_hz < f0 < 1.15 * high_hz
    covered = covered and damping < 0.95 * DAMPING_RANGE[1]
    if not covered or not peak_near.any() or sigma[0] > 0.15 or sigma[1] > 0.6 or spread > 0.8:
        return None
    return SuspensionFit(
        axis=curves.axis_names[row],
        critical_hz=f0,
        critical_sigma_hz=f0 * sigma[0],
        damping_ratio=damping,
        damping_sigma=damping * sigma[1],
        peak_mm=float(curves.displacement_mm(1)[row, use][peak_near].max()),
        residual_db=float(20.0 / np.log(10.0) * spread),
    )


def _weights(rate: FloatArray) -> FloatArray:
    """Equal say for every stretch of log speed, however long the machine lingered there."""
    bins = np.digitize(np.log(rate), np.linspace(np.log(rate.min()), np.log(rate.max()) + 1e-9, 25))
    counts = np.bincount(bins, minlength=27)[bins]
    return np.asarray(1.0 / np.sqrt(counts))


def _standard_errors(jacobian: FloatArray, residual: FloatArray, weight: FloatArray) -> FloatArray:
    """Standard errors of the logarithms; neighbouring frames overlap, so a quarter of them counts as independent."""
    independent = max(float(np.sum(weight**2)), 4.0)
    variance = float(np.sum(residual**2)) / max(independent - 4.0, 1.0)
    try:
        covariance = np.linalg.inv(jacobian.T @ jacobian) * variance
    except np.linalg.LinAlgError:
        return np.array([np.inf, np.inf])
    return np.sqrt(np.maximum(np.diag(covariance), 0.0))


@dataclass(frozen=True, kw_only=True)
class _Drive:
    """The rotating force along the measured speed, on a slow even clock."""

    t_s: FloatArray
    force: FloatArray
    omega: FloatArray
    carrier: FloatArray
    window: FloatArray

    @classmethod
    def along(cls, track: SpeedTrack, *, span: tuple[float, float]) -> _Drive:
        t_s = np.arange(span[0], span[1], 1.0 / MODEL_RATE_HZ)
        turns = track.turns_at(t_s)
        omega = 2 * np.pi * np.gradient(turns, t_s)
        alpha = np.gradient(omega, t_s)
        phase = 2j * np.pi * turns
        window = np.hanning(int(WINDOW_S * MODEL_RATE_HZ) + 2)[1:-1]
        force = ((omega**2 - 1j * alpha) * np.exp(phase)).real
        return cls(
            t_s=t_s, force=force, omega=np.maximum(omega, 1.0), carrier=np.exp(-phase), window=window / window.sum()
        )

    def amplitude(self, f0: float, damping: float, at_s: FloatArray) -> FloatArray:
        """Displacement amplitude at the sensor for unit unbalance, up to scale [shape like at_s]."""
        w = 2 * np.pi * f0
        bent = 2 * MODEL_RATE_HZ * np.tan(w / (2 * MODEL_RATE_HZ))
        # Bilinear rule in closed form; `bent` undoes its bending of frequencies, so the resonance stays at f0.
        k = 2.0 * MODEL_RATE_HZ
        c, w2 = 2 * damping * bent, bent**2
        b = (c * k + w2, 2 * w2, w2 - c * k)
        a = (k * k + c * k + w2, 2 * w2 - 2 * k * k, k * k - c * k + w2)
        moved = sps.lfilter(b, a, self.force)
        # As the sensor does: acceleration is demodulated, then divided by the drum's own rate squared, so that what
        # rings on at the critical speed is weighted alike on both sides.
        acceleration = np.diff(moved, 2, prepend=moved[0], append=moved[-1]) * MODEL_RATE_HZ**2
        base = 2.0 * np.abs(sps.oaconvolve(acceleration * self.carrier, self.window, mode="same"))
        return np.asarray(np.interp(at_s, self.t_s, base / self.omega**2))
