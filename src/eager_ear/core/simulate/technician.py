"""What a technician finds by hand on a machine whose faults are known.

Written from what the parts do, not from the odds in the knowledge files: millimetres, turns, swings and states with
the errors of hands and eyes. One check in fifty is read off as if nothing were wrong.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from eager_ear.core.case import HandCheck

SLIP = 0.02


@dataclass(frozen=True, kw_only=True)
class Truth:
    """What is wrong, and how far it has gone, 0 to 1."""

    layout: str
    faults: tuple[str, ...]
    strength: float

    def has(self, *faults: str) -> bool:
        return bool(set(faults) & set(self.faults))


Values = dict[str, Any]
Act = Callable[[Truth, np.random.Generator], Values]


def hands_on(truth: Truth, checks: Sequence[str], *, rng: np.random.Generator) -> tuple[HandCheck, ...]:
    """Those checks, made on that machine."""
    out = []
    for check in checks:
        felt = truth
        if rng.random() < SLIP:
            felt = Truth(layout=truth.layout, faults=(), strength=truth.strength)
        out.append(HandCheck(check=check, values=ACTS[check](felt, rng)))
    return tuple(out)


def _between(rng: np.random.Generator, low: float, high: float) -> float:
    return float(rng.uniform(low, high))


def _state(name: str, *, on: Mapping[str, Sequence[tuple[Any, float]]], otherwise: Sequence[tuple[Any, float]]) -> Act:
    """A state that is seen: its chances under the first of these faults that is there."""

    def act(truth: Truth, rng: np.random.Generator) -> Values:
        table = next((odds for fault, odds in on.items() if truth.has(fault)), otherwise)
        chances = np.array([chance for _, chance in table])
        return {name: table[int(rng.choice(len(table), p=chances / chances.sum()))][0]}

    return act


def _seen(name: str, fault: str, *, bad: bool = True, missed: float = 0.01, wrongly: float = 0.005) -> Act:
    return _state(
        name, on={fault: ((bad, 1 - missed), (not bad, missed))}, otherwise=((not bad, 1 - wrongly), (bad, wrongly))
    )


def _stage(truth: Truth) -> int:
    return min(2, int(truth.strength * 3)) if truth.has("drum_bearing", "gearcase_bearing") else -1


def _rock(truth: Truth, rng: np.random.Generator) -> Values:
    gaps = np.abs(rng.normal(0.0, 0.25, 4))
    if truth.has("not_level"):
        gaps[int(rng.integers(4))] = _between(rng, 2.0, 4.0 + 6.0 * truth.strength)
    return {"gap_mm": [round(float(g), 1) for g in gaps]}


def _hand_turn(truth: Truth, rng: np.random.Generator) -> Values:
    feels: list[tuple[str, float]] = [("smooth", 0.95), ("rumble", 0.03), ("scrapes_once_per_turn", 0.02)]
    stages = (
        [("smooth", 0.55), ("rumble", 0.45)],
        [("rumble", 0.75), ("grinding", 0.15), ("smooth", 0.1)],
        [("grinding", 0.55), ("rumble", 0.3), ("binds", 0.15)],
    )
    if truth.has("foreign_object"):
        feels = [("scrapes_once_per_turn", 0.65), ("smooth", 0.25), ("binds", 0.1)]
    if truth.has("gearcase"):
        feels = [("binds", 0.4), ("grinding", 0.2), ("smooth", 0.4)]
    if truth.has("spindle_seat"):
        feels = [("scrapes_once_per_turn", 0.4), ("smooth", 0.55), ("grinding", 0.05)]
    if truth.has("spider"):
        feels = [("smooth", 0.75), ("scrapes_once_per_turn", 0.2), ("rumble", 0.05)]
    if _stage(truth) >= 0:
        feels = stages[_stage(truth)]
    free = 1.3 * float(np.exp(0.4 * rng.standard_normal()))
    if truth.has("foreign_object", "drum_bearing", "gearcase_bearing"):
        free *= 1.0 - 0.6 * truth.strength
    chances = np.array([c for _, c in feels])
    feel = feels[int(rng.choice(len(feels), p=chances / chances.sum()))][0]
    return {"feel": feel, "turns_after_flick": round(free, 1)}


def _lip_play(truth: Truth, rng: np.random.Generator) -> Values:
    play = abs(float(rng.normal(0.2, 0.15)))
    if truth.has("drum_bearing"):
        play += (_between(rng, 0.0, 0.6), _between(rng, 0.4, 1.8), _between(rng, 1.5, 5.0))[_stage(truth)]
    if truth.has("spider"):
        play += _between(rng, 0.0, 1.2)
    if truth.has("spindle_seat"):
        play += _between(rng, 1.0, 2.0 + 3.0 * truth.strength)
    if truth.has("gearcase_bearing"):
        play += _between(rng, 0.0, 2.0) * truth.strength
    return {"play_mm": round(play, 1)}


def _gap_round(truth: Truth, rng: np.random.Generator) -> Values:
    off = abs(float(rng.normal(0.0, 0.6)))
    if truth.has("spider"):
        off = _between(rng, 1.5, 3.0 + 4.0 * truth.strength)
    if truth.has("spindle_seat"):
        off += _between(rng, 0.5, 1.0 + 3.0 * truth.strength)
    angle = np.arange(8) * np.pi / 4.0 + _between(rng, 0.0, 6.3)
    gaps = _between(rng, 7.0, 13.0) + off * np.cos(angle) + rng.normal(0.0, 0.25, 8)
    return {"gaps_mm": [round(max(float(g), 0.2), 1) for g in gaps]}


def _axial_play(truth: Truth, rng: np.random.Generator) -> Values:
    play = abs(float(rng.normal(0.2, 0.2)))
    if truth.has("spider", "drum_bearing", "gearcase_bearing"):
        play += _between(rng, 0.0, 2.5) * truth.strength
    return {"play_mm": round(play, 1)}


def _bounce(truth: Truth, rng: np.random.Generator) -> Values:
    swings = _between(rng, 1.0, 2.5)
    if truth.has("suspension_off"):
        swings += _between(rng, 0.0, 2.0)
    if truth.has("suspension_worn"):
        swings = _between(rng, 2.5, 4.0) + 4.0 * truth.strength
    return {"corner": "centre", "swings": round(max(swings + float(rng.normal(0.0, 0.3)), 0.5) * 2) / 2}


def _sag(truth: Truth, rng: np.random.Generator) -> Values:
    heights = _between(rng, 40.0, 90.0) + rng.normal(0.0, 1.8, 4)
    if truth.has("suspension_off"):
        heights[int(rng.integers(4))] += _between(rng, 12.0, 35.0)
    if truth.has("suspension_worn"):
        heights[int(rng.integers(4))] += _between(rng, 0.0, 8.0) * truth.strength
    return {"heights_mm": [round(float(h)) for h in heights]}


def _corner_rest(truth: Truth, rng: np.random.Generator) -> Values:
    off = truth.has("suspension_off") and rng.random() < 0.98
    return {"detached": [str(rng.choice(["front_left", "front_right", "rear_left", "rear_right"]))] if off else []}


def _ratchet(truth: Truth, rng: np.random.Generator) -> Values:
    worn = rng.random() < (0.95 if truth.has("agitator_dogs") else 0.02)
    return {"grips_one_way": not worn, "free_other_way": True}


def _capacitor(truth: Truth, rng: np.random.Generator) -> Values:
    rated = float(rng.choice([12.5, 20.0, 40.0, 60.0]))
    lost = _between(rng, 0.12, 0.9) if truth.has("run_capacitor") else float(rng.normal(0.01, 0.015))
    return {"rated_uf": rated, "measured_uf": round(rated * (1.0 - lost), 1), "tolerance_pct": 5.0}


def _switch(truth: Truth, rng: np.random.Generator) -> Values:
    bad = truth.has("lid_switch") and rng.random() < 0.85
    never_closes = rng.random() < 0.7
    return {
        "closed_ohm": "open" if bad and never_closes else round(_between(rng, 0.1, 1.5), 1),
        "open_ohm": round(_between(rng, 0.2, 2.0), 1) if bad and not never_closes else "open",
    }


def _amps(truth: Truth, rng: np.random.Generator) -> Values:
    rated = _between(rng, 3.0, 9.0)
    ratio = float(rng.normal(0.92, 0.08))
    if truth.has("motor", "foreign_object", "pump_blocked", "gearcase"):
        ratio += _between(rng, 0.0, 0.6)
    return {"rated_a": round(rated, 1), "running_a": round(max(ratio, 0.2) * rated, 1)}


def _cut_out(truth: Truth, rng: np.random.Generator) -> Values:
    runs = _between(rng, 35.0, 90.0)
    if truth.has("motor"):
        runs = _between(rng, 4.0, 25.0)
    elif truth.has("foreign_object", "pump_blocked") and rng.random() < 0.3:
        runs = _between(rng, 8.0, 30.0)
    return {"runs_min": round(runs), "rests_min": round(_between(rng, 10.0, 40.0))}


def _pluck(truth: Truth, rng: np.random.Generator) -> Values:
    tension = _between(rng, 12.0, 60.0) if truth.has("belt") else _between(rng, 70.0, 200.0)
    span_m, mass = _between(rng, 0.2, 0.4), _between(rng, 0.015, 0.03)
    hz = np.sqrt(tension / mass) / (2.0 * span_m)
    return {"hz": round(float(hz), 1), "span_mm": round(1000 * span_m), "kg_per_m": round(mass, 3)}


def _staged_fill(truth: Truth, rng: np.random.Generator) -> Values:
    leaks = truth.has("tub_seal") and rng.random() < 0.92
    return {"leaks_at": str(rng.choice(["lower", "lower", "middle", "upper"])) if leaks else "none"}


def _wobble(truth: Truth, rng: np.random.Generator) -> Values:
    runout = abs(float(rng.normal(0.3, 0.3)))
    if truth.has("drum_bearing", "spider"):
        runout += _between(rng, 0.0, 2.0) * truth.strength
    return {"runout_mm": round(runout, 1)}


ACTS: Mapping[str, Act] = {
    "rock": _rock,
    "hand_turn": _hand_turn,
    "drum_lift_play": _lip_play,
    "drum_gap_round": _gap_round,
    "axial_play": _axial_play,
    "bounce": _bounce,
    "sag": _sag,
    "corner_rest": _corner_rest,
    "hold_and_twist": _seen("slips", "hub_spline"),
    "agitator_ratchet": _ratchet,
    "foreign_sweep": _state(
        "found",
        on={
            "foreign_object": (("object", 0.6), ("fabric", 0.25), ("nothing", 0.15)),
            "drum_burr": (("burr", 0.9), ("nothing", 0.1)),
        },
        otherwise=(("nothing", 0.98), ("object", 0.01), ("burr", 0.01)),
    ),
    "load_seen": _state(
        "kind",
        on={"load_problem": (("single_heavy", 0.35), ("mat_or_blanket", 0.35), ("overfilled", 0.25), ("mixed", 0.05))},
        otherwise=(("mixed", 0.85), ("single_heavy", 0.05), ("mat_or_blanket", 0.05), ("overfilled", 0.05)),
    ),
    "lid_press": _seen("spins_when_pressed", "lid_switch", missed=0.5),
    "hot_cutout": _cut_out,
    "residue": _state(
        "where",
        on={
            "drum_bearing": (("rear_below_bearing", 0.6), ("none", 0.4)),
            "gearcase_bearing": (("under_gearcase", 0.6), ("none", 0.4)),
            "tub_seal": (("clutch_bell", 0.4), ("rear_below_bearing", 0.3), ("under_gearcase", 0.2), ("none", 0.1)),
        },
        otherwise=(("none", 0.93), ("under_gearcase", 0.04), ("rear_below_bearing", 0.03)),
    ),
    "counterweight": _seen("loose", "counterweight_loose"),
    "belt_look": _state(
        "state",
        on={"belt": (("glazed", 0.4), ("cracked", 0.25), ("frayed", 0.2), ("off", 0.1), ("good", 0.05))},
        otherwise=(("good", 0.95), ("cracked", 0.03), ("glazed", 0.02)),
    ),
    "belt_pluck": _pluck,
    "pulley_wobble": _wobble,
    "hose_clips": _seen("loose", "loose_hose", wrongly=0.03),
    "spring_seats": _seen("worn", "spring_bush"),
    "smell": _seen("burnt", "motor", missed=0.4, wrongly=0.03),
    "pump_clear": _seen("blocked", "pump_blocked"),
    "lid_switch_ohms": _switch,
    "capacitor_uf": _capacitor,
    "coupler_look": _seen("broken", "motor_coupler"),
    "spider_look": _state(
        "state",
        on={"spider": (("cracked", 0.95), ("eaten", 0.05))},
        otherwise=(("sound", 0.9), ("eaten", 0.1)),
    ),
    "drive_block_look": _seen("turns", "drive_block"),
    "motor_alone": _seen("runs", "motor", bad=False, missed=0.4),
    "gearcase_turns": _seen("both_ways", "gearcase", bad=False),
    "clutch_look": _state(
        "state",
        on={
            "clutch": (("worn_out", 0.5), ("glazed", 0.45), ("good", 0.05)),
            "tub_seal": (("wet_with_rust", 0.5), ("good", 0.5)),
        },
        otherwise=(("good", 0.96), ("glazed", 0.04)),
    ),
    "collar_look": _state(
        "state",
        on={
            "shift_collar": (("gritty", 0.65), ("spring_weak", 0.3), ("clean", 0.05)),
            "shift_actuator": (("clean", 0.75), ("gritty", 0.25)),
        },
        otherwise=(("clean", 0.92), ("gritty", 0.08)),
    ),
    "hub_look": _state(
        "splines",
        on={"hub_spline": (("stripped", 0.7), ("rounded", 0.27), ("sharp", 0.03))},
        otherwise=(("sharp", 0.95), ("rounded", 0.05)),
    ),
    "staged_fill": _staged_fill,
    "motor_amps": _amps,
    "shift_sound": _state(
        "result",
        on={
            "shift_actuator": (("no_shift", 0.65), ("half_shift", 0.25), ("shifts", 0.1)),
            "shift_collar": (("half_shift", 0.6), ("no_shift", 0.25), ("shifts", 0.15)),
        },
        otherwise=(("shifts", 0.97), ("half_shift", 0.03)),
    ),
}
