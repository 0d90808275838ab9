"""Readings from hand checks.

What is seen, picked or measured is read as its finding in the knowledge says (`reads`); what has to be computed first
is one small function a check, all with one signature.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Any

from eager_ear.core.case import HandCheck
from eager_ear.core.diagnosis.evidence.readings import Reading, read_level, read_number
from eager_ear.core.diagnosis.knowledge import Finding
from eager_ear.core.hands import belt_tension_n, capacitor_excess, fit_gap_round, swings_from_peaks
from eager_ear.core.units import plus_minus

Values = Mapping[str, Any]
Findings = Mapping[str, Finding]
Reader = Callable[[Values, Findings], list[Reading]]
CONDUCTS_OHM = 5.0
OPEN_OHM = 1e5


def read_plainly(finding: Finding, values: Values) -> Reading | None:
    """A value that needs no computing: seen or not, picked, or measured; None where it was not entered."""
    reads = finding.reads
    if reads is None or reads.value not in values:
        return None
    value = values[reads.value]
    if isinstance(value, bool):
        bad = value is reads.bad_when
        text = reads.bad if bad else reads.good
        return read_level(finding, finding.levels[1 if bad else 0], text=text, source="hand")
    if isinstance(value, str):
        return read_level(finding, value, text=f"{reads.words}: {value.replace('_', ' ')}", source="hand")
    text = f"{reads.words} {value:g} {finding.unit}".strip()
    return read_number(finding, float(value), sigma=reads.error, text=text, source="hand")


def _rock(values: Values, findings: Findings) -> list[Reading]:
    if "gap_mm" not in values:
        return []
    gap = max(values["gap_mm"])
    return [read_number(findings["rock_gap"], gap, sigma=0.2, text=f"a foot hangs {gap:g} mm free", source="hand")]


def _hand_turn(values: Values, findings: Findings) -> list[Reading]:
    if "turns_after_flick" not in values:
        return []
    turns = float(values["turns_after_flick"])
    text = f"{turns:g} turn{'' if turns == 1.0 else 's'} after a flick"
    return [read_number(findings["free_turns"], max(turns, 0.1), sigma=0.3, text=text, source="hand")]


def _gap_round(values: Values, findings: Findings) -> list[Reading]:
    if "gaps_mm" not in values:
        return []
    fit = fit_gap_round(values["gaps_mm"])
    text = f"run-out {plus_minus(fit.runout_mm, fit.runout_sigma_mm, decimals=1)} mm, widest at {fit.widest_deg:.0f}°"
    return [
        read_number(findings["run_out"], max(fit.runout_mm, 0.05), sigma=fit.runout_sigma_mm, text=text, source="hand")
    ]


def _bounce(values: Values, findings: Findings) -> list[Reading]:
    if "peaks_mm" in values:
        swings = swings_from_peaks(values["peaks_mm"])
    elif "swings" in values:
        swings = float(values["swings"])
    else:
        return []
    where = str(values.get("corner", "")).replace("_", " ")
    text = f"{swings:.1f} swings until still {where}".strip()
    return [read_number(findings["bounce_swings"], swings, sigma=0.5, text=text, source="hand")]


def _sag(values: Values, findings: Findings) -> list[Reading]:
    if "heights_mm" not in values:
        return []
    spread = max(values["heights_mm"]) - min(values["heights_mm"])
    text = f"corners differ by {spread:g} mm"
    return [read_number(findings["sag_range"], spread, sigma=1.0, text=text, source="hand")]


def _corner_rest(values: Values, findings: Findings) -> list[Reading]:
    if "detached" not in values:
        return []
    off = values["detached"]
    text = f"off its seat: {', '.join(c.replace('_', ' ') for c in off)}" if off else "all rods and springs seated"
    return [read_level(findings["rod_off"], "off" if off else "seated", text=text, source="hand")]


def _ratchet(values: Values, findings: Findings) -> list[Reading]:
    if "grips_one_way" not in values:
        return []
    grips = values["grips_one_way"] and values.get("free_other_way", True)
    text = "ratchet grips one way" if grips else "ratchet does not work as it should"
    level = "grips one way" if grips else "does not"
    return [read_level(findings["dogs_grip"], level, text=text, source="hand")]


def _hot_cutout(values: Values, findings: Findings) -> list[Reading]:
    if "runs_min" not in values:
        return []
    minutes = float(values["runs_min"])
    text = f"cuts out after {minutes:g} min"
    return [read_number(findings["cuts_out"], max(minutes, 0.1), sigma=1.0, text=text, source="hand")]


def _belt_pluck(values: Values, findings: Findings) -> list[Reading]:
    if not {"hz", "span_mm", "kg_per_m"} <= set(values):
        return []
    tension = belt_tension_n(span_hz=values["hz"], span_mm=values["span_mm"], kg_per_m=values["kg_per_m"])
    text = f"belt tension {tension:.0f} N"
    return [read_number(findings["belt_tension"], tension, sigma=0.08 * tension, text=text, source="hand")]


def _lid_switch(values: Values, findings: Findings) -> list[Reading]:
    faults = []
    if "closed_ohm" in values and (values["closed_ohm"] == "open" or values["closed_ohm"] > CONDUCTS_OHM):
        faults.append("no continuity when closed")
    if "open_ohm" in values and values["open_ohm"] != "open" and values["open_ohm"] < OPEN_OHM:
        faults.append("continuity when open")
    if not {"closed_ohm", "open_ohm"} & set(values):
        return []
    text = " and ".join(faults) if faults else "switches as it should"
    return [read_level(findings["switch_state"], "does not" if faults else "switches", text=text, source="hand")]


def _capacitor(values: Values, findings: Findings) -> list[Reading]:
    if not {"measured_uf", "rated_uf"} <= set(values):
        return []
    excess = capacitor_excess(
        measured_uf=values["measured_uf"], rated_uf=values["rated_uf"], tolerance_pct=values.get("tolerance_pct", 5.0)
    )
    text = f"{values['measured_uf']:g} µF of {values['rated_uf']:g} µF: {excess:.1f} times its tolerance"
    return [read_number(findings["capacitor_state"], excess, sigma=0.2, text=text, source="hand")]


def _staged_fill(values: Values, findings: Findings) -> list[Reading]:
    if "leaks_at" not in values:
        return []
    where = values["leaks_at"]
    text = "dry at all levels" if where == "none" else f"drips at the {where} seal"
    return [read_level(findings["leak_level"], "dry" if where == "none" else "drips", text=text, source="hand")]


def _motor_amps(values: Values, findings: Findings) -> list[Reading]:
    if not {"running_a", "rated_a"} <= set(values):
        return []
    ratio = values["running_a"] / values["rated_a"]
    text = f"{ratio:.2f} of the rated current"
    return [read_number(findings["overload"], ratio, sigma=0.05 * ratio, text=text, source="hand")]


# By check: what is computed from its values before it says something.
HAND_READERS: Mapping[str, Reader] = {
    "rock": _rock,
    "hand_turn": _hand_turn,
    "drum_gap_round": _gap_round,
    "bounce": _bounce,
    "sag": _sag,
    "corner_rest": _corner_rest,
    "agitator_ratchet": _ratchet,
    "hot_cutout": _hot_cutout,
    "belt_pluck": _belt_pluck,
    "lid_switch_ohms": _lid_switch,
    "capacitor_uf": _capacitor,
    "staged_fill": _staged_fill,
    "motor_amps": _motor_amps,
}


def read_check(check: str, values: Values, *, findings: Findings, layout: str | None) -> list[Reading]:
    """Readings of one check, numbers against the limits of that layout."""
    moved = {code: replace(f, limits=f.limits_for(layout)) for code, f in findings.items() if layout in f.limits_on}
    asked = {**findings, **moved} if moved else findings
    plain = [read_plainly(f, values) for f in asked.values() if f.reads is not None and f.reads.check == check]
    computed = HAND_READERS[check](values, asked) if check in HAND_READERS else []
    readings = [*(r for r in plain if r is not None), *computed]
    return [replace(r, finding=findings[r.finding.code]) if r.finding.code in moved else r for r in readings]


def hand_readings(checks: tuple[HandCheck, ...], *, findings: Findings, layout: str | None = None) -> list[Reading]:
    """Readings of all checks, on a machine of that layout.

    A check that was repeated counts by its last values; of one made at several corners the furthest reading counts, as
    the weakest corner decides how the machine moves.
    """
    latest = {(check.check, check.values.get("corner")): check for check in checks}
    out: dict[str, Reading] = {}
    for check in latest.values():
        for reading in read_check(check.check, check.values, findings=findings, layout=layout):
            before = out.get(reading.finding.code)
            if before is None or (before.value or 0.0) < (reading.value or 0.0):
                out[reading.finding.code] = reading
    return list(out.values())
