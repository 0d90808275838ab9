"""Critical speed and damping ratio from the run-up, or from the coast-down when that shows it better.

The rotating-unbalance response x(r) = e·r²/sqrt((1-r²)²+(2·zeta·r)²) (Inman, Engineering Vibration, section 2.5)
holds for a steady speed; a ramp lowers, shifts and widens the peak. So the model itself is driven through the
measured speed profile: a damped oscillator under the rotating force, demodulated with the window that was used on the
measurement. What its spring and damper hold reaches the sensor through the cabinet on its feet, one further resonance
above, which is fitted along (Ewins, Modal Testing, 2nd ed., section 2.2), as is the sensor's noise. Compared is the
logarithm of the amplitude; the cabinet's two numbers and the scale are projected out (Golub & Pereyra, SIAM J. Numer.
Anal. 10(2), 1973, variable projection).
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from scipy import optimize
from scipy import signal as sps

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.machine import Layout
from eager_ear.core.signals.orders import WINDOW_S, OrderCurves
from eager_ear.core.signals.phases import Phases
from eager_ear.core.signals.speed_track import SpeedTrack
from eager_ear.core.units import BoolArray, FloatArray, IntArray

# Fast enough that the bilinear rule bends frequencies by less than 2 % up to the highest critical speed.
MODEL_STEPS_A_TURN = 26.0
DAMPING_RANGE = (0.008, 0.6)
# Up to this multiple of the highest critical speed the suspended group and one cabinet mode are all there is.
TOP_OF_RANGE = 2.2
# A peak is one when its far side has been seen as well.
FALL_SEEN_TO = 1.4
RISE_SEEN_FROM = 0.88
RISING_SIDE = (0.6, 0.92)
RISE_SIGNAL_TO_NOISE = 2.0
# How much better than without any resonance, as an F value with 2 and about 20 degrees of freedom: one in a thousand.
LEAST_F = 10.0
FEWEST_FRAMES = 16
# The window of the demodulation must hold a whole turn.
SLOWEST_HZ = 1.0 / WINDOW_S
MOST_FRAMES = 120
# Cabinets on their feet rock at 6 to 30 Hz; rubber and floor damp them well. The last stands for a rigid one.
CABINET_HZ = np.append(np.geomspace(6.0, 40.0, 13), 150.0)
CABINET_DAMPING = np.array([0.08, 0.16, 0.32, 0.64])
# A peak less than this many times the level beside it could be anything's.
LEAST_SIGNAL_TO_NOISE = 3.0
LARGEST_SPREAD = 0.28


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
    """Fit the resonance in each radial axis; surest first.

    Raises
    ------
    NotMeasurable
        No ramp through the range where this layout's critical speed lies, or 1x too weak there.
    """
    low_hz, high_hz = (rpm / 60.0 for rpm in layout.critical_rpm)
    passages = [
        _Passage.along(track, curves, use, steps_hz=MODEL_STEPS_A_TURN * high_hz)
        for use in (
            _run_up_frames(curves, phases, top_hz=TOP_OF_RANGE * high_hz),
            _coast_frames(curves, phases, top_hz=TOP_OF_RANGE * high_hz),
        )
        if use.sum() >= FEWEST_FRAMES and curves.rate_hz[use].min() < 0.8 * high_hz
    ]
    if not passages:
        raise NotMeasurable(
            quantity="critical speed and damping",
            reason="the speed is not known through the range where the suspended group resonates.",
        )
    radial = ("x", "z") if layout.drum == "front" else ("x", "y")
    fits: list[SuspensionFit] = []
    for row, name in enumerate(curves.axis_names):
        if name in radial:
            tried = (_fit_axis(curves, row, passage, low_hz=low_hz, high_hz=high_hz) for passage in passages)
            # The coast-down is asked only where the run-up does not show it.
            if (fit := next((fit for fit in tried if fit is not None), None)) is not None:
                fits.append(fit)
    if not fits:
        raise NotMeasurable(
            quantity="critical speed and damping", reason="no resonance peak stands out in run-up or coast-down."
        )
    return tuple(sorted(fits, key=lambda f: f.critical_sigma_hz / f.critical_hz))


def _seen(curves: OrderCurves, top_hz: float) -> BoolArray:
    """Known frames in the range of speeds that the model covers and the demodulation window resolves."""
    return np.asarray(curves.known & (curves.rate_hz < top_hz) & (curves.rate_hz > SLOWEST_HZ))


def _run_up_frames(curves: OrderCurves, phases: Phases, *, top_hz: float) -> BoolArray:
    cut = phases.power_cut_s if phases.power_cut_s is not None else np.inf
    rising = _seen(curves, top_hz) & (curves.t_s < cut)
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
    return np.asarray(_seen(curves, top_hz) & (curves.t_s > cut))


def _fit_axis(
    curves: OrderCurves, row: int, passage: _Passage, *, low_hz: float, high_hz: float
) -> SuspensionFit | None:
    frames = passage.frames
    measured = np.abs(curves.amplitude_m_s2[row, 0, frames])
    rate = curves.rate_hz[frames]
    # Amplitude of noise alone, as its mean: `noise_m_s2` is its root mean square.
    noise = float(curves.noise_m_s2[row])
    if rate.max() < FALL_SEEN_TO * low_hz or np.percentile(measured, 90) < LEAST_SIGNAL_TO_NOISE * noise:
        return None
    problem = _Problem(rate_hz=rate, measured=measured, noise=noise, weight=_weights(rate), passage=passage)
    grid = [
        np.array([np.log(f0), np.log(damping)])
        for f0 in np.geomspace(max(low_hz, rate.min()), min(high_hz, rate.max() / 1.1), 14)
        for damping in (0.03, 0.09, 0.25)
    ]
    start = min(grid, key=problem.cost)
    best = optimize.least_squares(
        problem.residual,
        start,
        bounds=([np.log(low_hz * 0.8), np.log(DAMPING_RANGE[0])], [np.log(high_hz * 1.2), np.log(DAMPING_RANGE[1])]),
        loss="soft_l1",
        f_scale=0.2,
        diff_step=2e-3,
        max_nfev=12,
    )
    f0, damping = float(np.exp(best.x[0])), float(np.exp(best.x[1]))
    residual = problem.residual(best.x)
    sigma = _standard_errors(best.jac, residual, problem.weight)
    near = np.abs(np.log(rate / f0)) < 0.35
    spread = float(np.sqrt(np.sum(residual**2) / np.sum(problem.weight**2)))
    covered = (
        rate.min() < RISE_SEEN_FROM * f0 and rate.max() > FALL_SEEN_TO * f0 and 0.85 * low_hz < f0 < 1.15 * high_hz
    )
    covered = covered and damping < 0.75 * DAMPING_RANGE[1] and near.sum() >= 4
    if not covered or sigma[0] > 0.1 or sigma[1] > 0.5 or spread > LARGEST_SPREAD:
        return None
    if np.median(measured[near]) < LEAST_SIGNAL_TO_NOISE * noise:
        return None
    # The rising side must have been seen in the signal, not in the noise: else any rise out of the noise is a "peak".
    rising = (rate > RISING_SIDE[0] * f0) & (rate < RISING_SIDE[1] * f0)
    if not rising.any() or np.median(measured[rising]) < RISE_SIGNAL_TO_NOISE * noise:
        return None
    plain = problem.cost(np.array([np.log(0.3 * low_hz), np.log(0.3)]))
    freedom = max(float(np.sum(problem.weight**2)) - 5.0, 1.0)
    if (plain - problem.cost(best.x)) / 2.0 < LEAST_F * problem.cost(best.x) / freedom:
        return None
    return SuspensionFit(
        axis=curves.axis_names[row],
        critical_hz=f0,
        # Whether friction or viscosity damps it, the same peak stands at f0 or at f0/sqrt(1 - 2·damping²).
        critical_sigma_hz=f0 * float(np.hypot(sigma[0], damping**2)),
        damping_ratio=damping,
        damping_sigma=damping * float(sigma[1]),
        peak_mm=float(curves.displacement_mm(1)[row, frames][near].max()),
        residual_db=float(20.0 / np.log(10.0) * spread),
    )


def _weights(rate: FloatArray) -> FloatArray:
    """Equal say for every stretch of log speed, however long the machine lingered there [shape like rate]."""
    bins = np.digitize(np.log(rate), np.linspace(np.log(rate.min()), np.log(rate.max()) + 1e-9, 25))
    counts = np.bincount(bins, minlength=27)[bins]
    return np.asarray(1.0 / np.sqrt(counts))


def _standard_errors(jacobian: FloatArray, residual: FloatArray, weight: FloatArray) -> FloatArray:
    """Standard errors of the logarithms; frames overlap: every stretch of log speed counts as one observation."""
    independent = max(float(np.sum(weight**2)), 6.0)
    variance = float(np.sum(residual**2)) / max(independent - 5.0, 1.0)
    try:
        covariance = np.linalg.inv(jacobian.T @ jacobian) * variance
    except np.linalg.LinAlgError:
        return np.array([np.inf, np.inf])
    return np.sqrt(np.maximum(np.diag(covariance), 0.0))


@dataclass(frozen=True)
class _Problem:
    """Measured 1x acceleration of one axis [shape=(frames,), m/s²] and what it is compared with."""

    rate_hz: FloatArray
    measured: FloatArray
    noise: float
    weight: FloatArray
    passage: _Passage

    @cached_property
    def cabinet(self) -> FloatArray:
        """What each cabinet passes on of what it is shaken with [shape=(dampings, frequencies, frames)]."""
        ratio = self.rate_hz / CABINET_HZ[:, None]
        gain = ratio**2 / np.sqrt((1 - ratio**2) ** 2 + (2 * CABINET_DAMPING[:, None, None] * ratio) ** 2)
        return np.asarray(np.log(gain))

    @cached_property
    def log_measured(self) -> FloatArray:
        return np.asarray(np.log(self.measured + 1e-12))

    def cost(self, parameters: FloatArray) -> float:
        return float(np.sum(np.minimum(self.residual(parameters) ** 2, 0.5)))

    def residual(self, parameters: FloatArray) -> FloatArray:
        """Weighted residual of the log amplitude, best cabinet and scale taken [shape=(frames,)]."""
        f0, damping = float(np.exp(parameters[0])), float(np.exp(parameters[1]))
        held = self.passage.log_held(f0, damping)
        model = (held + self.cabinet[:, 1.25 * f0 < CABINET_HZ]).reshape(-1, self.rate_hz.size)
        # Scale by the loud frames, where noise does not matter, then the noise is added to all.
        loud = (self.weight * (self.measured > 2.0 * self.noise)) ** 2
        scale = (self.log_measured - model) @ loud / max(float(loud.sum()), 1e-12)
        expected = np.hypot(np.exp(model + scale[:, None]), self.noise)
        # A quiet frame says little about the logarithm of what lies under its noise.
        sure = self.measured / np.hypot(self.measured, self.noise)
        residuals = (np.log(expected) - self.log_measured) * (self.weight * sure)
        costs = np.minimum(residuals**2, 0.5).sum(axis=1)
        return np.asarray(residuals[int(np.argmin(costs))])


@dataclass(frozen=True)
class _Passage:
    """One way through the critical speed: its frames, and what spring and damper hold there, shared by all axes."""

    frames: IntArray
    t_s: FloatArray
    drive: _Drive
    held: dict[tuple[float, float], FloatArray]

    @classmethod
    def along(cls, track: SpeedTrack, curves: OrderCurves, use: BoolArray, *, steps_hz: float) -> _Passage:
        frames = np.flatnonzero(use)
        frames = frames[:: max(1, frames.size // MOST_FRAMES)]
        t_s = curves.t_s[frames]
        drive = _Drive.along(track, span=(float(t_s[0]) - 3.0, float(t_s[-1]) + 0.5), rate_hz=steps_hz)
        return cls(frames, t_s, drive, {})

    def log_held(self, f0: float, damping: float) -> FloatArray:
        """Logarithm of the force held for unit unbalance, up to scale [shape=(frames,)]."""
        if (f0, damping) not in self.held:
            self.held[f0, damping] = np.log(self.drive.amplitude(f0, damping, self.t_s) + 1e-12)
        return self.held[f0, damping]


@dataclass(frozen=True, kw_only=True)
class _Drive:
    """The rotating force along the measured speed, on a slow even clock."""

    t_s: FloatArray
    rate_hz: float
    force: FloatArray
    omega: FloatArray
    carrier: FloatArray
    window: FloatArray

    @classmethod
    def along(cls, track: SpeedTrack, *, span: tuple[float, float], rate_hz: float) -> _Drive:
        t_s = np.arange(span[0], span[1], 1.0 / rate_hz)
        turns = track.turns_at(t_s)
        omega = 2 * np.pi * np.gradient(turns, t_s)
        alpha = np.gradient(omega, t_s)
        phase = 2j * np.pi * turns
        window = np.hanning(int(WINDOW_S * rate_hz) + 2)[1:-1]
        force = ((omega**2 - 1j * alpha) * np.exp(phase)).real
        omega = np.maximum(omega, 1.0)
        return cls(
            t_s=t_s, rate_hz=rate_hz, force=force, omega=omega, carrier=np.exp(-phase), window=window / window.sum()
        )

    def amplitude(self, f0: float, damping: float, at_s: FloatArray) -> FloatArray:
        """Force held by spring and damper for unit unbalance, up to scale [shape like at_s]."""
        w = 2 * np.pi * f0
        bent = 2 * self.rate_hz * np.tan(w / (2 * self.rate_hz))
        # Bilinear rule in closed form; `bent` undoes its bending of frequencies, so the resonance stays at f0.
        k = 2.0 * self.rate_hz
        c, w2 = 2 * damping * bent, bent**2
        b = (c * k + w2, 2 * w2, w2 - c * k)
        a = (k * k + c * k + w2, 2 * w2 - 2 * k * k, k * k - c * k + w2)
        held = sps.lfilter(b, a, self.force)
        # As the sensor does: acceleration is demodulated. Divided by the drum's own rate squared it is a displacement
        # again, but what rings on at the critical speed keeps the weight that it has for the sensor.
        moved = np.diff(held, 2, prepend=held[0], append=held[-1]) * self.rate_hz**2
        step = max(1, self.window.size // 12)
        base = sps.upfirdn(self.window, moved * self.carrier, down=step)
        offset = (self.window.size - 1) / 2 / self.rate_hz
        times = self.t_s[0] + np.arange(base.size) * step / self.rate_hz - offset
        omega = np.interp(times, self.t_s, self.omega)
        return np.asarray(np.interp(at_s, times, 2.0 * np.abs(base) / omega**2))
