"""One step of a plan as the interface needs it: what is done, its dangers, screws, looks, and what helps when stuck."""

from __future__ import annotations

from pydantic import BaseModel

from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.repair import Step, Word
from eager_ear.core.repair.records import Aid
from eager_ear.core.strip import PlannedStep
from eager_ear.core.strip.tightening import opposite_order
from eager_ear.use_cases.repairs.stripping import Stripping


class WordOut(BaseModel):
    code: str
    name: str
    says: str

    @classmethod
    def of(cls, word: Word) -> WordOut:
        return cls(code=word.code, name=word.name, says=word.says)


class FastenersOut(BaseModel):
    """cell : of the tray, counted through the whole plan; orders : of tightening, by how many there are."""

    group: str
    kind: str
    least: int
    most: int
    drive: str
    cell: int
    orders: dict[int, list[int]]


class RungOut(BaseModel):
    do: str
    risk: str


class LadderOut(BaseModel):
    name: str
    rungs: list[RungOut]
    stop_when: str


class ConditionOut(BaseModel):
    code: str
    name: str
    means: str
    weighs: bool


class LookOut(BaseModel):
    part: str
    name: str
    conditions: list[ConditionOut]


class PlannedStepOut(BaseModel):
    """A step in its place; `step` is its layout and id, None for an act that is no step of its own."""

    step: str | None
    name: str
    do: str
    note_first: str
    back: str
    minutes: float
    waits_min: float
    times: int
    people: int
    place: str
    photo: bool
    optional: bool
    cure: bool
    hazards: list[WordOut]
    fasteners: list[FastenersOut]
    looks: list[LookOut]
    ladder: LadderOut | None
    gap_expected: str | None
    aid: Aid | None
    no_way_back: str | None


class Cells:
    """Cells of the tray: each group of screws has one, the same off and on."""

    def __init__(self) -> None:
        self._cells: dict[tuple[str, str], int] = {}

    def of(self, step: str, group: str) -> int:
        return self._cells.setdefault((step, group), len(self._cells) + 1)


def step_of(planned: PlannedStep, stripping: Stripping, knowledge: Knowledge, cells: Cells) -> PlannedStepOut:
    """A step or act in its place, with all that stands beside it."""
    step = planned.step
    if step is None:
        return PlannedStepOut(
            step=None,
            name=planned.says,
            do="",
            note_first="",
            back="",
            minutes=planned.minutes,
            waits_min=0.0,
            times=1,
            people=1,
            place="bench",
            photo=False,
            optional=planned.optional,
            cure=False,
            hazards=[],
            fasteners=[],
            looks=[],
            ladder=None,
            gap_expected=None,
            aid=None,
            no_way_back=None,
        )
    repair = knowledge.repair
    ladder = repair.ladders.get(step.trouble or "")
    no_way_back = step.no_way_back if stripping.setting.holds(step.no_way_back_if) else None
    return PlannedStepOut(
        step=f"{stripping.plan.layout}/{step.id}",
        name=step.name,
        do=step.do,
        note_first=step.note_first,
        back=step.back,
        minutes=planned.minutes,
        waits_min=step.waits_min,
        times=step.times,
        people=step.people,
        place=step.place,
        photo=step.photo,
        optional=planned.optional,
        cure=step.cure,
        hazards=[WordOut.of(repair.hazards[h]) for h in step.hazards],
        fasteners=_fasteners(step, cells),
        looks=[_look(part, knowledge) for part in step.looks],
        ladder=LadderOut(
            name=ladder.name,
            rungs=[RungOut(do=r.do, risk=r.risk) for r in ladder.rungs],
            stop_when=ladder.stop_when,
        )
        if ladder is not None
        else None,
        gap_expected=step.gap_expected,
        aid=step.aid,
        no_way_back=no_way_back,
    )


def _fasteners(step: Step, cells: Cells) -> list[FastenersOut]:
    return [
        FastenersOut(
            group=f.group,
            kind=f.kind,
            least=f.count[0],
            most=f.count[1],
            drive=f.drive,
            cell=cells.of(step.id, f.group),
            orders={n: list(opposite_order(n)) for n in range(max(3, f.count[0]), f.count[1] + 1)},
        )
        for f in step.fasteners
    ]


def _look(part: str, knowledge: Knowledge) -> LookOut:
    look = knowledge.looks[part]
    return LookOut(
        part=part,
        name=look.name,
        conditions=[
            ConditionOut(code=c.code, name=c.name, means=c.means, weighs=c.check is not None)
            for c in look.conditions.values()
        ],
    )
