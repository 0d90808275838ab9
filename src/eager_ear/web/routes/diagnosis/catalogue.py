"""The codes and their names."""

from __future__ import annotations

from fastapi import APIRouter

from eager_ear.core.analysis import STAGES
from eager_ear.core.case import LOADS, POSITIONS, TESTS
from eager_ear.core.diagnosis import ACCESS_WORDS
from eager_ear.core.diagnosis.knowledge import PHASES, Knowledge, Symptom
from eager_ear.core.machine import BEARINGS, LAYOUTS
from eager_ear.core.visit.story import PLATE
from eager_ear.use_cases.visits.noises import example_fault, heard_phases
from eager_ear.web.schemas.diagnosis.catalogue import (
    AgainOut,
    CatalogueOut,
    CheckSpecOut,
    FaultOut,
    FigureOut,
    GradeOut,
    IntakeRowOut,
    LayoutOut,
    NamesOut,
    PlateNumberOut,
    ScaleOut,
    SymptomOut,
    ValueOut,
)
from eager_ear.web.state import State

router = APIRouter(prefix="/api", tags=["catalogue"])


@router.get("/catalogue")
def catalogue(state: State) -> CatalogueOut:
    """Everything that can be chosen, with plain names."""
    knowledge = state.knowledge
    repair = knowledge.repair
    return CatalogueOut(
        knowledge_version=knowledge.version,
        figures=[
            FigureOut(
                code=f.code,
                name=f.name,
                rests_on=list(f.rests_on),
                how=f.how,
                source=f.source,
                good_to=f.good_to,
                findings=list(f.findings),
            )
            for f in knowledge.figures.values()
        ],
        names=NamesOut(
            findings={code: finding.name for code, finding in knowledge.findings.items()},
            parts={code: part.name for code, part in repair.parts.items()},
            paths={code: path.name for code, path in repair.paths.items()},
            proofs={code: proof.name for code, proof in repair.proofs.items()},
            steps={f"{layout}/{step_id}": step.name for (layout, step_id), step in repair.steps.items()},
        ),
        layouts=[
            LayoutOut(
                code=v.code, name=v.name, drum=v.drum, drive=v.drive, inside=list(v.inside), driven=list(v.driven)
            )
            for v in LAYOUTS.values()
        ],
        symptoms=[
            SymptomOut(code=s.code, name=s.name, phases=list(s.phases), heard_on=_heard_on(s, knowledge))
            for s in knowledge.symptoms.values()
        ],
        faults=[FaultOut(code=f.code, name=f.short, layouts=list(f.layouts)) for f in knowledge.faults.values()],
        checks=[
            CheckSpecOut(
                code=c.code,
                name=c.name,
                access=c.access,
                access_words=ACCESS_WORDS[c.access],
                minutes=c.minutes,
                layouts=list(c.layouts),
                how=c.how,
                widget=c.widget,
                places=dict(c.places),
                act=c.act,
                scales=[
                    ScaleOut(
                        name=f.name,
                        unit=f.unit,
                        levels=list(f.levels),
                        limits=list(f.limits),
                        limits_on={layout: list(limits) for layout, limits in f.limits_on.items()},
                    )
                    for f in (knowledge.findings[code] for code in c.findings)
                    if f.limits
                ],
                values=[
                    ValueOut(
                        name=v.name,
                        kind=v.kind,
                        label=v.label,
                        unit=v.unit,
                        choices=list(v.choices),
                        low=v.low,
                        high=v.high,
                        count=list(v.count),
                    )
                    for v in c.values
                ],
            )
            for c in knowledge.checks.values()
        ],
        bearings=[b.designation for b in BEARINGS],
        plate={
            key: PlateNumberOut(low=n.low, high=n.high, usual_low=n.usual_low, usual_high=n.usual_high)
            for key, n in PLATE.items()
        },
        positions=list(POSITIONS),
        loads=list(LOADS),
        tests=list(TESTS),
        stages=list(STAGES),
        phases=list(PHASES),
        heard_phases={code: list(heard_phases(code)) for code in LAYOUTS},
        intake=[
            IntakeRowOut(code=r.code, name=r.name, how=r.how, good=r.good, bad=r.bad, why=r.why, told=r.told)
            for r in knowledge.repair.stock.intake
        ],
        grades=[GradeOut(code=g.code, name=g.name, says=g.says) for g in knowledge.repair.stock.grades.values()],
        again=_serving_again(knowledge),
    )


def _serving_again(knowledge: Knowledge) -> list[AgainOut]:
    repair = knowledge.repair
    return [
        AgainOut(
            code=code,
            name=repair.parts[code].name,
            test=test,
            layouts=sorted({layout for p in repair.paths.values() if code in p.parts for layout in p.layouts}),
        )
        for code, test in repair.stock.again.items()
    ]


def _heard_on(symptom: Symptom, knowledge: Knowledge) -> dict[str, str]:
    faults = {code: example_fault(symptom, layout=code, knowledge=knowledge) for code in LAYOUTS}
    return {code: knowledge.faults[fault].short for code, fault in faults.items() if fault is not None}
