"""Repairs as checked, typed values: paths, steps, parts, what hurts, what is tried when something will not come.

A path is one way to mend one fault; a step one small act, named by layout and id. Minutes are those of practised hands.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Literal

from eager_ear.core.machine import LAYOUT_CODES
from eager_ear.core.repair.needs import Need, read_need

Kind = Literal["full", "other_school", "cheaper", "only_failed", "workaround", "watch", "advice"]
Gap = Literal["before", "never"]
# An earth wire, a plug, something that holds tub or machine, a cover.
GATES = ("earth", "plug", "hold", "cover")


@dataclass(frozen=True, kw_only=True)
class Fasteners:
    """Screws, clips or catches of one group: how many a machine may have, and what turns them."""

    group: str
    kind: str
    count: tuple[int, int]
    drive: str


@dataclass(frozen=True, kw_only=True)
class Step:
    """One small act of opening, with its way back; `fit` where it is done only on the way back.

    minutes_off, minutes_on : without trouble, each for one of `times` equal places
    waits_min : time that passes while nobody works
    before : steps that come later if they are planned too; follows : steps after which this one is due on the way back
    closes : the opening step whose way back this one is
    stands_for : steps whose place it takes `only_in` that posture; not_in : postures in which it cannot be done
    no_way_back : why the parts must lie ready; only with the variant `no_way_back_if` where that is told
    nothing_back : what is looked at, measured or taken out for good has nothing to put back
    gates : of `GATES`, what its way back has to do with before power returns
    """

    id: str
    name: str
    layouts: tuple[str, ...]
    needs: tuple[Need, ...]
    do: str
    note_first: str
    back: str
    hazards: tuple[str, ...]
    minutes_off: float
    minutes_on: float
    place: str
    fasteners: tuple[Fasteners, ...]
    looks: tuple[str, ...]
    times: int
    waits_min: float
    people: int
    photo: bool
    gates: tuple[str, ...]
    fit: bool
    optional: bool
    cure: bool
    standing: bool
    nothing_back: bool
    common: bool
    posture: str | None
    only_in: str | None
    not_in: tuple[str, ...]
    stands_for: tuple[str, ...]
    before: tuple[str, ...]
    follows: tuple[str, ...]
    closes: str | None
    trouble: str | None
    no_way_back: str | None
    no_way_back_if: str | None
    back_rank: int | None
    gap_expected: Gap | None
    opposite: str | None


@dataclass(frozen=True, kw_only=True)
class Fit:
    """One thing that is done with the machine open: the first of `steps` that is there, or an act of its own."""

    steps: tuple[str, ...] = ()
    act: str = ""
    minutes: float = 0.0
    optional: bool = False


@dataclass(frozen=True, kw_only=True)
class Path:
    """One way to mend its faults. `fit` holds ids of steps and, behind "=", acts that are no step of their own."""

    id: str
    name: str
    kind: Kind
    faults: tuple[str, ...]
    layouts: tuple[str, ...]
    minutes: tuple[float, float]
    people: tuple[int, int]
    postures: tuple[str, ...]
    goals: tuple[Need, ...]
    fit: tuple[Fit, ...]
    proofs: tuple[str, ...]
    parts: tuple[str, ...]
    optional_parts: tuple[str, ...]
    consumables: tuple[str, ...]
    tools: tuple[Need, ...]
    breaks: str
    not_worth: str
    look_first: str
    school: str
    callback: float
    years: tuple[float, float]
    why: str
    follow_up: str


@dataclass(frozen=True, kw_only=True)
class Part:
    """A part or kit; `typical` in whole units of money, until the shop knows its own price."""

    code: str
    name: str
    typical: tuple[float, float]
    days: int
    look_alike: str | None


@dataclass(frozen=True, kw_only=True)
class LookAlike:
    """Parts that are mistaken for each other: what varies, how to tell, what follows from the wrong one."""

    code: str
    name: str
    varies: str
    tell: str
    if_wrong: str


@dataclass(frozen=True, kw_only=True)
class Word:
    """A code with its plain name and one sentence about it."""

    code: str
    name: str
    says: str


@dataclass(frozen=True, kw_only=True)
class Posture:
    code: str
    name: str
    people: int
    floor: str
    tipped: bool


@dataclass(frozen=True, kw_only=True)
class Rung:
    do: str
    risk: str


@dataclass(frozen=True, kw_only=True)
class Ladder:
    """What is tried when something will not come, mildest first, and when to stop."""

    code: str
    name: str
    rungs: tuple[Rung, ...]
    stop_when: str


@dataclass(frozen=True, kw_only=True)
class Consumable:
    code: str
    name: str
    typical: tuple[float, float]
    about: str


@dataclass(frozen=True, kw_only=True)
class School:
    """A question on which practitioners disagree; `default` is empty where the sum decides."""

    code: str
    name: str
    ways: tuple[Word, ...]
    default: str
    reason: str


@dataclass(frozen=True, kw_only=True)
class ProofTest:
    code: str
    name: str
    how: str
    passes: str
    minutes: float


@dataclass(frozen=True, kw_only=True)
class Due:
    days: int
    what: str


@dataclass(frozen=True, kw_only=True, eq=False)
class Repair:
    """All of it, loaded once: equal only to itself, as the knowledge it belongs to."""

    steps: Mapping[tuple[str, str], Step]
    paths: Mapping[str, Path]
    parts: Mapping[str, Part]
    look_alikes: Mapping[str, LookAlike]
    hazards: Mapping[str, Word]
    postures: Mapping[str, Posture]
    tools: Mapping[str, Word]
    consumables: Mapping[str, Consumable]
    ladders: Mapping[str, Ladder]
    rules: Mapping[str, Word]
    schools: Mapping[str, School]
    proofs: Mapping[str, ProofTest]
    follow_ups: Mapping[str, tuple[Due, ...]]
    advice: Mapping[str, str]

    def paths_of(self, fault: str, *, layout: str) -> tuple[Path, ...]:
        """Ways to mend that fault on that layout, in the order of their file."""
        return tuple(p for p in self.paths.values() if fault in p.faults and layout in p.layouts)

    def steps_of(self, layout: str) -> dict[str, Step]:
        """Steps of one layout by id."""
        return {step_id: step for (where, step_id), step in self.steps.items() if where == layout}


def repair_of(tables: Mapping[str, Mapping[str, Any]]) -> Repair:
    """Repairs from the tables `paths`, `parts`, `words`, `proofs` and one `steps/…` a file.

    Raises
    ------
    ValueError
        A step told twice for a layout, or a need that is not written as one. What does not fit together is found by
        `eager_ear.core.repair.checking`.
    """
    words = tables["words"]
    return Repair(
        steps=_steps(tables),
        paths={code: _path(code, row) for code, row in tables["paths"]["path"].items()},
        parts={
            code: Part(
                code=code,
                name=row["name"],
                typical=_range(row["typical"]),
                days=row["days"],
                look_alike=row.get("look_alike"),
            )
            for code, row in tables["parts"]["part"].items()
        },
        look_alikes={code: LookAlike(code=code, **row) for code, row in tables["parts"]["look_alike"].items()},
        hazards={code: Word(code=code, name=r["hurts"], says=r["caution"]) for code, r in words["hazard"].items()},
        postures={code: Posture(code=code, **row) for code, row in words["posture"].items()},
        tools={code: Word(code=code, name=r["name"], says=r.get("instead", "")) for code, r in words["tool"].items()},
        consumables={
            code: Consumable(code=code, name=r["name"], typical=_range(r["typical"]), about=r.get("about", ""))
            for code, r in words["consumable"].items()
        },
        ladders={
            code: Ladder(
                code=code,
                name=row["name"],
                rungs=tuple(Rung(**rung) for rung in row["rungs"]),
                stop_when=row["stop_when"],
            )
            for code, row in words["ladder"].items()
        },
        rules={code: Word(code=code, name=r["name"], says=r["says"]) for code, r in words["rule"].items()},
        schools={
            code: School(
                code=code,
                name=row["name"],
                ways=tuple(Word(code=w["code"], name=w["name"], says=w["argument"]) for w in row["ways"]),
                default=row["default"],
                reason=row["reason"],
            )
            for code, row in words["school"].items()
        },
        proofs={code: ProofTest(code=code, **row) for code, row in tables["proofs"]["proof"].items()},
        follow_ups={
            code: tuple(Due(**due) for due in row["at"]) for code, row in tables["proofs"]["follow_up"].items()
        },
        advice=dict(words["advice"]),
    )


def layouts_of(value: str | list[str]) -> tuple[str, ...]:
    """Layouts as the files write them. Raises ValueError for one that is not known."""
    layouts = LAYOUT_CODES if value == "all" else tuple(value)
    if not set(layouts) <= set(LAYOUT_CODES):
        raise ValueError(f"unknown layout in {value}")
    return layouts


def _range(values: list[float]) -> tuple[float, float]:
    low, high = values
    return float(low), float(high)


def _steps(tables: Mapping[str, Mapping[str, Any]]) -> dict[tuple[str, str], Step]:
    steps: dict[tuple[str, str], Step] = {}
    for name, table in tables.items():
        if not name.startswith("steps/"):
            continue
        for row in table["step"]:
            step = _step(row, common=name == "steps/common")
            for layout in step.layouts:
                if (layout, step.id) in steps:
                    raise ValueError(f"step {step.id} is told twice for {layout}")
                steps[layout, step.id] = step
    return steps


def _step(row: Mapping[str, Any], *, common: bool) -> Step:
    return Step(
        id=row["id"],
        name=row["name"],
        layouts=layouts_of(row["layouts"]),
        needs=tuple(read_need(text) for text in row["needs"]),
        do=row["do"],
        note_first=row.get("note_first", ""),
        back=row.get("back", ""),
        hazards=tuple(row["hazards"]),
        minutes_off=float(row["minutes"]["off"]),
        minutes_on=float(row["minutes"]["on"]),
        place=row["place"],
        fasteners=tuple(
            Fasteners(group=f["group"], kind=f["kind"], count=(f["count"][0], f["count"][1]), drive=f["drive"])
            for f in row.get("fasteners", ())
        ),
        looks=tuple(row.get("looks", ())),
        times=int(row.get("times", 1)),
        waits_min=float(row.get("waits_min", 0.0)),
        people=int(row.get("people", 1)),
        photo=bool(row.get("photo", False)),
        gates=_gates(row),
        fit=bool(row.get("fit", False)),
        optional=bool(row.get("optional", False)),
        cure=bool(row.get("cure", False)),
        standing=bool(row.get("standing", False)),
        nothing_back=bool(row.get("nothing_back", False)),
        common=common,
        posture=row.get("posture"),
        only_in=row.get("only_in"),
        not_in=tuple(row.get("not_in", ())),
        stands_for=tuple(row.get("stands_for", ())),
        before=tuple(row.get("before", ())),
        follows=tuple(row.get("follows", ())),
        closes=row.get("closes"),
        trouble=row.get("trouble"),
        no_way_back=row.get("no_way_back"),
        no_way_back_if=row.get("no_way_back_if"),
        back_rank=row.get("back_rank"),
        gap_expected=row.get("gap_expected"),
        opposite=row.get("opposite"),
    )


_ACT = re.compile(r"=(?:(\d+) )?(.+)")


def _fit(text: str) -> Fit:
    act = _ACT.fullmatch(text)
    if act is not None:
        return Fit(act=act[2], minutes=float(act[1] or 0.0))
    need = read_need(text)
    return Fit(steps=need.steps, optional=need.optional)


def _gates(row: Mapping[str, Any]) -> tuple[str, ...]:
    gates = tuple(row.get("gates", ()))
    if not set(gates) <= set(GATES):
        raise ValueError(f"step {row['id']} names unknown gates {gates}")
    return gates


def _path(code: str, row: Mapping[str, Any]) -> Path:
    low, high = row["people"]
    return Path(
        id=code,
        name=row["name"],
        kind=row["kind"],
        faults=tuple(row["faults"]),
        layouts=layouts_of(row["layouts"]),
        minutes=_range(row["minutes"]),
        people=(int(low), int(high)),
        postures=tuple(row["postures"]),
        goals=tuple(read_need(text) for text in row["goals"]),
        fit=tuple(_fit(text) for text in row["fit"]),
        proofs=tuple(row["proofs"]),
        parts=tuple(row.get("parts", ())),
        optional_parts=tuple(row.get("optional_parts", ())),
        consumables=tuple(row.get("consumables", ())),
        tools=tuple(read_need(text) for text in row.get("tools", ())),
        breaks=row.get("breaks", ""),
        not_worth=row.get("not_worth", ""),
        look_first=row.get("look_first", ""),
        school=row.get("school", ""),
        callback=float(row["callback"]),
        years=_range(row["years"]),
        why=row["why"],
        follow_up=row["follow_up"],
    )
