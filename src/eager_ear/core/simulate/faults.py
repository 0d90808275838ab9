"""What each fault does to a sound washer: one small function a fault, in one table.

`s` is the strength, 0 (just begun) to 1 (far gone). Which layout can have which fault is told by the knowledge files.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace

import numpy as np

from eager_ear.core.diagnosis.knowledge import Knowledge
from eager_ear.core.errors import BadField
from eager_ear.core.machine import Layout
from eager_ear.core.simulate.washer import BearingDamage, Knocks, Washer, draw_healthy

STAGES = ("whine", "growl", "collapsed")
# Loudness of the impulses against the drum's broadband noise, and of the roughness that comes with them.
STAGE_LEVEL = {"whine": (0.06, 0.3), "growl": (0.25, 1.0), "collapsed": (0.7, 2.0)}
STAGE_ROUGHNESS = {"whine": 0.05, "growl": 0.5, "collapsed": 1.2}
STAGE_DRAG = {"whine": 1.1, "growl": 1.5, "collapsed": 2.5}
ALL_SPEEDS_RPM = (0.0, 3000.0)

Bend = Callable[[Washer, float, np.random.Generator], Washer]


def draw_washer(layout: Layout, *, faults: Sequence[str], strength: float | None, rng: np.random.Generator) -> Washer:
    """A washer of that layout with those faults, “none” being none; strength is drawn when None.

    Raises
    ------
    BadField
        A fault that cannot be simulated.
    """
    real = tuple(fault for fault in faults if fault != "none")
    for fault in real:
        if fault not in BENDS:
            known = ", ".join(("none", *BENDS))
            raise BadField(field="fault", reason=f"“{fault}” cannot be simulated; known: {known}.")
    how_far = float(rng.uniform(0.25, 1.0)) if strength is None else strength
    washer = draw_healthy(layout, strength=how_far, rng=rng)
    for fault in real:
        washer = BENDS[fault](washer, how_far, rng)
    return replace(washer, faults=real)


def faults_of_layout(layout: str, *, knowledge: Knowledge) -> tuple[str, ...]:
    """Faults that this layout can have and that can be simulated."""
    return tuple(f.code for f in knowledge.faults_of(layout) if f.code in BENDS)


def _uniform(rng: np.random.Generator, low: float, high: float) -> float:
    return float(rng.uniform(low, high))


def _bearing(washer: Washer, s: float, rng: np.random.Generator) -> Washer:
    stage = STAGES[min(2, int(s * 3))]
    damage = BearingDamage(
        size=washer.bearing_size,
        place="rear" if washer.drum_is_front else "spin",
        race=str(rng.choice(["outer", "inner", "ball"], p=[0.45, 0.4, 0.15])),
        slip=_uniform(rng, 0.0, 0.015),
        stage=stage,
        level=_uniform(rng, *STAGE_LEVEL[stage]),
        roughness=STAGE_ROUGHNESS[stage] * _uniform(rng, 0.6, 1.4),
    )
    drag = replace(washer.drag, coulomb=washer.drag.coulomb * STAGE_DRAG[stage])
    more = 1.6 if stage == "collapsed" else 1.0
    suspension = replace(washer.suspension, unbalance_kg_m=washer.suspension.unbalance_kg_m * more)
    return replace(washer, damage=damage, drag=drag, suspension=suspension)


def _spider(washer: Washer, s: float, rng: np.random.Generator) -> Washer:
    suspension = replace(
        washer.suspension,
        arm_opening=_uniform(rng, 0.6, 1.8) * (0.5 + 1.2 * s),
        axial_gain=_uniform(rng, 0.45, 0.9),
        second_order_gain=_uniform(rng, 0.12, 0.35),
        unbalance_kg_m=max(washer.suspension.unbalance_kg_m, 0.012) * _uniform(rng, 1.2, 2.0),
    )
    knock = Knocks(
        level=_uniform(rng, 0.05, 0.6) * s,
        band_hz=(110.0, 420.0),
        per_turn=1,
        per_s=0.0,
        jitter_turns=0.02,
        speed_rpm=(20.0, 130.0),
        chance=1.0,
    )
    return replace(washer, suspension=suspension, knocks=(*washer.knocks, knock))


def _suspension_worn(washer: Washer, s: float, rng: np.random.Generator) -> Washer:
    old = washer.suspension
    keep = 0.5 - 0.35 * s
    gains = list(washer.cabinet.corner_gain)
    gains[int(rng.integers(4))] *= _uniform(rng, 1.3, 2.2)
    return replace(
        washer,
        suspension=replace(
            old,
            damping=(old.damping[0] * keep, old.damping[1] * keep * _uniform(rng, 0.8, 1.3)),
            friction_n=old.friction_n * 0.25,
            unbalance_kg_m=max(old.unbalance_kg_m, _uniform(rng, 0.012, 0.03)),
        ),
        cabinet=replace(washer.cabinet, corner_gain=tuple(gains)),  # type: ignore[arg-type]
    )


def _suspension_off(washer: Washer, s: float, rng: np.random.Generator) -> Washer:
    """One of four supports gone: a soft and a stiff direction at an angle, less room to the stops."""
    old = washer.suspension
    soft = _uniform(rng, 0.55, 0.72)
    # The group sags and swings towards the corner that lost its support.
    gains = list(washer.cabinet.corner_gain)
    gains[int(rng.integers(4))] *= _uniform(rng, 1.3, 1.8) + 0.5 * s
    return replace(
        washer,
        cabinet=replace(washer.cabinet, corner_gain=tuple(gains)),  # type: ignore[arg-type]
        suspension=replace(
            old,
            radial_hz=(old.radial_hz[0] * soft, old.radial_hz[1] * _uniform(rng, 0.95, 1.1)),
            principal_rad=_uniform(rng, 0.5, 1.1),
            damping=(old.damping[0] * 0.7, old.damping[1] * 0.8),
            stop_gap_m=old.stop_gap_m * (0.3 - 0.15 * s),
        ),
    )


def _load_problem(washer: Washer, s: float, rng: np.random.Generator) -> Washer:
    heavy = _uniform(rng, 0.12, 0.35) * (0.6 + 0.8 * s)
    old = washer.suspension
    # The load hangs off-centre from the start and settles differently in the ramp.
    return replace(
        washer,
        suspension=replace(
            old,
            unbalance_kg_m=heavy,
            shifted_unbalance_kg_m=heavy * _uniform(rng, -0.3, 0.3),
            group_kg=old.group_kg + 6,
        ),
    )


def _balance_ring(washer: Washer, s: float, rng: np.random.Generator) -> Washer:
    old = washer.suspension
    more = _uniform(rng, 1.5, 3.0) * (0.6 + s)
    return replace(
        washer,
        suspension=replace(
            old, unbalance_kg_m=max(old.unbalance_kg_m, 0.015) * more, wander_rad=_uniform(rng, 0.5, 1.5) * (0.4 + s)
        ),
    )


def _counterweight(washer: Washer, s: float, rng: np.random.Generator) -> Washer:
    top = washer.drive.spin_rpm
    knock = Knocks(
        level=_uniform(rng, 0.8, 3.0) * (0.4 + s),
        band_hz=(60.0, 190.0),
        per_turn=1,
        per_s=0.0,
        jitter_turns=0.03,
        speed_rpm=(90.0, top * _uniform(rng, 0.6, 0.9)),
        chance=_uniform(rng, 0.85, 1.0),
    )
    return replace(washer, knocks=(*washer.knocks, knock))


def _foreign_object(washer: Washer, s: float, rng: np.random.Generator) -> Washer:
    tick = Knocks(
        level=_uniform(rng, 0.5, 3.0) * (0.4 + s),
        band_hz=(2200.0, 8500.0),
        per_turn=2 if rng.random() < 0.2 else 1,
        per_s=0.0,
        jitter_turns=0.012,
        speed_rpm=(20.0, washer.drive.spin_rpm * _uniform(rng, 0.5, 1.0)),
        chance=_uniform(rng, 0.75, 1.0),
    )
    return replace(washer, knocks=(*washer.knocks, tick))


def _loose_hose(washer: Washer, s: float, rng: np.random.Generator) -> Washer:
    taps = Knocks(
        level=_uniform(rng, 0.6, 2.5) * (0.4 + s),
        band_hz=(250.0, 1400.0),
        per_turn=0,
        per_s=_uniform(rng, 3.0, 9.0),
        jitter_turns=0.0,
        speed_rpm=(washer.drive.spin_rpm * _uniform(rng, 0.35, 0.7), ALL_SPEEDS_RPM[1]),
        chance=1.0,
    )
    return replace(washer, knocks=(*washer.knocks, taps))


def _spring_bush(washer: Washer, s: float, rng: np.random.Generator) -> Washer:
    creak = Knocks(
        level=_uniform(rng, 0.2, 0.8) * (0.4 + s),
        band_hz=(600.0, 1800.0),
        per_turn=2,
        per_s=0.0,
        jitter_turns=0.03,
        speed_rpm=(20.0, 240.0),
        chance=_uniform(rng, 0.6, 0.95),
    )
    return replace(washer, knocks=(*washer.knocks, creak))


def _spindle_seat(washer: Washer, s: float, rng: np.random.Generator) -> Washer:
    knock = Knocks(
        level=_uniform(rng, 0.4, 2.0) * (0.4 + s),
        band_hz=(120.0, 700.0),
        per_turn=1,
        per_s=0.0,
        jitter_turns=0.02,
        speed_rpm=(20.0, washer.drive.spin_rpm * _uniform(rng, 0.5, 0.9)),
        chance=_uniform(rng, 0.8, 1.0),
    )
    old = washer.suspension
    loose = replace(old, unbalance_kg_m=max(old.unbalance_kg_m, 0.015) * _uniform(rng, 1.5, 2.5))
    return replace(washer, suspension=loose, knocks=(*washer.knocks, knock))


def _not_level(washer: Washer, s: float, rng: np.random.Generator) -> Washer:
    softer = tuple(hz * 0.75 for hz in washer.cabinet.rocking_hz)
    slap = _uniform(rng, 0.4, 0.9) * (0.4 + s)
    cabinet = replace(
        washer.cabinet,
        foot_slap=slap,
        short_foot=int(rng.integers(4)),
        rocking_hz=softer,  # type: ignore[arg-type]
    )
    return replace(washer, cabinet=cabinet)


def _belt(washer: Washer, s: float, rng: np.random.Generator) -> Washer:
    drive = replace(
        washer.drive,
        belt_slip=_uniform(rng, 0.03, 0.12) * (0.5 + s),
        squeal_level=_uniform(rng, 0.3, 1.2) * (0.3 + s),
        ramp_rpm_s=washer.drive.ramp_rpm_s * 0.7,
    )
    return replace(washer, drive=drive)


def _stands(grinding: tuple[float, float]) -> Bend:
    """The motor runs and the drum does not; slipping prongs, collars or splines grind."""

    def bend(washer: Washer, s: float, rng: np.random.Generator) -> Washer:
        level = _uniform(rng, *grinding) * (0.4 + s)
        return replace(washer, drive=replace(washer.drive, grip="stands", grinding_level=level))

    return bend


def _clutch(washer: Washer, s: float, rng: np.random.Generator) -> Washer:
    reached = (0.9 - 0.5 * s) * _uniform(rng, 0.9, 1.1)
    return replace(washer, drive=replace(washer.drive, grip="creeps", creep_share=reached))


def _drive_block(washer: Washer, s: float, rng: np.random.Generator) -> Washer:
    clank = _uniform(rng, 1.0, 4.0) * (0.4 + s)
    return replace(washer, drive=replace(washer.drive, grip="jerks", clank_level=clank))


def _hums(washer: Washer, s: float, rng: np.random.Generator) -> Washer:
    """The motor is energised and stays where it is."""
    drive = replace(
        washer.drive, grip="stands", hum_level=_uniform(rng, 0.3, 1.2) * (0.7 + 0.3 * s), tone_level=0.0, spin_rpm=0.0
    )
    return replace(washer, drive=drive)


def _motor(washer: Washer, s: float, rng: np.random.Generator) -> Washer:
    cut = washer.drive.plateau_s * _uniform(rng, 0.4, 0.7) * (1.1 - 0.6 * s)
    return replace(washer, drive=replace(washer.drive, cut_out_after_s=cut, ramp_rpm_s=washer.drive.ramp_rpm_s * 0.8))


BENDS: Mapping[str, Bend] = {
    "drum_bearing": _bearing,
    "gearcase_bearing": _bearing,
    "spider": _spider,
    "suspension_worn": _suspension_worn,
    "suspension_off": _suspension_off,
    "load_problem": _load_problem,
    "balance_ring": _balance_ring,
    "counterweight_loose": _counterweight,
    "foreign_object": _foreign_object,
    "loose_hose": _loose_hose,
    "spring_bush": _spring_bush,
    "spindle_seat": _spindle_seat,
    "not_level": _not_level,
    "belt": _belt,
    "motor_coupler": _stands((0.2, 0.8)),
    "hub_spline": _stands((0.4, 1.2)),
    "shift_collar": _stands((0.6, 1.5)),
    "shift_actuator": _stands((0.0, 0.05)),
    "clutch": _clutch,
    "drive_block": _drive_block,
    "run_capacitor": _hums,
    "pump_blocked": _hums,
    "gearcase": _hums,
    "motor": _motor,
}
SIMULATED_FAULTS = ("none", *BENDS)
