"""The job sheet: what has to be in the van, every step off, fitted and back with its box, gates and proofs."""

from __future__ import annotations

from collections.abc import Sequence

from eager_ear.core.repair import Repair
from eager_ear.core.strip import Plan, PlannedStep
from eager_ear.paper.sheet import Sheet, Size


def job_sheet_pdf(plan: Plan, *, place: str, machine: str, repair: Repair, size: Size) -> bytes:
    """A plan as a PDF to work by where nothing has a signal or a battery."""
    sheet = Sheet(size=size, title=f"Job sheet, {place}")
    sheet.words("Job sheet", soft=True)
    sheet.big(" + ".join(repair.paths[code].name for code in plan.paths) or "Nothing to open")
    sheet.words(f"{place} · {machine}", soft=True)
    low, high = plan.minutes
    waits = f", {plan.waits_min:.0f} min of waiting" if plan.waits_min else ""
    sheet.words(f"{low:.0f} to {high:.0f} min for {plan.people} {'person' if plan.people == 1 else 'people'}{waits}")
    sheet.heading("In the van")
    parts = [repair.parts[code].name for code in plan.parts]
    parts += [f"{repair.parts[code].name} (if needed)" for code in plan.optional_parts]
    parts += [repair.consumables[code].name for code in plan.consumables]
    for name in parts:
        sheet.row(name, "", box=True)
    if plan.tools:
        sheet.words(f"Tools: {'; '.join(repair.tools[code].name for code in plan.tools)}.", size=9.0)
    hazards = dict.fromkeys(h for p in (*plan.off, *plan.fit, *plan.on) if p.step for h in p.step.hazards)
    if hazards:
        sheet.heading("What hurts")
        for code in hazards:
            sheet.words(f"{repair.hazards[code].name}. {repair.hazards[code].says}", size=9.0)
    for title, steps in (("Off", plan.off), ("Fit", plan.fit), ("Back", plan.on)):
        _steps(sheet, title, steps, way_back=title == "Back")
    gates = [gate.asks for gate in plan.gates if gate.code != "no_way_back"]
    if gates:
        sheet.heading("Before power returns")
        for asks in gates:
            sheet.row(asks, "", box=True)
    sheet.heading("Proof")
    for code in plan.proofs:
        proof = repair.proofs[code.removesuffix("?")]
        sheet.row(f"{proof.name}: {proof.passes}", f"{proof.minutes:.0f} min", box=True)
    return sheet.bytes()


def _steps(sheet: Sheet, title: str, steps: Sequence[PlannedStep], *, way_back: bool) -> None:
    if not steps:
        return
    sheet.heading(title)
    for planned in steps:
        step = planned.step
        if step is None:
            sheet.row(planned.says, "", box=True)
            continue
        counts = ", ".join(f"{f.group.replace('_', ' ')} ___" for f in step.fasteners)
        right = "if wanted" if planned.optional else f"{planned.minutes:g} min"
        text = step.back if way_back else f"{step.do}{f'. Note first: {step.note_first}' if step.note_first else ''}"
        sheet.row(f"{step.name}{f' · count: {counts}' if counts else ''}", right, box=True, below=text)
