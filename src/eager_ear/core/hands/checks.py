"""Values of hand checks, checked against what the knowledge file allows."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

from eager_ear.core.diagnosis.knowledge import Knowledge, ValueSpec
from eager_ear.core.errors import BadField, UnknownCode


def validate_values(check: str, values: Mapping[str, Any], *, knowledge: Knowledge) -> dict[str, Any]:
    """The values that are known, each of the right kind; None and missing ones left out.

    Raises
    ------
    UnknownCode
        No such check, or a choice outside its list.
    BadField
        A value of the wrong kind or out of range.
    """
    if check not in knowledge.checks:
        raise UnknownCode(field="check", value=str(check), known=tuple(knowledge.checks))
    specs = {spec.name: spec for spec in knowledge.checks[check].values}
    return {
        name: _validated(spec, values[name], field=f"{check}.{name}")
        for name, spec in specs.items()
        if values.get(name) is not None
    }


def _validated(spec: ValueSpec, value: Any, *, field: str) -> Any:
    if spec.kind == "number":
        return _number(value, spec, field)
    if spec.kind == "ohms":
        return "open" if value == "open" else _number(value, spec, field)
    if spec.kind == "flag":
        if not isinstance(value, bool):
            raise BadField(field=field, reason=f"“{value}” is neither true nor false.")
        return value
    if spec.kind == "choice":
        return _choice(value, spec, field)
    if not isinstance(value, list) or not spec.count[0] <= len(value) <= spec.count[1]:
        raise BadField(field=field, reason=f"needs a list of {spec.count[0]} to {spec.count[1]} values.")
    one = _number if spec.kind == "numbers" else _choice
    return [one(item, spec, field) for item in value]


def _number(value: Any, spec: ValueSpec, field: str) -> float:
    if isinstance(value, bool) or not isinstance(value, int | float) or not math.isfinite(value):
        raise BadField(field=field, reason=f"“{value}” is not a number.")
    if not spec.low <= value <= spec.high:
        raise BadField(field=field, reason=f"{value:g} is outside {spec.low:g} to {spec.high:g} {spec.unit}.".strip())
    return float(value)


def _choice(value: Any, spec: ValueSpec, field: str) -> str:
    if value not in spec.choices:
        raise UnknownCode(field=field, value=str(value), known=spec.choices)
    return str(value)
