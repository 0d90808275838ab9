"""A plan written down: as plain JSON values for other tools, and as text for a person at the machine."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from eager_ear.core.strip.gates import Gate
from eager_ear.core.strip.plan import Plan, PlannedStep


def plan_dict(plan: Plan) -> dict[str, Any]:
    """The plan as JSON values; steps are named by their ids, minutes are for all places of a step."""
    return {
        "layout": plan.layout,
        "paths": list(plan.paths),
        "off": [_step(p, photo=True) for p in plan.off],
        "fit": [_step(p) for p in plan.fit],
        "on": [_step(p) for p in plan.on],
        "proofs": list(plan.proofs),
        "minutes": {"low": plan.minutes[0], "high": plan.minutes[1]},
        "waits_min": plan.waits_min,
        "tools": list(plan.tools),
        "van": [*plan.parts, *plan.optional_parts, *plan.consumables],
        "gates": [{"gate": g.code, "asks": g.asks, "steps": list(g.steps)} for g in plan.gates],
        "people": plan.people,
        "tippings": plan.tippings,
    }


def _step(planned: PlannedStep, *, photo: bool = False) -> dict[str, Any]:
    step = planned.step
    if step is None:
        return {"step": None, "do": planned.says, "minutes": planned.minutes, "hazards": []}
    out: dict[str, Any] = {
        "step": step.id,
        "do": planned.says,
        "minutes": planned.minutes,
        "hazards": list(step.hazards),
    }
    if photo:
        out["photo"] = step.photo
        out["fasteners"] = [
            {"group": f.group, "kind": f.kind, "count": list(f.count), "drive": f.drive} for f in step.fasteners
        ]
        if step.people > 1:
            out["people"] = step.people
    if step.times > 1:
        out["times"] = step.times
    if planned.optional:
        out["optional"] = True
    return out


def plan_text(plan: Plan) -> str:
    """The plan as lines to read."""
    low, high = plan.minutes
    lines = [
        f"{' + '.join(plan.paths)} · {plan.layout}",
        f"{low:.0f} to {high:.0f} min, {plan.people} {'person' if plan.people == 1 else 'people'}"
        + (f", {plan.waits_min:.0f} min of waiting" if plan.waits_min else ""),
    ]
    for title, steps in (("Off", plan.off), ("Fit", plan.fit), ("On", plan.on)):
        lines += ["", title, *(_line(k, p) for k, p in enumerate(steps, start=1))]
    lines += ["", "Before power", *(f"  {g.asks}" for g in plan.gates if not _opening(g))]
    lines += ["", f"Proof   {', '.join(plan.proofs) or 'none'}"]
    lines += [f"Tools   {', '.join(plan.tools) or 'none'}"]
    lines += [f"Van     {_van(plan) or 'nothing'}"]
    return "\n".join(lines)


def _opening(gate: Gate) -> bool:
    return gate.code == "no_way_back"


def _van(plan: Plan) -> str:
    sure: Sequence[str] = (*plan.parts, *plan.consumables)
    return ", ".join([*sure, *(f"{code} if needed" for code in plan.optional_parts)])


def _line(number: int, planned: PlannedStep) -> str:
    if planned.step is None:
        return f"{number:3d}  {planned.says}"
    minutes = "if wanted" if planned.optional else f"{planned.minutes:g} min"
    warn = f"  ! {', '.join(planned.step.hazards)}" if planned.step.hazards else ""
    return f"{number:3d}  {planned.step.id:18s} {minutes:>9}{warn}"
