"""Gates: what must lie ready before a step without a way back, and what must hold before power returns."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from eager_ear.core.repair import Setting, Step


@dataclass(frozen=True, kw_only=True)
class Gate:
    """One question that is answered by the diary. steps : whose way back, or which opening, it asks about."""

    code: str
    asks: str
    steps: tuple[str, ...] = ()


NO_WAY_BACK = "no_way_back"
READY = "Named parts in hand and compared with the old, the customer’s yes, the photo taken."
ASKS = {
    "earth": ("earth_wires", "Every earth wire is back, looked at one by one"),
    "plug": ("plugs", "Every plug is pushed home, clicked and tugged"),
    "hold": ("holds_gone", "Rope, prop, transit bolts and blocks are gone"),
    "cover": ("covers_on", "All covers are on"),
}


def has_no_way_back(step: Step, setting: Setting) -> bool:
    """Whether this step, here, cannot be undone."""
    return step.no_way_back is not None and (step.no_way_back_if is None or setting.holds(step.no_way_back_if))


def gates_of(off: Sequence[Step], *, setting: Setting) -> tuple[Gate, ...]:
    """Gates of a plan, in the order in which they are met."""
    opened = [step for step in off if not step.common or step.gates]
    if not any(not step.common for step in off):
        return ()
    gates = [
        Gate(
            code=NO_WAY_BACK,
            asks=f"{step.no_way_back} {READY}",
            steps=(step.id,),
        )
        for step in off
        if has_no_way_back(step, setting)
    ]
    gates.append(Gate(code="tray_empty", asks="The tray is empty: anything left over names its step"))
    counted = tuple(step.id for step in off if step.fasteners)
    if counted:
        gates.append(Gate(code="counts_match", asks="As many went in as came out, for every group", steps=counted))
    for code, (name, asks) in ASKS.items():
        steps = tuple(step.id for step in opened if code in step.gates)
        if steps:
            gates.append(Gate(code=name, asks=asks, steps=steps))
    gates.append(Gate(code="no_bridge", asks="No bridge is in any switch plug"))
    gates.append(Gate(code="hand_turn", asks="Turned by hand after closing: silent"))
    if any(step.id == "taps_shut" for step in off):
        gates.append(Gate(code="taps_open", asks="Taps open and looked at with pressure on", steps=("taps_shut",)))
    return tuple(gates)
