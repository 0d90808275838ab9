"""The strip of a job as the interface needs it, whole, so that it can be kept for when there is no signal."""

from __future__ import annotations

from pydantic import BaseModel

from eager_ear.core.cost import Also
from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.repair import Repair, Step, Word
from eager_ear.core.repair.records import Aid
from eager_ear.core.strip import PlannedStep
from eager_ear.core.strip.progress import GateState, closed_by, gates_ahead
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


class PartOut(BaseModel):
    code: str
    name: str
    optional: bool
    consumable: bool
    tell_apart: str | None
    if_wrong: str | None


class GateOut(BaseModel):
    """missing : what is still to be done for it, empty once it is passed."""

    code: str
    asks: str
    steps: list[str]
    missing: str

    @classmethod
    def of(cls, state: GateState) -> GateOut:
        return cls(code=state.gate.code, asks=state.gate.asks, steps=list(state.gate.steps), missing=state.missing)


class PathOut(BaseModel):
    code: str
    name: str
    why: str
    look_first: str
    breaks: str


class ProofOut(BaseModel):
    code: str
    name: str
    how: str
    passes: str
    minutes: float
    optional: bool


class ToolOut(BaseModel):
    """lacking : the shop has not got it."""

    code: str
    name: str
    lacking: bool


class StandOut(BaseModel):
    """One answer to how the machine is gone at: posture, people, or a group of variants. tell : how it is seen"""

    question: str
    answer: str
    name: str
    tell: str
    minutes: float
    tippings: int
    chosen: bool


class StripOut(BaseModel):
    """agreed : the customer said yes to these repairs; unstack : a dryer comes off first.

    unmended : what the call holds likely by now, and these repairs leave; also : what mending it too would add
    gates_ahead, closed_by : by which a device without a signal tells how the gates before power stand
    """

    layout: str
    paths: list[PathOut]
    agreed: bool
    unstack: bool
    unmended: list[str]
    also: Also | None
    off: list[PlannedStepOut]
    fit: list[PlannedStepOut]
    on: list[PlannedStepOut]
    proofs: list[ProofOut]
    least_minutes: float
    most_minutes: float
    waits_min: float
    people: int
    tippings: int
    tools: list[ToolOut]
    van: list[PartOut]
    gates: list[GateOut]
    rules: list[WordOut]
    ways: list[StandOut]
    pace: float
    gates_ahead: list[GateOut]
    closed_by: dict[str, list[str]]

    @classmethod
    def of(cls, stripping: Stripping, *, knowledge: Knowledge) -> StripOut:
        plan, repair = stripping.plan, knowledge.repair
        cells = _Cells()
        off = [p.step for p in plan.off if p.step is not None]
        return cls(
            layout=plan.layout,
            paths=[
                PathOut(
                    code=p.id,
                    name=p.name,
                    why=p.why,
                    look_first=p.look_first,
                    breaks=p.breaks,
                )
                for p in stripping.paths
            ],
            agreed=stripping.agreed,
            unstack=stripping.unstack,
            unmended=[knowledge.faults[f].short for f in stripping.unmended],
            also=stripping.also,
            off=[_step(p, stripping, knowledge, cells) for p in plan.off],
            fit=[_step(p, stripping, knowledge, cells) for p in plan.fit],
            on=[_step(p, stripping, knowledge, cells) for p in plan.on],
            proofs=[_proof(code, knowledge) for code in plan.proofs],
            least_minutes=plan.minutes[0],
            most_minutes=plan.minutes[1],
            waits_min=plan.waits_min,
            people=plan.people,
            tippings=plan.tippings,
            tools=[ToolOut(code=c, name=repair.tools[c].name, lacking=c in stripping.lacks) for c in plan.tools],
            van=_van(stripping, knowledge),
            gates=[GateOut.of(gate) for gate in stripping.gates],
            rules=[WordOut.of(rule) for rule in repair.rules.values()],
            ways=[
                StandOut(
                    question=way.question,
                    answer=way.answer,
                    name=_way_name(way.answer, repair),
                    tell=repair.variants[way.answer].says if way.answer in repair.variants else "",
                    minutes=way.minutes,
                    tippings=way.tippings,
                    chosen=way.chosen,
                )
                for way in stripping.ways
            ],
            pace=stripping.pace,
            gates_ahead=[
                GateOut(code=gate.code, asks=gate.asks, steps=list(gate.steps), missing="")
                for gate in gates_ahead(off, setting=stripping.setting)
            ],
            closed_by={
                step: list(closing) for step, closing in closed_by(off, repair=repair, layout=plan.layout).items()
            },
        )


class _Cells:
    """Cells of the tray: each group of screws has one, the same off and on."""

    def __init__(self) -> None:
        self._cells: dict[tuple[str, str], int] = {}

    def of(self, step: str, group: str) -> int:
        return self._cells.setdefault((step, group), len(self._cells) + 1)


def _step(planned: PlannedStep, stripping: Stripping, knowledge: Knowledge, cells: _Cells) -> PlannedStepOut:
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


def _fasteners(step: Step, cells: _Cells) -> list[FastenersOut]:
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


def _proof(code: str, knowledge: Knowledge) -> ProofOut:
    proof = knowledge.repair.proofs[code.removesuffix("?")]
    return ProofOut(
        code=proof.code,
        name=proof.name,
        how=proof.how,
        passes=proof.passes,
        minutes=proof.minutes,
        optional=code.endswith("?"),
    )


def _van(stripping: Stripping, knowledge: Knowledge) -> list[PartOut]:
    plan, repair = stripping.plan, knowledge.repair
    out = []
    for code in (*plan.parts, *plan.optional_parts):
        part = repair.parts[code]
        alike = repair.look_alikes.get(part.look_alike or "")
        out.append(
            PartOut(
                code=code,
                name=part.name,
                optional=code in plan.optional_parts,
                consumable=False,
                tell_apart=f"{alike.varies}. {alike.tell}." if alike is not None else None,
                if_wrong=alike.if_wrong if alike is not None else None,
            )
        )
    for code in plan.consumables:
        used = repair.consumables[code]
        out.append(
            PartOut(
                code=code, name=used.name, optional=False, consumable=True, tell_apart=used.about or None, if_wrong=None
            )
        )
    return out


def _way_name(answer: str, repair: Repair) -> str:
    if answer in repair.postures:
        return repair.postures[answer].name
    if answer in repair.variants:
        return repair.variants[answer].name
    return "alone" if answer == "1" else f"{answer} people"
