"""Strip: how the machine stands, steps taken, screws counted, parts compared, what was seen on opening."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from eager_ear.core.diagnosis.knowledge import Knowledge, Look
from eager_ear.core.errors import BadField
from eager_ear.core.fields import Clearable, Code, Flag, Id, Number, Record
from eager_ear.core.repair import VARIANTS
from eager_ear.core.visit.said import Body, Kind, Said, Statement, each_key, of

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
class StepTaken:
    """The latest word on one way of one step, named by layout and id. rung : how far up the ladder, if it stuck."""

    step: str
    way: str
    state: str
    rung: int | None
    entry: str
    at: datetime

    @property
    def step_id(self) -> str:
        """Its id without the layout."""
        return re.split("[/.:]", self.step)[-1]


@dataclass(frozen=True, kw_only=True)
class Seen:
    """What a part was found to be; `check` with its `values` where a hand check would say the same."""

    part: str
    condition: str
    check: str | None
    values: Mapping[str, Any]
    entry: str
    at: datetime


@dataclass(frozen=True, kw_only=True)
class Strip:
    """The latest of each step, group, part; stands : posture, people, variants of the machine, where somebody said."""

    steps: tuple[StepTaken, ...]
    counted: tuple[Counted, ...]
    compared: tuple[Mapping[str, Any], ...]
    seen: tuple[Seen, ...]
    stands: Mapping[str, Any]

    def state_of(self, step_id: str, way: str) -> StepTaken | None:
        """What was said of a step, on the way off or on."""
        return next((s for s in self.steps if s.step_id == step_id and s.way == way), None)

    def is_done(self, step_id: str, way: str) -> bool:
        taken = self.state_of(step_id, way)
        return taken is not None and taken.state == "done"


def kinds(knowledge: Knowledge) -> tuple[Kind, ...]:
    """What may be entered at this station."""
    count = Number(low=0, high=200, whole=True)
    return (
        Kind(
            code="stands",
            station="strip",
            says=each_key,
            body=Record(
                keys={
                    "posture": Clearable(of=Code(choices=tuple(knowledge.repair.postures))),
                    "people": Number(low=1, high=4, whole=True),
                    **{group: Code(choices=codes) for group, codes in VARIANTS.items()},
                }
            ),
        ),
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


def fold(said: Said, *, looks: Mapping[str, Look]) -> Strip:
    """Steps by name and way, counts by group, parts."""
    groups: dict[tuple[str, str], dict[str, int]] = {}
    for statement in said.newest("counted").values():
        body = statement.entry.body or {}
        way = "out" if "out" in body else "in"
        groups.setdefault((body["step"], body["group"]), {})[way] = statement.value
    return Strip(
        steps=tuple(
            StepTaken(
                step=s.value["step"],
                way=s.value["way"],
                state=s.value["state"],
                rung=s.value.get("rung"),
                entry=s.entry.id,
                at=s.entry.counts_at,
            )
            for s in said.newest("step").values()
        ),
        counted=tuple(
            Counted(step=step, group=group, out=ways.get("out"), into=ways.get("in"))
            for (step, group), ways in groups.items()
        ),
        compared=tuple(s.value for s in said.newest("compared").values()),
        stands={question: s.value for question, s in said.newest("stands").items() if s.value is not None},
        seen=tuple(_seen(s, looks) for s in said.newest("seen").values()),
    )


def _seen(statement: Statement, looks: Mapping[str, Look]) -> Seen:
    part, condition = statement.value["part"], statement.value["condition"]
    look = looks.get(part)
    known = look.conditions.get(condition) if look is not None else None
    return Seen(
        part=part,
        condition=condition,
        check=known.check if known is not None else None,
        values=dict(known.values) if known is not None else {},
        entry=statement.entry.id,
        at=statement.entry.counts_at,
    )
