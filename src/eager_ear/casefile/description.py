"""case.json to and from core types, without the recordings' samples."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from eager_ear.casefile.errors import FileProblem
from eager_ear.core.case import Case, HandCheck, RecordingFacts, require_code
from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.errors import BadField, InputError
from eager_ear.core.fields import Text, finite, uuid_text, well_formed
from eager_ear.core.hands import validate_values
from eager_ear.core.machine import Machine

CASE_FORMAT = "eager-ear-case/1"
CASE_KEYS = {"format", "id", "job", "machine", "complaint", "checks", "recordings"}
MACHINE_KEYS = {
    "layout",
    "mains_hz",
    "max_spin_rpm",
    "pulley_ratio",
    "bearings",
    "spider_arms",
    "age_years",
    "stacked",
}
RECORDING_KEYS = {"kind", "file", "test", "run", "position", "load", "start_s", "power_cut_s", "pa_per_fs", "recording"}


@dataclass(frozen=True, kw_only=True)
class RecordingEntry:
    """One entry of the list of recordings: its facts, its file, its calibration, and its id where it has a diary."""

    facts: RecordingFacts
    file: str
    pa_per_fs: float | None = None
    recording: str | None = None


@dataclass(frozen=True, kw_only=True)
class CaseDescription:
    """case.json, checked. `warnings` tell of keys that were ignored; `job` : the id of the job written out."""

    case: Case
    recordings: tuple[RecordingEntry, ...]
    warnings: tuple[str, ...]
    job: str | None = None


def parse_description(data: Any, *, knowledge: Knowledge, file: str = "case.json") -> CaseDescription:
    """Check and convert the content of case.json.

    Raises
    ------
    FileProblem
        Names the file and the field that cannot be used.
    """
    try:
        return _parse(_mapping(data, "the case"), knowledge)
    except FileProblem:
        raise
    except InputError as exc:
        raise FileProblem(file=file, reason=exc.sentence()) from exc


def _parse(data: Mapping[str, Any], knowledge: Knowledge) -> CaseDescription:
    if data.get("format") != CASE_FORMAT:
        raise BadField(field="format", reason=f"“{data.get('format')}” is not “{CASE_FORMAT}”.")
    warnings = [f"unknown key “{key}” ignored" for key in data if key not in CASE_KEYS]
    machine = _machine(_mapping(data.get("machine"), "machine"), warnings)
    complaint = _mapping(data.get("complaint") or {}, "complaint")
    symptoms = tuple(
        require_code(str(code), field_name="complaint.symptoms", known=tuple(knowledge.symptoms))
        for code in _list(complaint.get("symptoms"), "complaint.symptoms")
    )
    checks = tuple(
        _check(_mapping(entry, f"checks[{i}]"), knowledge)
        for i, entry in enumerate(_list(data.get("checks"), "checks"))
    )
    recordings = tuple(
        _recording(_mapping(entry, f"recordings[{i}]"), f"recordings[{i}]", warnings)
        for i, entry in enumerate(_list(data.get("recordings"), "recordings"))
    )
    names = [entry.file for entry in recordings]
    if len(set(names)) != len(names):
        raise BadField(field="recordings", reason="two entries name the same file.")
    case = Case(
        id=_short(data.get("id"), "id", longest=200),
        machine=machine,
        symptoms=tuple(dict.fromkeys(symptoms)),
        note=_short(complaint.get("note"), "complaint.note", longest=10_000),
        checks=checks,
    )
    job = _text(data, "job", "the case")
    return CaseDescription(
        case=case,
        recordings=recordings,
        warnings=tuple(warnings),
        job=uuid_text(job, field="job") if job is not None else None,
    )


def _machine(data: Mapping[str, Any], warnings: list[str]) -> Machine:
    warnings += [f"unknown key “machine.{key}” ignored" for key in data if key not in MACHINE_KEYS]
    bearings = _mapping(data.get("bearings") or {}, "machine.bearings")
    mains = _number(data, "mains_hz", "machine")
    arms = _number(data, "spider_arms", "machine")
    stacked = data.get("stacked")
    if stacked is not None and not isinstance(stacked, bool):
        raise BadField(field="machine.stacked", reason="is neither true nor false.")
    return Machine(
        layout=str(data.get("layout") or ""),
        mains_hz=int(mains) if mains is not None else None,
        max_spin_rpm=_number(data, "max_spin_rpm", "machine"),
        pulley_ratio=_number(data, "pulley_ratio", "machine"),
        front_bearing=_text(bearings, "front", "machine.bearings"),
        rear_bearing=_text(bearings, "rear", "machine.bearings"),
        spider_arms=int(arms) if arms is not None else 3,
        age_years=_number(data, "age_years", "machine"),
        stacked=stacked,
    )


def _check(data: Mapping[str, Any], knowledge: Knowledge) -> HandCheck:
    code = require_code(str(data.get("check")), field_name="checks.check", known=tuple(knowledge.checks))
    values = _mapping(data.get("values") or {}, f"checks.{code}.values")
    return HandCheck(check=code, values=validate_values(code, values, knowledge=knowledge))


def _recording(data: Mapping[str, Any], field: str, warnings: list[str]) -> RecordingEntry:
    warnings += [f"unknown key “{field}.{key}” ignored" for key in data if key not in RECORDING_KEYS]
    file = _text(data, "file", field)
    if not file:
        raise BadField(field=f"{field}.file", reason="is missing.")
    run = data.get("run")
    start = _number(data, "start_s", field)
    facts = RecordingFacts(
        name=file,
        kind=str(data.get("kind") or ""),
        test=str(data.get("test") or ""),
        run=_short(run, f"{field}.run", longest=100) if run is not None else None,
        position=_text(data, "position", field),
        load=_text(data, "load", field),
        start_s=start if start is not None else 0.0,
        power_cut_s=_number(data, "power_cut_s", field),
    )
    uuid = _text(data, "recording", field)
    return RecordingEntry(
        facts=facts,
        file=file,
        pa_per_fs=_number(data, "pa_per_fs", field),
        recording=uuid_text(uuid, field=f"{field}.recording") if uuid is not None else None,
    )


def _short(value: Any, field: str, *, longest: int) -> str:
    """A text, or a number as one, of at most so many characters; nothing for none."""
    if value is None:
        return ""
    if isinstance(value, bool | Mapping | list):
        raise BadField(field=field, reason="is neither a text nor a number.")
    return Text(longest=longest).read(
        value if isinstance(value, str) else f"{finite(value, field=field):g}", field=field
    )


def _mapping(value: Any, field: str) -> Mapping[str, Any]:
    if not isinstance(value, Mapping):
        raise BadField(field=field, reason="is not an object with keys.")
    return value


def _list(value: Any, field: str) -> list[Any]:
    if value is None:
        return []
    if not isinstance(value, list):
        raise BadField(field=field, reason="is not a list.")
    return value


def _number(data: Mapping[str, Any], key: str, field: str) -> float | None:
    value = data.get(key)
    if value is None:
        return None
    return finite(value, field=f"{field}.{key}")


def _text(data: Mapping[str, Any], key: str, field: str) -> str | None:
    value = data.get(key)
    if value is None:
        return None
    return well_formed(value, field=f"{field}.{key}")


def machine_to_json(machine: Machine) -> dict[str, Any]:
    """The machine by the format's keys, unknown ones left out."""
    bearings = {k: v for k, v in (("front", machine.front_bearing), ("rear", machine.rear_bearing)) if v is not None}
    values: dict[str, Any] = {
        "layout": machine.layout,
        "mains_hz": machine.mains_hz,
        "max_spin_rpm": machine.max_spin_rpm,
        "pulley_ratio": machine.pulley_ratio,
        "bearings": bearings or None,
        "spider_arms": machine.spider_arms,
        "age_years": machine.age_years,
        "stacked": machine.stacked,
    }
    return {key: value for key, value in values.items() if value is not None}


def description_to_json(
    case: Case, recordings: tuple[RecordingEntry, ...], *, job: str | None = None
) -> dict[str, Any]:
    """case.json's content for a case and its list of recordings; `job` where a diary goes with it."""
    return {
        "format": CASE_FORMAT,
        "id": case.id,
        **({"job": job} if job is not None else {}),
        "machine": machine_to_json(case.machine),
        "complaint": {"symptoms": list(case.symptoms), "note": case.note},
        "checks": [{"check": c.check, "values": dict(c.values)} for c in case.checks],
        "recordings": [_recording_to_json(entry) for entry in recordings],
    }


def _recording_to_json(entry: RecordingEntry) -> dict[str, Any]:
    facts = entry.facts
    values = {
        "kind": facts.kind,
        "file": entry.file,
        "test": facts.test,
        "run": facts.run,
        "position": facts.position,
        "load": facts.load,
        "start_s": facts.start_s,
        "power_cut_s": facts.power_cut_s,
        "pa_per_fs": entry.pa_per_fs,
        "recording": entry.recording,
    }
    return {key: value for key, value in values.items() if value is not None}
