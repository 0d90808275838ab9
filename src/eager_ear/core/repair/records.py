"""Repairs as checked, typed values: paths, steps, parts, what hurts, what is tried when something will not come.

A path is one way to mend one fault; a step one small act, named by layout and id. Minutes are those of practised hands.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from eager_ear.core.repair.guides import Guides, Level
from eager_ear.core.repair.needs import Need
from eager_ear.core.repair.stock import StockRules

Kind = Literal["full", "other_school", "cheaper", "only_failed", "workaround", "watch", "advice"]
Gap = Literal["before", "never"]
Aid = Literal["marks", "shims", "added_mass"]
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
    aid : what helps with it on screen: marks round the clock, the sum of shims, what an added mass does
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
    aid: Aid | None
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
    """levels : of a leak test, in their order."""

    code: str
    name: str
    how: str
    passes: str
    why: str
    minutes: float
    levels: tuple[Level, ...] = ()


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
    variants: Mapping[str, Word]
    proofs: Mapping[str, ProofTest]
    follow_ups: Mapping[str, tuple[Due, ...]]
    advice: Mapping[str, str]
    guides: Guides
    stock: StockRules

    def paths_of(self, fault: str, *, layout: str) -> tuple[Path, ...]:
        """Ways to mend that fault on that layout, in the order of their file."""
        return tuple(p for p in self.paths.values() if fault in p.faults and layout in p.layouts)

    def steps_of(self, layout: str) -> dict[str, Step]:
        """Steps of one layout by id."""
        return {step_id: step for (where, step_id), step in self.steps.items() if where == layout}
