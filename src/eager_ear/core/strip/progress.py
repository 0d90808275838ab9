"""How far a strip is, from what the diary says: which gates are open, and what keeps the power off.

Gates ask about what was really opened, whatever was planned. Nothing is ticked: each is answered by steps, counts,
photos and checks.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

from eager_ear.core.repair import Repair, Setting, Step
from eager_ear.core.strip.gates import NO_WAY_BACK, Gate, gates_of
from eager_ear.core.visit.visit import Visit


@dataclass(frozen=True, kw_only=True)
class GateState:
    """A gate, and what is still missing for it; empty once it is passed."""

    gate: Gate
    missing: str


def opened_gates(visit: Visit, *, setting: Setting, repair: Repair) -> tuple[GateState, ...]:
    """Gates before power, for the steps that were really taken off."""
    steps = repair.steps_of(setting.layout)
    off = [steps[s.step_id] for s in visit.strip.steps if s.way == "off" and s.state == "done" and s.step_id in steps]
    gates = [gate for gate in gates_of(off, setting=setting) if gate.code != NO_WAY_BACK]
    return tuple(GateState(gate=gate, missing=_missing(gate, visit, repair, setting.layout)) for gate in gates)


def gates_ahead(off: Sequence[Step], *, setting: Setting) -> tuple[Gate, ...]:
    """Gates before power that a plan may come to, each with the steps that bring it about once they are taken off."""
    own = tuple(step.id for step in off if not step.common)
    gates = (gate for gate in gates_of(off, setting=setting) if gate.code != NO_WAY_BACK)
    return tuple(gate if gate.steps else replace(gate, steps=own) for gate in gates)


def closed_by(off: Sequence[Step], *, repair: Repair, layout: str) -> dict[str, tuple[str, ...]]:
    """Which steps of the way back close each opened one: its own, or those that take its place."""
    steps = repair.steps_of(layout).values()
    return {step.id: (step.id, *(s.id for s in steps if s.closes == step.id)) for step in off}


def no_way_back_missing(gate: Gate, visit: Visit, *, parts: Iterable[str]) -> str:
    """What is missing before a step that cannot be undone."""
    missing = []
    decided = visit.cost.decided
    if decided is None or decided.get("answer") != "yes":
        missing.append("the customer’s yes")
    needed = set(parts)
    same = {c["part"] for c in visit.strip.compared if c["same"]}
    if needed and not needed & same:
        missing.append("a new part compared with the old one")
    step = gate.steps[0]
    if not any(p.about is not None and p.about.endswith(step) for p in visit.any_time.photos):
        missing.append("the photo")
    return ", ".join(missing)


def _missing(gate: Gate, visit: Visit, repair: Repair, layout: str) -> str:
    strip = visit.strip
    if gate.code == "counts_match":
        return "; ".join(
            f"{_name(c.step, repair, layout)}, {c.group.replace('_', ' ')}: {c.out} out, {c.into or 0} in"
            for c in strip.counted
            if c.out is not None and c.out != (c.into or 0)
        )
    if gate.code == "tray_empty":
        return "" if strip.is_done("tray_ready", "on") else "nobody has said that the tray is empty"
    if gate.code == "no_bridge":
        return ", ".join(f"bridged: {b.where}" for b in visit.any_time.bridged)
    if gate.code == "hand_turn":
        return "" if _turned_by_hand(visit) else "not turned by hand since it was closed"
    back = [s for s in gate.steps if not _is_back(s, visit, repair, layout)]
    return ", ".join(_name(s, repair, layout) for s in back)


def _is_back(step_id: str, visit: Visit, repair: Repair, layout: str) -> bool:
    """Whether a step is closed: by its own way back, or by the one that closes it."""
    closing = [s.id for s in repair.steps_of(layout).values() if s.closes == step_id]
    return any(visit.strip.is_done(code, "on") for code in (step_id, *closing))


def _turned_by_hand(visit: Visit) -> bool:
    opened = [s.at for s in visit.strip.steps if s.way == "off"]
    last = max(opened) if opened else None
    smooth = any(
        c.check == "hand_turn" and c.values.get("feel") == "smooth" and (last is None or c.at > last)
        for c in visit.hands.checks
    )
    return smooth or any(p.test == "p_hand" and p.passed for p in visit.proof.proved)


def _name(step: str, repair: Repair, layout: str) -> str:
    known = repair.steps_of(layout).get(step.split("/")[-1])
    return known.name if known is not None else step


def power_refusal(visit: Visit, *, repair: Repair, why: str) -> str | None:
    """Why the power may not come back now; None if it may.

    What is still open needs a reason, a bridged interlock is never given one.
    """
    if visit.any_time.bridged:
        where = ", ".join(b.where for b in visit.any_time.bridged)
        return f"An interlock is still bridged ({where}). Restore it and log that, then the power can come back."
    still = "" if why.strip() else _still_open(visit, repair)
    return f"Still open: {still}. Close it, or say why the power comes back before that." if still else None


def mended_refusal(visit: Visit, *, repair: Repair) -> str | None:
    """Why a job may not be called mended now; None if it may. No reason stands for what is still open."""
    still = _still_open(visit, repair)
    return f"Still open: {still}. Close it, then the job can be called mended." if still else None


def _still_open(visit: Visit, repair: Repair) -> str:
    layout = visit.story.facts.get("layout")
    if layout is None:
        return ""
    gates = opened_gates(visit, setting=Setting(layout=str(layout)), repair=repair)
    return "; ".join(f"{s.gate.asks} ({s.missing})" for s in gates if s.missing)
