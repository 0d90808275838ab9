"""Entries of the diary, typed for the interface from the same description that the core reads them by.

Bodies are described here and read there: the models below are only their schema, so that a refused entry is answered by
itself and does not stop the others.
"""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime
from functools import reduce
from operator import or_
from typing import TYPE_CHECKING, Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, SkipValidation, create_model

from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.diagnosis.knowledge import Check, ValueSpec
from eager_ear.core.fields import AnyValues, Clearable, Code, Day, Flag, Id, Items, Number, Record, Text
from eager_ear.core.visit import Entry, kinds_of
from eager_ear.knowledge import load_knowledge
from eager_ear.use_cases.visits.diary import Written
from eager_ear.use_cases.visits.pen import Refused, Taken
from eager_ear.web.schemas.base import Strict
from eager_ear.web.schemas.visits.jobs import JobOut

# Nothing is read by these models, they only tell their schema: what reads by them is never built.
STRICT = ConfigDict(extra="forbid", defer_build=True)


def _camel(code: str) -> str:
    return "".join(part.capitalize() for part in code.split("_"))


def _literal(choices: tuple[str, ...]) -> Any:
    return Literal[choices]


def _type(field: Any, name: str) -> Any:
    """The annotation of a field."""
    if isinstance(field, Clearable):
        return _type(field.of, name) | None
    if isinstance(field, Record):
        return _model(name, field)
    if isinstance(field, Items):
        return list[_type(field.of, name)]  # type: ignore[misc]
    if isinstance(field, Code):
        return _literal(field.choices) if field.choices else str
    if isinstance(field, Number):
        return int if field.whole else float
    plain: dict[type, Any] = {Text: str, Id: str, Day: str, Flag: bool, AnyValues: dict[str, Any]}
    return plain[type(field)]


def _model(name: str, record: Record) -> type[BaseModel]:
    fields: dict[str, Any] = {}
    for key, field in record.keys.items():
        needed = key in record.needs
        attribute = key if key not in ("for", "in") else f"{key}_"
        annotation = _type(field, f"{name}{_camel(key)}")
        default: Any = ... if needed else None
        fields[attribute] = (
            annotation if needed else annotation | None,
            Field(default, alias=key) if attribute != key else default,
        )
    made: type[BaseModel] = create_model(name, __config__=STRICT, **fields)
    return made


def _value_type(spec: ValueSpec) -> Any:
    if spec.kind == "choice":
        return _literal(spec.choices)
    if spec.kind == "choices":
        return list[_literal(spec.choices)]  # type: ignore[misc]
    if spec.kind == "ohms":
        return float | Literal["open"]
    return {"number": float, "numbers": list[float], "flag": bool}[spec.kind]


def _check_model(check: Check) -> type[BaseModel]:
    """A check's code with its values, so that knowing the one narrows the other."""
    name = f"{_camel(check.code)}Check"
    values: dict[str, Any] = {spec.name: (_value_type(spec) | None, None) for spec in check.values}
    inner = create_model(f"{_camel(check.code)}Values", __config__=STRICT, **values)
    made: type[BaseModel] = create_model(
        name, __config__=STRICT, check=(_literal((check.code,)), ...), values=(inner, ...)
    )
    return made


def _entry_model(kind: str, body: Any) -> type[BaseModel]:
    made: type[BaseModel] = create_model(
        f"{_camel(kind)}Entry",
        __config__=STRICT,
        id=(str, ...),
        kind=(_literal((kind,)), ...),
        made_at=(datetime, ...),
        device=(str, ""),
        body=(body | None, None),
        replaces=(str | None, None),
    )
    return made


def _entry_union(knowledge: Knowledge) -> Any:
    """Any entry, told apart by its kind; checks told apart once more by which check it is."""
    checks = reduce(or_, (_check_model(check) for check in knowledge.checks.values()))
    bodies: Mapping[str, Any] = {
        code: Annotated[checks, Field(discriminator="check")]
        if code == "check"
        else _model(f"{_camel(code)}Body", kind.body)
        for code, kind in kinds_of(knowledge).items()
    }
    entries = reduce(or_, (_entry_model(code, body) for code, body in bodies.items()))
    return Annotated[entries, Field(discriminator="kind")]


if TYPE_CHECKING:
    AnyEntry = Any
else:
    AnyEntry = _entry_union(load_knowledge())


class EntriesIn(Strict):
    """Entries to write. sent_at : what the device's clock says as it sends them."""

    entries: list[SkipValidation[AnyEntry]]
    sent_at: datetime | None = None


class JobIn(EntriesIn):
    """A job to open, under the id that its device gave it. practice : to learn by, counting for nothing"""

    id: str
    practice: bool = False


class ProblemOut(BaseModel):
    code: str
    field: str | None
    message: str


class EntryAnswer(BaseModel):
    """What became of an entry: the number under which it is kept, or why it was not taken."""

    id: str | None
    seq: int | None = None
    problem: ProblemOut | None = None

    @classmethod
    def of(cls, outcome: Taken | Refused) -> EntryAnswer:
        if isinstance(outcome, Taken):
            return cls(id=outcome.id, seq=outcome.seq)
        problem = ProblemOut(code=outcome.code, field=outcome.field, message=outcome.message)
        return cls(id=outcome.id, problem=problem)


class ClockOut(BaseModel):
    """A device's clock that is off, and what follows from it."""

    off_s: float
    message: str

    @classmethod
    def of(cls, off_s: float) -> ClockOut:
        minutes = abs(off_s) / 60.0
        far = f"{minutes:.0f} minutes" if minutes < 90 else f"{minutes / 60:.0f} hours"
        way = "ahead" if off_s > 0 else "behind"
        said = f"This device's clock is {far} {way}. Its entries are put in the order in which they arrive."
        return cls(off_s=round(off_s, 1), message=said)


class WrittenOut(BaseModel):
    """Answers in the order in which the entries were sent, and the job as it is now."""

    entries: list[EntryAnswer]
    job: JobOut
    clock: ClockOut | None = None

    @classmethod
    def of(cls, written: Written, job: JobOut) -> WrittenOut:
        return cls(
            entries=[EntryAnswer.of(o) for o in written.outcomes],
            job=job,
            clock=ClockOut.of(written.clock_off_s) if written.clock_off_s is not None else None,
        )


class EntryOut(BaseModel):
    """An entry as it is kept."""

    id: str
    seq: int
    kind: str
    made_at: datetime
    received_at: datetime
    by: str | None
    device: str
    body: dict[str, Any] | None
    replaces: str | None
    counts: bool

    @classmethod
    def of(cls, entry: Entry, *, counts: bool) -> EntryOut:
        return cls(
            id=entry.id,
            seq=entry.seq,
            kind=entry.kind,
            made_at=entry.made_at,
            received_at=entry.received_at,
            by=entry.by,
            device=entry.device,
            body=dict(entry.body) if entry.body is not None else None,
            replaces=entry.replaces,
            counts=counts,
        )


class HistoryOut(BaseModel):
    """Entries by number; `counts` tells whether one was neither replaced nor withdrawn."""

    entries: list[EntryOut]
