"""Strip: steps taken, screws counted, parts compared, what was seen on opening."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from eager_ear.core.diagnosis.knowledge import Knowledge
from eager_ear.core.errors import BadField
from eager_ear.core.visit.fields import Code, Flag, Id, Number, Record
from eager_ear.core.visit.said import Body, Kind, Said, of

WAYS = ("off", "on")
STATES = ("done", "skipped", "stuck")


@dataclass(frozen=True, kw_only=True)
class Counted:
    """Fasteners of one group of a step, out and in; None where nobody counted."""

    step: str
    group: str
    out: int | None
    into: int | None


@dataclass(frozen=True, kw_only=True)
class Strip:
    """Bodies as they were entered, the latest of each step, part and condition."""

    steps: tuple[Mapping[str, Any], ...]
    counted: tuple[Counted, ...]
    compared: tuple[Mapping[str, Any], ...]
    seen: tuple[Mapping[str, Any], ...]


def kinds(_: Knowledge) -> tuple[Kind, ...]:
    """What may be entered at this station."""
    count = Number(low=0, high=200, whole=True)
    return (
        Kind(
            code="step",
            station="strip",
            says=of("step", "way"),
            body=Record(
                keys={
                    "step": Code(),
                    "way": Code(choices=WAYS),
                    "state": Code(choices=STATES),
                    "rung": Number(low=0, high=20, whole=True),
                },
                needs=("step", "way", "state"),
            ),
        ),
        Kind(
            code="counted",
            station="strip",
            says=_says_counted,
            check=_one_way,
            body=Record(keys={"step": Code(), "group": Code(), "out": count, "in": count}, needs=("step", "group")),
        ),
        Kind(
            code="compared",
            station="strip",
            says=of("part"),
            body=Record(keys={"part": Code(), "same": Flag(), "photo": Id()}, needs=("part", "same")),
        ),
        Kind(
            code="seen",
            station="strip",
            says=of("part"),
            body=Record(keys={"part": Code(), "condition": Code()}, needs=("part", "condition")),
        ),
    )


def _one_way(body: Body) -> None:
    if ("out" in body) == ("in" in body):
        raise BadField(field="out", reason="say either how many came out, or how many went in.")


def _says_counted(body: Body) -> dict[str, Any]:
    return {f"{body['step']}.{body['group']}.{way}": body[way] for way in ("out", "in") if way in body}


def fold(said: Said) -> Strip:
    """Steps by name and way, counts by group, parts."""
    groups: dict[tuple[str, str], dict[str, int]] = {}
    for statement in said.newest("counted").values():
        body = statement.entry.body or {}
        way = "out" if "out" in body else "in"
        groups.setdefault((body["step"], body["group"]), {})[way] = statement.value
    return Strip(
        steps=tuple(s.value for s in said.newest("step").values()),
        counted=tuple(
            Counted(step=step, group=group, out=ways.get("out"), into=ways.get("in"))
            for (step, group), ways in groups.items()
        ),
        compared=tuple(s.value for s in said.newest("compared").values()),
        seen=tuple(s.value for s in said.newest("seen").values()),
    )
