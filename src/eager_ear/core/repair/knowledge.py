"""Repairs read from the tables of their files."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any, get_args

from eager_ear.core.machine import LAYOUT_CODES
from eager_ear.core.repair.guides import Level, guides_of
from eager_ear.core.repair.needs import read_need
from eager_ear.core.repair.records import (
    GATES,
    Aid,
    Consumable,
    Due,
    Fasteners,
    Fit,
    Ladder,
    LookAlike,
    Part,
    Path,
    Posture,
    ProofTest,
    Repair,
    Rung,
    School,
    Step,
    Word,
)
from eager_ear.core.repair.stock import stock_rules_of


def repair_of(tables: Mapping[str, Mapping[str, Any]]) -> Repair:
    """Repairs from the tables `paths`, `parts`, `words`, `proofs`, `guides`, `stock` and one `steps/…` a file.

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
        variants={code: Word(code=code, name=r["name"], says=r["tell"]) for code, r in words["variant"].items()},
        proofs={code: _proof(code, row) for code, row in tables["proofs"]["proof"].items()},
        follow_ups={
            code: tuple(Due(**due) for due in row["at"]) for code, row in tables["proofs"]["follow_up"].items()
        },
        advice=dict(words["advice"]),
        guides=guides_of(tables["guides"]),
        stock=stock_rules_of(tables["stock"]),
    )


def layouts_of(value: str | list[str]) -> tuple[str, ...]:
    """Layouts as the files write them. Raises ValueError for one that is not known."""
    layouts = LAYOUT_CODES if value == "all" else tuple(value)
    if not set(layouts) <= set(LAYOUT_CODES):
        raise ValueError(f"unknown layout in {value}")
    return layouts


def _proof(code: str, row: Mapping[str, Any]) -> ProofTest:
    levels = tuple(Level(**level) for level in row.get("levels", []))
    return ProofTest(code=code, **{**row, "levels": levels})


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
        aid=_aid(row),
        opposite=row.get("opposite"),
    )


_ACT = re.compile(r"=(?:(\d+) )?(.+)")


def _fit(text: str) -> Fit:
    act = _ACT.fullmatch(text)
    if act is not None:
        return Fit(act=act[2], minutes=float(act[1] or 0.0))
    need = read_need(text)
    return Fit(steps=need.steps, optional=need.optional)


def _aid(row: Mapping[str, Any]) -> Aid | None:
    aid: Aid | None = row.get("aid")
    if aid is not None and aid not in get_args(Aid):
        raise ValueError(f"step {row['id']} is helped by an unknown {aid}")
    return aid


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
