"""What the ribbon, the order map, the clock and the ear need of a run, as plain data that is stored, and back again."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

import numpy as np

from eager_ear.core.signals.angle import ORDER_STEP, SpeedTrack, TurnMotion, order_map
from eager_ear.core.signals.dsp import median_along
from eager_ear.core.signals.run_measurement import RunMeasurement
from eager_ear.core.signals.sound import SpinProfile
from eager_ear.core.units import FloatArray

# The drum's own multiples, which no learning is needed for.
DRUM_ORDERS = range(1, 9)
TURN_CELLS = 48


def curves_dict(run: RunMeasurement | None) -> dict[str, Any]:
    """What the ribbon, the order map and the clock are drawn from; numbers are rounded, unknown ones None."""
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
    if run.level_db is not None and run.level_scatter is not None:
        out["level_db"] = _plain(run.level_db, 1)
        out["roughness"] = _plain(run.level_scatter, 3)
    if run.acceleration is not None:
        out["order_map"] = _order_map(run)
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
    if run.turn_motion is not None:
        out["turn_motion"] = _turn_motion(run.turn_motion)
    if run.spectra and run.race_lines:
        out["envelope"] = _envelope(run)
    if run.profile is not None:
        out["profile"] = _profile(run.profile)
    if run.audio_name is not None:
        out["sound"] = _sound(run)
    return out


def _sound(run: RunMeasurement) -> dict[str, Any]:
    """Which recording was heard, when it began, and the multiples of the drum's rate that sound in it."""
    learnt = [float(order) for order in run.family.orders] if run.family is not None else []
    orders = sorted({round(order, 4) for order in [*map(float, DRUM_ORDERS), *learnt]})
    return {"name": run.audio_name, "start_s": round(run.audio_start_s, 4), "orders": orders}


def track_of(curves: Mapping[str, Any] | None) -> SpeedTrack | None:
    """The speed out of curves that were stored, None where they hold none."""
    stored = curves or {}
    if not stored.get("t_s"):
        return None
    rpm = np.array([np.nan if value is None else value for value in stored["rpm"]], dtype=float)
    sigma = np.array([np.nan if value is None else value for value in stored["sigma_rpm"]], dtype=float)
    return SpeedTrack(
        t_s=np.array(stored["t_s"], dtype=float),
        rate_hz=np.nan_to_num(rpm) / 60.0,
        known=np.isfinite(rpm),
        sigma_hz=np.nan_to_num(sigma) / 60.0,
        source=str(stored.get("source", "")),
    )


def _turn_motion(motion: TurnMotion) -> dict[str, Any]:
    """The axis that moves most over one turn, and every axis' 1x, 2x and 3x."""
    return {
        "speed_rpm": round(motion.speed_rpm, 1),
        "axis": motion.axis_names[motion.main_axis],
        "profile_mm": _plain(motion.displacement_mm(TURN_CELLS)[motion.main_axis], 5),
        "orders_mm": {
            name: _plain(np.abs(row), 5) for name, row in zip(motion.axis_names, motion.amplitude_mm, strict=True)
        },
        "orders_mm_sigma": {name: _plain(row, 5) for name, row in zip(motion.axis_names, motion.sigma_mm, strict=True)},
    }


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


def _order_map(run: RunMeasurement, columns: int = 40, rows: int = 60) -> dict[str, Any]:
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
            grid[row] = 20.0 * np.log10(median_along(values[inside], axis=0) + 1e-6)
    middle = float(np.nanmedian(grid)) if np.isfinite(grid).any() else 0.0
    return {
        "order_step": ORDER_STEP,
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
