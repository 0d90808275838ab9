"""Figures of one run by the result format's names, as plain data."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from eager_ear.core.signals.angle import FRAME_STEP_S, ORDERS, WINDOW_S, track_points
from eager_ear.core.signals.run_measurement import RunMeasurement
from eager_ear.core.units import FloatArray

# Of normal scatter: the standard error of a median against a mean's, and a standard deviation against the median
# distance from the middle.
MEDIAN_ERROR = 1.2533
SIGMA_OF_MAD = 1.4826


def figures(run: RunMeasurement) -> dict[str, Any]:
    """Figures of one run by the result format's names, each only when it was measured."""
    out: dict[str, Any] = {}
    if run.track is not None:
        out["spin_rpm_max"] = round(run.track.max_rpm, 1)
        out["spin_rpm_max_sigma"] = round(run.track.max_rpm_sigma, 2)
        out["speed_track"] = track_points(run.track, rests=run.rests)
    if run.suspension:
        fit = run.suspension[0]
        out["critical_rpm"] = round(60 * fit.critical_hz, 1)
        out["critical_rpm_sigma"] = round(60 * fit.critical_sigma_hz, 1)
        out["suspension_damping_ratio"] = round(fit.damping_ratio, 4)
        out["suspension_damping_ratio_sigma"] = round(fit.damping_sigma, 4)
    if run.stop_hits is not None:
        out["stop_hits"] = run.stop_hits.count
        out["stop_hits_turns"] = round(run.stop_hits.turns, 1)
    amplitudes = _order_amplitudes(run)
    if amplitudes is not None:
        middle, error = amplitudes
        out["order_amplitudes_mm"] = {str(k): round(float(v), 5) for k, v in zip(ORDERS, middle, strict=True)}
        out["order_amplitudes_mm_sigma"] = {str(k): round(float(v), 5) for k, v in zip(ORDERS, error, strict=True)}
    if run.impacts_per_rev is not None:
        out["impacts_per_rev"] = run.impacts_per_rev
    if run.impact is not None:
        out["impact"] = {
            "band": run.tied_impacts.band if run.tied_impacts is not None else "",
            "count": run.impact.count,
            "hz": round(run.impact.frequency_hz, 1),
            "decay_ms": round(run.impact.decay_ms, 2) if run.impact.decay_ms is not None else None,
            "likeness": round(run.impact.likeness, 2),
        }
    if run.slip is not None:
        out["belt_slip_pct"] = round(run.slip.slip_pct, 2)
        out["belt_slip_pct_sigma"] = round(run.slip.sigma_pct, 2)
    if run.coast_down is not None:
        out["coast_down_s"] = round(run.coast_down.time_to_rest_s, 2)
        out["coast_down_s_sigma"] = round(run.coast_down.time_sigma_s, 2)
        out["turns_to_rest"] = round(run.coast_down.turns_to_rest, 1)
        out["turns_to_rest_sigma"] = round(run.coast_down.turns_sigma, 1)
    if run.phases is not None and run.phases.power_cut_s is not None:
        out["power_cut_s"] = round(run.phases.power_cut_s, 2)
    if run.persistence is not None:
        out["noise_change_motor_off_db"] = round(run.persistence.change_db, 2)
        out["noise_change_motor_off_db_sigma"] = round(run.persistence.sigma_db, 2)
    if run.growth is not None:
        out["growth_exponent"] = round(run.growth.exponent, 2)
        out["growth_exponent_sigma"] = round(run.growth.sigma, 2)
    _suspension_peaks(run, out)
    _sound_figures(run, out)
    if run.slope is not None:
        out["level_db_per_doubling"] = round(run.slope.db_per_doubling, 2)
        out["level_db_per_doubling_sigma"] = round(run.slope.sigma, 2)
    return out


def _suspension_peaks(run: RunMeasurement, out: dict[str, Any]) -> None:
    """Both peaks where the two directions differ by more than their errors and a tenth."""
    if len(run.suspension) == 2:
        a, b = run.suspension
        apart = abs(a.critical_hz - b.critical_hz)
        if apart > max(3.0 * math.hypot(a.critical_sigma_hz, b.critical_sigma_hz), 0.1 * a.critical_hz):
            out["critical_rpm_peaks"] = sorted(round(60 * f.critical_hz, 1) for f in run.suspension)


def _sound_figures(run: RunMeasurement, out: dict[str, Any]) -> None:
    if run.lag is not None:
        out["sound_lag_s"] = round(run.lag.lag_s, 3)
        out["sound_lag_s_sigma"] = round(run.lag.sigma_s, 3)
    if run.bands is not None:
        unit = "db_spl" if run.bands.calibrated else "dbfs"
        out[f"level_a_{unit}"] = round(run.bands.a_weighted_db, 1)
        out[f"third_octaves_{unit}"] = [
            [round(float(f), 1), round(float(v), 1)]
            for f, v in zip(run.bands.centre_hz, run.bands.level_db, strict=True)
        ]
    if run.tone is not None:
        out["prominent_tone"] = {
            "hz": round(run.tone.frequency_hz, 1),
            "ratio_db": round(run.tone.ratio_db, 1),
            "over_limit_db": round(run.tone.over_limit_db, 1),
        }
    if run.arrival is not None:
        out["ramp_s"] = round(run.arrival.ramp_s, 1)
        out["plateau_s"] = round(run.arrival.plateau_s, 1)
    if run.current is not None:
        out["motor_running_a"] = round(run.current.running_a, 2)
        out["motor_running_a_sigma"] = round(run.current.running_sigma_a, 2)
        if run.current.starting_a is not None:
            out["motor_starting_a"] = round(run.current.starting_a, 2)
    if run.hum is not None and run.hum.seconds > 0 and not run.hum.steady:
        out["hum_s"] = round(run.hum.seconds, 1)
    if run.coast_down is not None:
        out["drag_terms"] = [
            float(f"{v:.3g}") for v in (run.coast_down.coulomb, run.coast_down.viscous, run.coast_down.quadratic)
        ]
        out["drag_terms_sigma"] = [float(f"{v:.2g}") for v in run.coast_down.sigma]


def _order_amplitudes(run: RunMeasurement) -> tuple[FloatArray, FloatArray] | None:
    """Displacement at 1x, 2x and 3x at full speed, along the axis where 1x is largest, and its standard error
    [shape=(orders,) each, mm]; None where no full speed was followed.

    The error of a median of frames that overlap (Kenney & Keeping, Mathematics of Statistics, section 13.12), and what
    the sensor's noise alone would show.
    """
    curves = run.curves
    if curves is None or not curves.known.any():
        return None
    fast = curves.known & (curves.rate_hz > 0.95 * np.percentile(curves.rate_hz[curves.known], 97))
    if fast.sum() < 4:
        return None
    axis = int(np.argmax(np.median(curves.displacement_mm(1)[:, fast], axis=1)))
    frames = np.stack([curves.displacement_mm(k)[axis, fast] for k in ORDERS])
    middle = np.median(frames, axis=1)
    apart = max(fast.sum() * FRAME_STEP_S / WINDOW_S, 1.0)
    scatter = MEDIAN_ERROR * SIGMA_OF_MAD * np.median(np.abs(frames - middle[:, None]), axis=1) / np.sqrt(apart)
    omega = 2.0 * np.pi * np.asarray(ORDERS) * float(np.median(curves.rate_hz[fast]))
    noise = 1000.0 * float(curves.noise_m_s2[axis]) / omega**2 / np.sqrt(apart)
    return middle, np.hypot(scatter, noise)
