"""What one hand check says by itself, at once: against its limits, on a sound machine and with a fault.

The call weighs all evidence together; this is for the one who has just measured, and wants to know whether that is
usual, whether to measure again, and what to do next.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from eager_ear.core.diagnosis.evidence import Reading, read_check
from eager_ear.core.diagnosis.knowledge import Knowledge, ValueSpec
from eager_ear.core.hands import (
    belt_tension_n,
    damping_from_swings,
    fit_gap_round,
    foot_turns,
    swings_from_peaks,
    validate_values,
)

CORNERS = ("front left", "front right", "rear right", "rear left")
# A reading that is so much more usual with a fault than without one speaks for it; as much less, against it.
SPEAKS = 2.0
MOST_FAULTS = 3


@dataclass(frozen=True, kw_only=True)
class Meaning:
    """How usual a reading is with one fault. chance : of such a reading, in a hundred machines with it."""

    fault: str
    name: str
    chance: float


@dataclass(frozen=True, kw_only=True)
class Verdict:
    """One finding of the check.

    text : what was found, with its standard error; level : what that is called; says : what it means
    limits : between the levels, in `unit`; reason : where they come from
    calm : chance of such a reading on a machine without a fault that touches it
    speaks_for : faults with which it is more usual; clears : with which it is rarer
    """

    finding: str
    name: str
    text: str
    level: str
    levels: tuple[str, ...]
    unit: str
    value: float | None
    sigma: float | None
    limits: tuple[float, ...]
    reason: str
    says: str
    calm: float
    speaks_for: tuple[Meaning, ...]
    clears: tuple[Meaning, ...]


@dataclass(frozen=True, kw_only=True)
class Judged:
    """All findings of one check, the sums behind them by name, and what to do next, if anything.

    asks : about values that can be but hardly are, to be answered once
    """

    verdicts: tuple[Verdict, ...]
    sums: Mapping[str, float]
    then: str | None
    asks: tuple[str, ...]


def judge(check: str, values: Mapping[str, Any], *, layout: str | None, knowledge: Knowledge) -> Judged:
    """Judge the values of a check, on a machine of that layout where it is known.

    Raises
    ------
    InputError
        Values that the check does not have, or out of range.
    """
    known = validate_values(check, values, knowledge=knowledge)
    readings = read_check(check, known, findings=knowledge.findings, layout=layout)
    sums, then = _SUMS[check](known) if check in _SUMS and readings else ({}, None)
    return Judged(
        verdicts=tuple(_verdict(reading, layout, knowledge) for reading in readings),
        sums=sums,
        then=then,
        asks=tuple(_asks(known, knowledge.checks[check].values)),
    )


def _asks(values: Mapping[str, Any], specs: Iterable[ValueSpec]) -> Iterator[str]:
    for spec in specs:
        given = values.get(spec.name)
        if spec.usual is None or given is None:
            continue
        low, high = spec.usual
        odd = [v for v in (given if isinstance(given, (list, tuple)) else [given]) if not low <= v <= high]
        if odd:
            said = " and ".join(f"{v:g}" for v in odd[:2])
            yield f"{spec.label}: {said} {spec.unit} is hardly met; usual is {low:g} to {high:g}. Is it so?"


def _verdict(reading: Reading, layout: str | None, knowledge: Knowledge) -> Verdict:
    finding = reading.finding
    calm = float(reading.level_likelihood @ finding.calm)
    meanings = [
        Meaning(fault=code, name=knowledge.faults[code].short, chance=float(reading.level_likelihood @ column))
        for code, column in finding.given.items()
        if layout is None or layout in knowledge.faults[code].layouts
    ]
    meanings.sort(key=lambda m: -m.chance)
    level = int(np.argmax(reading.level_likelihood))
    return Verdict(
        finding=finding.code,
        name=finding.name,
        text=reading.text,
        level=finding.levels[level],
        levels=finding.levels,
        unit=finding.unit,
        value=reading.value,
        sigma=reading.sigma,
        limits=finding.limits_for(layout),
        reason=finding.reason,
        says=finding.says[level] if finding.says else "",
        calm=calm,
        speaks_for=tuple(m for m in meanings if m.chance > SPEAKS * calm)[:MOST_FAULTS],
        clears=tuple(m for m in reversed(meanings) if SPEAKS * m.chance < calm)[:MOST_FAULTS],
    )


Sums = tuple[dict[str, float], str | None]


def _gap_round(values: Mapping[str, Any]) -> Sums:
    fit = fit_gap_round(values["gaps_mm"])
    sums = {
        "mean_mm": fit.mean_mm,
        "runout_mm": fit.runout_mm,
        "runout_sigma_mm": fit.runout_sigma_mm,
        "widest_deg": fit.widest_deg,
    }
    if fit.oval_mm is None or fit.oval_sigma_mm is None:
        return sums, "Read more places: five or more also show whether the rim is oval."
    sums |= {"oval_mm": fit.oval_mm, "oval_sigma_mm": fit.oval_sigma_mm}
    is_oval = fit.oval_mm > 2.0 * fit.oval_sigma_mm and fit.oval_mm > fit.runout_mm
    return sums, "The rim itself is oval: that is the tub or the drum, not its axis." if is_oval else None


def _bounce(values: Mapping[str, Any]) -> Sums:
    swings = swings_from_peaks(values["peaks_mm"]) if "peaks_mm" in values else float(values["swings"])
    where = (
        None
        if values.get("corner", "centre") == "centre"
        else "Push the other corners as well: one that differs tells more."
    )
    return {"swings": swings, "damping_ratio": damping_from_swings(swings)}, where


def _rock(values: Mapping[str, Any]) -> Sums:
    gaps = values["gap_mm"]
    worst = int(np.argmax(gaps))
    turns = foot_turns(gaps[worst])
    then = None
    if turns >= 0.25:
        then = f"Screw the {CORNERS[worst]} foot out by {turns:.1f} turns, lock its nut, and rock again."
    return {"turns": turns, "foot": float(worst)}, then


def _belt_pluck(values: Mapping[str, Any]) -> Sums:
    tension = belt_tension_n(span_hz=values["hz"], span_mm=values["span_mm"], kg_per_m=values["kg_per_m"])
    return {"tension_n": tension}, None


def _hot_cutout(values: Mapping[str, Any]) -> Sums:
    if "rests_min" not in values:
        return {}, "Wait until it starts again: the time tells how hot it was."
    duty = values["runs_min"] / max(values["runs_min"] + values["rests_min"], 1e-6)
    return {"duty": duty}, "Before the motor is blamed: fabric at the basket, a jammed pump, binding bearings."


def _staged_fill(values: Mapping[str, Any]) -> Sums:
    where = values["leaks_at"]
    if where == "none":
        return {}, None
    seal = {"lower": "tub seal", "middle": "spin-tube seal", "upper": "shaft seal"}[where]
    return {}, f"It is the {seal}: the levels below it stayed dry."


_SUMS: Mapping[str, Callable[[Mapping[str, Any]], Sums]] = {
    "drum_gap_round": _gap_round,
    "bounce": _bounce,
    "rock": _rock,
    "belt_pluck": _belt_pluck,
    "hot_cutout": _hot_cutout,
    "staged_fill": _staged_fill,
}
