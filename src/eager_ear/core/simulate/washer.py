"""One made-up washer: physical parameters drawn wide from a seed.

Ranges are those of household machines (masses, springs, bearings, motors as commonly met), not values chosen to
suit the analysis, which never reads this package. SI units; angles in rad; `_hz` in cycles a second.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from eager_ear.core.machine import BearingSize, Layout, find_bearing

NEVER_S = 1.0e9


@dataclass(frozen=True, kw_only=True)
class MotorTone:
    """A tone at a multiple of the motor's own rate; `electric` ones vanish with the current."""

    order: float
    level: float
    electric: bool


@dataclass(frozen=True, kw_only=True)
class Drive:
    """Program, motor and what lies between motor and drum.

    grip : "drives", "stands" (drum never turns), "creeps" (drum lags and reaches only
    `creep_share` of full speed), "jerks" (drum
    slips back in bursts)
    hum_s : stretches in which the motor hums without turning, before anything moves
    brake_rad_s2 : deceleration by an electric or friction brake after power is cut, 0 when it coasts freely
    """

    plate_rpm: float
    spin_rpm: float
    tumble_rpm: float
    distribute_rpm: float
    ramp_rpm_s: float
    plateau_s: float
    false_starts: int
    pulley_ratio: float
    tones: tuple[MotorTone, ...]
    tone_level: float
    belt_slip: float
    squeal_level: float
    grinding_level: float
    clank_level: float
    grip: str
    creep_share: float
    hunting: float
    hum_level: float
    cut_out_after_s: float
    brake_rad_s2: float
    freewheels: bool


@dataclass(frozen=True, kw_only=True)
class Drag:
    """Deceleration c0 + c1·w + c2·w² of the freely turning drum [rad/s², 1/s, 1/rad]."""

    coulomb: float
    viscous: float
    quadratic: float


@dataclass(frozen=True, kw_only=True)
class Suspension:
    """The suspended group as a point mass in the drum's plane, with one axial degree of freedom.

    radial_hz : two natural frequencies along the principal axes, which lie at `principal_rad` to x
    damping : viscous damping ratio of each; friction_n : Coulomb friction of rods or dampers
    wander_rad : how far the angle of the unbalance wanders (liquid ring)
    """

    group_kg: float
    radial_hz: tuple[float, float]
    principal_rad: float
    axial_hz: float
    damping: tuple[float, float]
    friction_n: float
    stop_gap_m: float
    unbalance_kg_m: float
    shifted_unbalance_kg_m: float
    arm_opening: float
    axial_gain: float
    second_order_gain: float
    wander_rad: float


@dataclass(frozen=True, kw_only=True)
class Cabinet:
    """The case on its feet: two rocking modes, one vertical, and how far each corner follows."""

    kg: float
    rocking_hz: tuple[float, float]
    rocking_damping: tuple[float, float]
    vertical_hz: float
    vertical_damping: float
    lever: float
    corner_gain: tuple[float, float, float, float]
    foot_slap: float
    short_foot: int


@dataclass(frozen=True, kw_only=True)
class BearingDamage:
    """One damaged bearing. `level` 1: its impulses are as loud as the drum's broadband noise at full spin."""

    size: BearingSize
    place: str
    race: str
    slip: float
    stage: str
    level: float
    roughness: float


@dataclass(frozen=True, kw_only=True)
class Knocks:
    """Blows tied to the drum (`per_turn` > 0) or at random times (`per_turn` = 0, `per_s` of them)."""

    level: float
    band_hz: tuple[float, float]
    per_turn: int
    per_s: float
    jitter_turns: float
    speed_rpm: tuple[float, float]
    chance: float


@dataclass(frozen=True, kw_only=True)
class Washer:
    """Everything about one machine."""

    layout: str
    faults: tuple[str, ...]
    strength: float
    drive: Drive
    drag: Drag
    suspension: Suspension
    cabinet: Cabinet
    bearing_size: BearingSize
    air_level: float
    air_exponent: float
    structure_hz: tuple[float, ...]
    structure_q: tuple[float, ...]
    damage: BearingDamage | None = None
    knocks: tuple[Knocks, ...] = ()

    @property
    def drum_is_front(self) -> bool:
        return self.layout.startswith("front")

    @property
    def turns_drum(self) -> bool:
        return self.drive.grip != "stands"


def draw_healthy(layout: Layout, *, strength: float, rng: np.random.Generator) -> Washer:
    """A sound washer of that layout; `strength` is only noted, for faults added later."""
    front = layout.drum == "front"
    sizes: tuple[str, ...]
    if front:
        plate = float(rng.choice([800, 1000, 1200, 1400, 1600]))
        sizes = ("6203", "6204", "6205", "6206", "6207", "6208", "6305", "6306", "6307")
    else:
        plate = float(rng.choice([520, 620, 680, 720, 800, 850]))
        sizes = ("6204", "6205", "6206", "6207", "6208")
    size = find_bearing(str(rng.choice(sizes)))
    return Washer(
        layout=layout.code,
        faults=(),
        strength=strength,
        drive=_drive(layout, plate, rng),
        drag=Drag(
            coulomb=float(rng.uniform(2.0, 5.0)),
            viscous=float(rng.uniform(0.01, 0.05)),
            quadratic=float(rng.uniform(0.0, 0.0004)),
        ),
        suspension=_suspension(front, rng),
        cabinet=_cabinet(rng),
        # Makers differ by a ball size; the rest of the geometry follows.
        bearing_size=replace(size, ball_mm=size.ball_mm * float(rng.uniform(0.985, 1.015))),
        air_level=float(rng.uniform(0.5, 1.5)),
        air_exponent=float(rng.uniform(1.2, 2.4)),
        structure_hz=tuple(float(f) for f in np.sort(rng.uniform(700, 7000, size=5))),
        structure_q=tuple(float(q) for q in rng.uniform(12, 50, size=5)),
    )


def _drive(layout: Layout, plate: float, rng: np.random.Generator) -> Drive:
    front = layout.drum == "front"
    return Drive(
        plate_rpm=plate,
        spin_rpm=plate * float(rng.uniform(0.95, 1.02)),
        tumble_rpm=float(rng.uniform(42, 56) if front else rng.uniform(30, 50)),
        distribute_rpm=float(rng.uniform(75, 105) if front else rng.uniform(60, 90)),
        ramp_rpm_s=float(rng.uniform(45, 120) if front else rng.uniform(30, 80)),
        plateau_s=float(rng.uniform(8, 15)),
        false_starts=int(rng.random() < 0.12),
        pulley_ratio=1.0 if layout.drive == "direct" else float(rng.uniform(*layout.pulley_ratio)),
        tones=_motor_tones(layout, rng),
        tone_level=float(rng.uniform(0.1, 0.6)),
        belt_slip=float(rng.uniform(0.001, 0.012)) if layout.drive == "belt" else 0.0,
        squeal_level=0.0,
        grinding_level=0.0,
        clank_level=0.0,
        grip="drives",
        creep_share=1.0,
        hunting=float(rng.uniform(0.0005, 0.006)),
        hum_level=0.0,
        cut_out_after_s=NEVER_S,
        brake_rad_s2=float(rng.uniform(15, 40)) if rng.random() < (0.1 if front else 0.3) else 0.0,
        freewheels=layout.code == "top_coupler",
    )


def _motor_tones(layout: Layout, rng: np.random.Generator) -> tuple[MotorTone, ...]:
    slots = float(rng.choice([12, 24, 36, 42]) if layout.drive == "direct" else rng.choice([4, 6, 8, 12, 18, 22, 24]))
    return (
        MotorTone(order=1.0, level=float(rng.uniform(0.2, 1.0)), electric=False),
        MotorTone(order=2.0, level=float(rng.uniform(0.1, 0.8)), electric=False),
        MotorTone(order=slots, level=float(rng.uniform(0.2, 1.0)), electric=bool(rng.random() < 0.7)),
        MotorTone(order=2.0 * slots, level=float(rng.uniform(0.05, 0.5)), electric=True),
    )


def _suspension(front: bool, rng: np.random.Generator) -> Suspension:
    upper = float(rng.uniform(2.6, 5.0) if front else rng.uniform(1.3, 2.8))
    lower = upper * float(rng.uniform(0.72, 0.98) if front else rng.uniform(0.93, 1.0))
    damping = float(rng.uniform(0.08, 0.24))
    return Suspension(
        group_kg=float(rng.uniform(35, 75) if front else rng.uniform(25, 45)),
        radial_hz=(lower, upper),
        principal_rad=float(rng.normal(0.0, 0.08)),
        axial_hz=upper * float(rng.uniform(1.0, 1.5)),
        damping=(damping, damping * float(rng.uniform(0.85, 1.15))),
        friction_n=float(rng.uniform(0.5, 6.0) if front else rng.uniform(0.1, 2.0)),
        stop_gap_m=float(rng.uniform(0.02, 0.035)),
        unbalance_kg_m=float(np.exp(rng.uniform(math.log(0.006), math.log(0.05)))),
        shifted_unbalance_kg_m=0.0,
        arm_opening=0.0,
        axial_gain=float(rng.uniform(0.08, 0.25)),
        second_order_gain=float(rng.uniform(0.01, 0.05)),
        wander_rad=0.0,
    )


def _cabinet(rng: np.random.Generator) -> Cabinet:
    """Sheet-metal case on rubber feet: rubber and floor friction damp the rocking well."""
    low = float(rng.uniform(7, 18))
    return Cabinet(
        kg=float(rng.uniform(28, 60)),
        rocking_hz=(low, low * float(rng.uniform(1.1, 1.8))),
        rocking_damping=(float(rng.uniform(0.1, 0.35)), float(rng.uniform(0.1, 0.35))),
        vertical_hz=float(rng.uniform(18, 45)),
        vertical_damping=float(rng.uniform(0.1, 0.3)),
        lever=float(rng.uniform(0.3, 0.7)),
        corner_gain=tuple(float(g) for g in rng.uniform(0.85, 1.15, size=4)),  # type: ignore[arg-type]
        foot_slap=0.0,
        short_foot=0,
    )


def unbalance_force_n(unbalance_kg_m: float, *, speed_rpm: float) -> float:
    """Centrifugal force of an unbalance, m·r·w².

    >>> round(unbalance_force_n(0.1, speed_rpm=1200.0))
    1579
    """
    return unbalance_kg_m * (speed_rpm * 2.0 * math.pi / 60.0) ** 2
