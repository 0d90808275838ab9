"""The result in the open result format, and the curves that the pictures are drawn from, as plain data."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

import numpy as np

from eager_ear.core.analysis import Analysis
from eager_ear.core.diagnosis import ACCESS_WORDS, Suspect
from eager_ear.core.signals.corners import CornerComparison
from eager_ear.core.signals.decay import BounceDecay
from eager_ear.core.signals.orders import order_map
from eager_ear.core.signals.run_measurement import RunMeasurement
from eager_ear.core.signals.speed_track import track_points
from eager_ear.core.signals.spin_profile import SpinProfile
from eager_ear.core.units import FloatArray

RESULT_FORMAT = "eager-ear-result/1"
EVIDENCE_SHOWN = 24


def result_dict(analysis: Analysis) -> dict[str, Any]:
    """The result format; figures that could not be made are absent and named among the warnings."""
    warnings = [
        {"code": w.code, "message": w.message, **({"recording": w.recording} if w.recording else {})}
        for w in analysis.warnings
    ]
    lead = analysis.lead
    if lead is not None:
        warnings += [
            {"code": "not_measured", "message": f"{quantity.capitalize()} could not be measured: {reason}"}
            for quantity, reason in lead.absent.items()
        ]
    return {
        "format": RESULT_FORMAT,
        "suspects": [_suspect(s) for s in analysis.call.suspects],
        "measurements": measurements(lead) if lead is not None else {},
        **({"run": lead.key} if lead is not None and len(analysis.runs) > 1 else {}),
        **({"bounces": [_bounce(b) for b in analysis.bounces]} if analysis.bounces else {}),
        **({"corners": _corners(analysis.corners)} if analysis.corners is not None else {}),
        "runs": [{"run": run.key, "measurements": measurements(run)} for run in analysis.runs],
        "next_checks": [
            {
                "check": c.check,
                "gain_bits": round(c.gain_bits, 3),
                "minutes": round(c.minutes, 1),
                "name": c.name,
                "how": c.how,
                "access": c.access,
                "access_words": ACCESS_WORDS[c.access],
                "outcomes": [
                    {
                        "level": o.level,
                        "chance": round(o.chance, 4),
                        "leader": o.leader,
                        "leader_probability": round(o.leader_probability, 4),
                    }
                    for o in c.outcomes
                ],
            }
            for c in analysis.call.next_checks
        ],
        "advice": analysis.call.advice,
        "headline": analysis.call.headline,
        "because": analysis.call.because,
        "warnings": warnings,
    }


def _bounce(bounce: BounceDecay) -> dict[str, float]:
    return {
        "critical_rpm": round(60 * bounce.rate_hz, 1),
        "suspension_damping_ratio": round(bounce.damping_ratio, 4),
        "suspension_damping_ratio_sigma": round(bounce.damping_sigma, 4),
        "friction_share": round(bounce.friction_share, 3),
    }


def _corners(comparison: CornerComparison) -> dict[str, Any]:
    return {
        "speed_rpm": [round(rpm) for rpm in comparison.speed_rpm],
        "levels": [
            {"corner": c.corner, "level_db": round(c.level_db, 2), "sigma_db": round(c.sigma_db, 2)}
            for c in comparison.corners
        ],
    }


def _suspect(suspect: Suspect) -> dict[str, Any]:
    out: dict[str, Any] = {
        "fault": suspect.fault,
        "name": suspect.name,
        "short": suspect.short,
        # Never 0 or 1: no evidence is that good, and odds must stay finite for whoever reads this.
        "probability": round(min(max(suspect.probability, 1e-6), 1.0 - 1e-6), 6),
        "prior_db": round(suspect.prior_db, 2),
        "posterior_db": round(suspect.prior_db + sum(p.decibans for p in suspect.pulls), 2),
    }
    if suspect.stage is not None:
        out["stage"] = suspect.stage
    out["evidence"] = [
        {
            "finding": p.reading.text,
            "weight_db": round(p.decibans, 2),
            "code": p.reading.finding.code,
            "name": p.reading.finding.name,
            "source": p.reading.source,
            "level": p.reading.level,
            "reason": p.reading.finding.reason,
            **({"value": round(p.reading.value, 4)} if p.reading.value is not None else {}),
            **({"sigma": round(p.reading.sigma, 4)} if p.reading.sigma is not None else {}),
            **({"unit": p.reading.finding.unit} if p.reading.finding.unit else {}),
        }
        for p in suspect.pulls[:EVIDENCE_SHOWN]
    ]
    return out


def measurements(run: RunMeasurement) -> dict[str, Any]:
    """Figures of one run by the result format's names, each only when it was measured."""
    out: dict[str, Any] = {}
    if run.track is not None:
        out["spin_rpm_max"] = round(run.track.max_rpm, 1)
        out["speed_track"] = track_points(run.track, rests=run.rests)
    if run.suspension:
        fit = run.suspension[0]
        out["critical_rpm"] = round(60 * fit.critical_hz, 1)
        out["critical_rpm_sigma"] = round(60 * fit.critical_sigma_hz, 1)
        out["suspension_damping_ratio"] = round(fit.damping_ratio, 4)
        out["suspension_damping_ratio_sigma"] = round(fit.damping_sigma, 4)
    amplitudes = _order_amplitudes(run)
    if amplitudes:
        out["order_amplitudes_mm"] = amplitudes
    if run.impacts:
        out["impacts_per_rev"] = run.impacts_per_rev
    if run.slip is not None:
        out["belt_slip_pct"] = round(run.slip.slip_pct, 2)
        out["belt_slip_pct_sigma"] = round(run.slip.sigma_pct, 2)
    if run.drag is not None:
        out["coast_down_s"] = round(run.drag.time_to_rest_s, 2)
        out["turns_to_rest"] = round(run.drag.turns_to_rest, 1)
    if run.phases is not None and run.phases.power_cut_s is not None:
        out["power_cut_s"] = round(run.phases.power_cut_s, 2)
    if run.persistence is not None:
        out["noise_change_motor_off_db"] = round(run.persistence.change_db, 2)
    if run.growth is not None:
        out["growth_exponent"] = round(run.growth.exponent, 2)
    _suspension_peaks(run, out)
    _sound_figures(run, out)
    if run.slope is not None:
        out["level_db_per_doubling"] = round(run.slope.db_per_doubling, 2)
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
    if run.hum is not None and run.hum.seconds > 0:
        out["hum_s"] = round(run.hum.seconds, 1)
    if run.drag is not None:
        out["drag_terms"] = [float(f"{v:.3g}") for v in (run.drag.coulomb, run.drag.viscous, run.drag.quadratic)]
        out["drag_terms_sigma"] = [float(f"{v:.2g}") for v in run.drag.sigma]


def _order_amplitudes(run: RunMeasurement) -> dict[str, float]:
    """Displacement at full speed along the axis where 1x is largest [mm]."""
    curves = run.curves
    if curves is None or not curves.known.any():
        return {}
    fast = curves.known & (curves.rate_hz > 0.95 * np.percentile(curves.rate_hz[curves.known], 97))
    if fast.sum() < 4:
        return {}
    axis = int(np.argmax(np.median(curves.displacement_mm(1)[:, fast], axis=1)))
    return {str(k): round(float(np.median(curves.displacement_mm(k)[axis, fast])), 5) for k in (1, 2, 3)}


def curves_dict(run: RunMeasurement | None) -> dict[str, Any]:
    """What the ribbon, the carpet and the clock are drawn from; numbers are rounded, unknown ones None."""
    if run is None or run.track is None or run.phases is None:
        return {}
    track = run.track
    out: dict[str, Any] = {
        "t_s": _plain(track.t_s, 3),
        "rpm": _plain(np.where(track.known, track.rate_hz * 60.0, np.nan), 1),
        "sigma_rpm": _plain(np.where(track.known, track.sigma_hz * 60.0, np.nan), 2),
        "source": track.source,
        "phases": [
            {"name": p.name, "start_s": round(p.start_s, 2), "end_s": round(p.end_s, 2)} for p in run.phases.parts
        ],
        "power_cut_s": run.phases.power_cut_s,
    }
    if run.level_db is not None and run.roughness is not None:
        out["level_db"] = _plain(run.level_db, 1)
        out["roughness"] = _plain(run.roughness, 3)
    if run.acceleration is not None:
        out["carpet"] = _carpet(run)
    if run.curves is not None:
        axis = int(np.argmax(np.median(run.curves.displacement_mm(1), axis=1)))
        shown = np.where(run.curves.significant(1), run.curves.displacement_mm(1)[axis], np.nan)
        out["first_order_mm"] = _plain(shown, 4)
    if run.impacts:
        loudest = max(run.impacts.values(), key=lambda i: (i.per_turn > 0, i.peak_db))
        out["turn_profile"] = {
            "band": loudest.band,
            "per_turn": loudest.per_turn,
            "peak_db": round(loudest.peak_db, 1),
            "profile_db": _plain(loudest.profile_db, 2),
        }
    if run.spectra and run.race_lines:
        out["envelope"] = _envelope(run)
    if run.profile is not None:
        out["profile"] = _profile(run.profile)
    return out


def _profile(profile: SpinProfile) -> dict[str, Any]:
    return {
        "step": [int(k) for k in profile.step],
        "centre_hz": _plain(profile.centre_hz, 1),
        "level_db": [_plain(row, 2) for row in profile.level_db],
        "shake_db": _plain(profile.shake_db, 2),
        "calibrated": profile.calibrated,
    }


def profile_of(curves: Mapping[str, Any] | None) -> SpinProfile | None:
    """The spin's profile out of curves that were stored, None where they hold none."""
    stored = (curves or {}).get("profile")
    if stored is None:
        return None
    centre_hz = np.array(stored["centre_hz"], dtype=float)
    return SpinProfile(
        step=np.array(stored["step"], dtype=int),
        centre_hz=centre_hz,
        level_db=np.array(stored["level_db"], dtype=float).reshape(len(stored["step"]), centre_hz.size),
        shake_db=np.array(stored["shake_db"], dtype=float),
        calibrated=bool(stored["calibrated"]),
    )


def _carpet(run: RunMeasurement, columns: int = 40, rows: int = 60) -> dict[str, Any]:
    """Order amplitudes against speed, in dB over the middle, for display."""
    if run.acceleration is None or run.track is None:
        return {}
    values = order_map(run.acceleration, track=run.track, order_count=columns)
    rate = run.track.rate_hz * 60.0
    top = run.track.max_rpm
    edges = np.linspace(0.0, top * 1.02, rows + 1)
    grid = np.full((rows, columns), np.nan)
    for row in range(rows):
        inside = run.track.known & (rate >= edges[row]) & (rate < edges[row + 1])
        if inside.any():
            grid[row] = 20.0 * np.log10(np.nanmedian(values[inside], axis=0) + 1e-6)
    middle = float(np.nanmedian(grid)) if np.isfinite(grid).any() else 0.0
    return {
        "order_step": 0.125,
        "rpm_edges": [round(float(e), 1) for e in edges],
        "db": [_plain(line - middle, 1) for line in grid],
    }


def _envelope(run: RunMeasurement) -> dict[str, Any]:
    """The envelope spectrum in the band of the surest line, thinned by maxima, with the lines that were found."""
    line = run.race_lines[0]
    seen_in = (line.band_hz, line.segment_turns)
    spectrum = next((s for s in run.spectra if (s.band_hz, s.segment_turns) == seen_in), run.spectra[0])
    inside = (spectrum.order > 0.4) & (spectrum.order < 18.0)
    step = max(1, int(inside.sum() / 600))
    count = int(inside.sum()) // step
    order = spectrum.order[inside][: count * step].reshape(count, step)
    ratio = spectrum.ratio[inside][: count * step].reshape(count, step)
    best = ratio.argmax(axis=1)
    picked = np.arange(count)
    return {
        "band_hz": list(spectrum.band_hz),
        "order": _plain(order[picked, best], 3),
        "ratio_db": _plain(10.0 * np.log10(np.maximum(ratio[picked, best], 0.1)), 1),
        "lines": [
            {
                "bearing": found.bearing,
                "race": found.race,
                "order": round(found.order, 3),
                "nominal_order": round(found.nominal_order, 3),
                "ratio_db": round(found.ratio_db, 1),
                "false_alarm": float(f"{found.false_alarm:.2g}"),
            }
            for found in run.race_lines[:4]
        ],
    }


def _plain(values: FloatArray, digits: int) -> list[float | None]:
    return [round(float(v), digits) if math.isfinite(v) else None for v in values]
