"""Knowledge as it stands in its tables, read and held against itself."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any, get_args

import numpy as np

from eager_ear.core.case import RECORDING_KINDS
from eager_ear.core.diagnosis.evidence import HAND_READERS
from eager_ear.core.diagnosis.knowledge import (
    PHASES,
    Act,
    Chain,
    Check,
    Condition,
    Fault,
    FigureWords,
    Finding,
    First,
    Knowledge,
    Look,
    Reads,
    Symptom,
    ValueSpec,
    Widget,
)
from eager_ear.core.diagnosis.stages import stages_of
from eager_ear.core.machine import LAYOUT_CODES
from eager_ear.core.machine.places import PLACES
from eager_ear.core.repair import Repair, misfits
from eager_ear.core.units import FloatArray


def knowledge_of(tables: Mapping[str, Mapping[str, Any]], *, repair: Repair, version: str) -> Knowledge:
    """The knowledge as the tables `faults`, `symptoms`, `checks`, `looks`, `sound_findings` and `figures` tell it.

    Raises
    ------
    ValueError
        A code that no table tells, odds that are no distribution, or repairs that do not fit.
    """
    faults = {code: _fault(code, row) for code, row in tables["faults"]["fault"].items()}
    symptoms = {
        code: Symptom(
            code=code,
            name=row["name"],
            phases=_phases(code, row),
            example=row.get("example"),
            leak=float(row["leak"]),
            given=dict(row["given"]),
        )
        for code, row in tables["symptoms"]["symptom"].items()
    }
    rows = {**tables["sound_findings"]["finding"], **tables["checks"]["finding"]}
    groups = {
        name: float(row["correlation"])
        for table in ("sound_findings", "checks")
        for name, row in tables[table].get("group", {}).items()
    }
    answered_by = {f: check for check, row in tables["checks"]["check"].items() for f in row["findings"]}
    reads = {code: _reads(code, row, answered_by, tables["checks"]["check"]) for code, row in rows.items()}
    findings = {
        code: replace(_finding(code, row, tuple(faults), groups), reads=reads[code]) for code, row in rows.items()
    }
    checks = {code: _check(code, row, tuple(findings)) for code, row in tables["checks"]["check"].items()}
    for fault in faults.values():
        named = (*fault.first.checks, *fault.first.unless) if fault.first is not None else ()
        if not set(named) <= set(checks):
            raise ValueError(f"fault {fault.code} wants unknown checks {sorted(set(named) - set(checks))} first")
    looks = {code: _look(code, row, checks) for code, row in tables["looks"]["look"].items()}
    having = {fault.code: fault.layouts for fault in faults.values()}
    wrong = misfits(repair, faults=having, looks=looks, checks=checks, symptoms=symptoms)
    if wrong:
        raise ValueError("; ".join(wrong))
    return Knowledge(
        faults=faults,
        symptoms=symptoms,
        findings=findings,
        checks=checks,
        looks=looks,
        figures={code: _figure(code, row, findings) for code, row in tables["figures"]["figure"].items()},
        chains=tuple(_chain(row, faults) for row in tables["faults"].get("chain", ())),
        repair=repair,
        stages=stages_of(
            tables["stages"], levels={code: len(f.levels) for code, f in findings.items()}, symptoms=symptoms
        ),
        silence_weight=float(tables["symptoms"]["silence_weight"]),
        version=version,
    )


def _figure(code: str, row: Mapping[str, Any], findings: Mapping[str, Finding]) -> FigureWords:
    unknown = {*(set(row["from"]) - set(RECORDING_KINDS)), *(set(row["findings"]) - set(findings))}
    if unknown:
        raise ValueError(f"figure {code} names unknown {sorted(unknown)}")
    return FigureWords(
        code=code,
        name=row["name"],
        rests_on=tuple(row["from"]),
        how=row["how"],
        source=row["source"],
        good_to=row.get("good_to", ""),
        findings=tuple(row["findings"]),
    )


def _phases(code: str, row: Mapping[str, Any]) -> tuple[str, ...]:
    phases = tuple(row["phases"])
    if not phases or not set(phases) <= set(PHASES):
        raise ValueError(f"symptom {code} is told in unknown phases {phases}")
    return phases


def _layouts(value: str | list[str]) -> tuple[str, ...]:
    layouts = LAYOUT_CODES if value == "all" else tuple(value)
    if not set(layouts) <= set(LAYOUT_CODES):
        raise ValueError(f"unknown layout in {value}")
    return layouts


def _fault(code: str, row: Mapping[str, Any]) -> Fault:
    return Fault(
        code=code,
        name=row["name"],
        short=row["short"],
        layouts=_layouts(row["layouts"]),
        weight=float(row["weight"]),
        teardown=row["teardown"],
        first=_first(row.get("first")),
    )


def _first(row: Mapping[str, Any] | None) -> First | None:
    if row is None:
        return None
    return First(
        checks=tuple(row["checks"]),
        unless=tuple(row.get("unless", ())),
        layouts=_layouts(row.get("layouts", "all")),
        why=row["why"],
    )


def _chain(row: Mapping[str, Any], faults: Mapping[str, Fault]) -> Chain:
    chain = Chain(cause=row["cause"], effect=row["effect"], chance=float(row["chance"]), why=row["why"])
    if {chain.cause, chain.effect} - set(faults) or not 0.0 < chain.chance < 1.0:
        raise ValueError(f"the chain from {chain.cause} to {chain.effect} names unknown faults or an impossible chance")
    return chain


def _column(values: list[float], *, levels: int) -> FloatArray:
    column = np.asarray(values, dtype=float)
    if column.size != levels or (column < 0).any() or not 0.9 < column.sum() < 1.1:
        raise ValueError(f"{values} is no distribution over {levels} levels")
    return np.asarray(column / column.sum())


def _finding(code: str, row: Mapping[str, Any], faults: tuple[str, ...], groups: Mapping[str, float]) -> Finding:
    levels = tuple(row["levels"])
    unknown = set(row["given"]) - set(faults)
    if unknown:
        raise ValueError(f"finding {code} names unknown faults {unknown}")
    if "group" in row and row["group"] not in groups:
        raise ValueError(f"finding {code} belongs to the group {row['group']}, of which nothing is told")
    return Finding(
        code=code,
        name=row["name"],
        unit=row.get("unit", ""),
        levels=levels,
        limits=tuple(float(v) for v in row.get("limits", ())),
        log_scale=row.get("scale") == "log",
        spread=float(row.get("spread", 0.0)),
        group=row.get("group", code),
        correlation=groups.get(row.get("group", code), 0.0),
        calm=_column(row["calm"], levels=len(levels)),
        given={fault: _column(values, levels=len(levels)) for fault, values in row["given"].items()},
        reason=row["reason"],
        ordered=bool(row.get("ordered", True)),
        says=_says(code, row, len(levels)),
        layouts=_layouts(row.get("layouts", "all")),
        limits_on=_limits_on(code, row),
    )


def _reads(
    code: str, row: Mapping[str, Any], answered_by: Mapping[str, str], checks: Mapping[str, Any]
) -> Reads | None:
    """How the value of a check is read, which belongs to a check, is of a kind that needs no computing, and is told."""
    check = answered_by.get(code)
    if "reads" not in row:
        if check is not None and check not in HAND_READERS:
            raise ValueError(f"finding {code} does not tell what of the check {check} it reads")
        return None
    told = dict(row["reads"])
    values = checks[check]["values"] if check is not None else {}
    if check is None or told.get("value") not in values:
        raise ValueError(f"finding {code} reads {told.get('value')}, which is no value of a check that asks for it")
    kind = values[told["value"]]["kind"]
    if kind == "choice" and set(values[told["value"]]["choices"]) != set(row["levels"]):
        raise ValueError(f"finding {code} has other levels than the choices of {told['value']}")
    wanted = {"flag": {"good", "bad"}, "choice": {"words"}, "number": {"words", "error"}}.get(kind)
    if wanted is None or wanted | {"value"} != set(told) - {"bad_when"}:
        wants = "is computed from" if wanted is None else f"wants {', '.join(sorted(wanted))} of"
        raise ValueError(f"finding {code} {wants} the {kind} {told['value']}")
    return Reads(check=check, **told)


def _limits_on(code: str, row: Mapping[str, Any]) -> dict[str, tuple[float, ...]]:
    on = {layout: tuple(map(float, limits)) for layout, limits in row.get("limits_on", {}).items()}
    unknown = set(on) - set(LAYOUT_CODES)
    if unknown or any(len(limits) != len(row["limits"]) for limits in on.values()):
        raise ValueError(f"finding {code} has limits on unknown layouts {unknown}, or too many of them")
    return on


def _says(code: str, row: Mapping[str, Any], levels: int) -> tuple[str, ...]:
    says = tuple(row.get("says", ()))
    if says and len(says) != levels:
        raise ValueError(f"finding {code} says {len(says)} things of {levels} levels")
    return says


def _check(code: str, row: Mapping[str, Any], findings: tuple[str, ...]) -> Check:
    unknown = set(row["findings"]) - set(findings)
    if unknown:
        raise ValueError(f"check {code} answers unknown findings {unknown}")
    for key, known in (("widget", get_args(Widget)), ("act", get_args(Act))):
        if row[key] not in known:
            raise ValueError(f"check {code} has an unknown {key} {row[key]}; known are {', '.join(known)}")
    specs = tuple(
        ValueSpec(
            name=name,
            kind=spec["kind"],
            label=spec["label"],
            unit=spec.get("unit", ""),
            choices=tuple(spec.get("choices", ())),
            low=float(spec.get("low", 0.0)),
            high=float(spec.get("high", 1e6)),
            count=tuple(spec.get("count", (1, 1))),
            usual=_span(code, spec.get("usual")),
        )
        for name, spec in row["values"].items()
    )
    return Check(
        code=code,
        name=row["name"],
        access=row["access"],
        minutes=float(row["minutes"]),
        layouts=_layouts(row["layouts"]),
        how=row["how"],
        widget=row["widget"],
        places=_places(code, row["place"]),
        act=row["act"],
        values=specs,
        findings=tuple(row["findings"]),
    )


def _span(code: str, told: Any) -> tuple[float, float] | None:
    if told is None:
        return None
    low, high = map(float, told)
    if low >= high:
        raise ValueError(f"check {code} has a usual span from {low} to {high}")
    return low, high


def _places(code: str, told: str | Mapping[str, str]) -> dict[str, str]:
    places = {"front": told, "top": told} if isinstance(told, str) else dict(told)
    if set(places) != {"front", "top"} or not set(places.values()) <= set(PLACES):
        raise ValueError(f"check {code} is made at an unknown place: {places}")
    return places


def _look(code: str, row: Mapping[str, Any], checks: Mapping[str, Check]) -> Look:
    conditions = {}
    for condition, told in row["conditions"].items():
        check, values = told.get("check"), dict(told.get("values", {}))
        if check is not None and (check not in checks or not set(values) <= {v.name for v in checks[check].values}):
            raise ValueError(f"look {code} weighs {condition} as the unknown check {check} with {sorted(values)}")
        conditions[condition] = Condition(
            code=condition,
            name=told["name"],
            check=check,
            values=values,
            means=told.get("means", ""),
            renews=tuple(told.get("renews", ())),
        )
    return Look(part=code, name=row["name"], conditions=conditions)
