"""The strip of a job as the interface needs it, whole, so that it can be kept for when there is no signal."""

from __future__ import annotations

from pydantic import BaseModel

from eager_ear.core.cost import Also
from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.repair import Repair
from eager_ear.core.strip.progress import GateState, closed_by, gates_ahead
from eager_ear.use_cases.repairs.stripping import Stripping
from eager_ear.web.schemas.repairs.steps import Cells, PlannedStepOut, WordOut, step_of


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
        cells = Cells()
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
            off=[step_of(p, stripping, knowledge, cells) for p in plan.off],
            fit=[step_of(p, stripping, knowledge, cells) for p in plan.fit],
            on=[step_of(p, stripping, knowledge, cells) for p in plan.on],
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
