"""One made-up washer: physical parameters drawn wide from a seed, then bent by its faults.

Ranges are those of household machines (masses, springs, bearings, rooms and phones as commonly met), not values
chosen to suit the analysis, which never reads this package.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from eager_ear.core.errors import BadField
from eager_ear.core.machine import BearingSize, Layout, bearing_catalogue, find_bearing

SIMULATED_FAULTS = (
    "none",
    "drum_bearing",
    "gearcase_bearing",
    "spider",
    "suspension_worn",
    "suspension_off",
    "load_problem",
    "counterweight_loose",
    "foreign_object",
    "not_level",
    "belt",
    "motor_coupler",
)
FRONT_ONLY = frozenset({"drum_bearing", "spider", "counterweight_loose"})
STAGES = ("whine", "growl", "collapsed")


@dataclass(frozen=True, kw_only=True)
class Washer:
    """Physical parameters. SI units; angles in rad; `_hz` in cycles a second."""

    layout: str
    faults: tuple[str, ...]
    stage: str | None
    strength: float
    # drive
    plate_rpm: float
    spin_rpm: float
    tumble_rpm: float
    distribute_rpm: float
    ramp_rpm_s: float
    plateau_s: float
    pulley_ratio: float
    motor_orders: tuple[tuple[float, float], ...]
    motor_tone_level: float
    belt_slip: float
    squeal_level: float
    drum_driven: bool
    hunting: float
    # drag, rad/s and s
    drag_coulomb: float
    drag_viscous: float
    drag_quadratic: float
    # suspended group
    group_kg: float
    lateral_hz: float
    vertical_hz: float
    axial_hz: float
    damping_ratio: float
    rod_friction_n: float
    stop_gap_m: float
    unbalance_kg_m: float
    arm_opening: float
    axial_gain: float
    second_order_gain: float
    cabinet_kg: float
    cabinet_hz: float
    cabinet_damping: float
    foot_slap: float
    # sound
    air_level: float
    air_exponent: float
    impact_level: float
    impact_band_hz: tuple[float, float]
    impact_jitter_turns: float
    impact_speed_rpm: tuple[float, float]
    impact_chance: float
    bearing: BearingSize
    bearing_race: str
    bearing_place: str
    bearing_slip: float
    bearing_level: float
    bearing_roughness: float
    structure_hz: tuple[float, ...]
    structure_q: tuple[float, ...]


def draw_washer(
    layout: Layout,
    *,
    faults: tuple[str, ...],
    strength: float | None,
    rng: np.random.Generator,
) -> Washer:
    """A washer of that layout with those faults.

    Parameters
    ----------
    strength : 0 (just begun) to 1 (far gone), drawn when None

    Raises
    ------
    BadField
        A fault that cannot be simulated, or that the layout does not have.
    """
    _check_faults(layout, faults)
    how_far = float(rng.uniform(0.25, 1.0)) if strength is None else strength
    washer = _healthy(layout, how_far, rng)
    for fault in faults:
        washer = _bend(washer, fault, how_far, rng)
    return replace(washer, faults=faults)


def _check_faults(layout: Layout, faults: tuple[str, ...]) -> None:
    for fault in faults:
        wrong_drum = fault in FRONT_ONLY and layout.drum != "front"
        wrong_drive = (fault == "belt" and layout.drive != "belt") or (
            fault == "motor_coupler" and layout.code != "top_coupler"
        )
        if fault not in SIMULATED_FAULTS:
            raise BadField(
                field="fault", reason=f"“{fault}” cannot be simulated; known: {', '.join(SIMULATED_FAULTS)}."
            )
        if wrong_drum or wrong_drive or (fault == "gearcase_bearing" and layout.drum != "top"):
            raise BadField(field="fault", reason=f"“{fault}” does not occur in layout {layout.code}.")


def _healthy(layout: Layout, strength: float, rng: np.random.Generator) -> Washer:
    front = layout.drum == "front"
    sizes: tuple[str, ...]
    if front:
        plate = float(rng.choice([800, 1000, 1200, 1400, 1600]))
        sizes = ("6203", "6204", "6205", "6206", "6207", "6305", "6306")
    else:
        plate = float(rng.choice([520, 620, 680, 720, 800, 850]))
        sizes = ("6204", "6205", "6206", "6207", "6208")
    designation = str(rng.choice(sizes))
    size = find_bearing(designation, catalogue=bearing_catalogue())
    size = replace(size, ball_mm=size.ball_mm * float(rng.uniform(0.985, 1.015)))
    vertical = float(rng.uniform(2.6, 5.0) if front else rng.uniform(1.3, 2.8))
    return Washer(
        layout=layout.code,
        faults=(),
        stage=None,
        strength=strength,
        plate_rpm=plate,
        spin_rpm=plate * float(rng.uniform(0.95, 1.02)),
        tumble_rpm=float(rng.uniform(42, 56) if front else rng.uniform(30, 50)),
        distribute_rpm=float(rng.uniform(75, 105) if front else rng.uniform(60, 90)),
        ramp_rpm_s=float(rng.uniform(40, 110) if front else rng.uniform(30, 80)),
        plateau_s=float(rng.uniform(9, 15)),
        pulley_ratio=1.0 if layout.drive == "direct" else float(rng.uniform(*layout.pulley_ratio)),
        motor_orders=_motor_orders(layout, rng),
        motor_tone_level=float(rng.uniform(0.15, 0.6)),
        belt_slip=float(rng.uniform(0.001, 0.012)) if layout.drive == "belt" else 0.0,
        squeal_level=0.0,
        drum_driven=True,
        hunting=float(rng.uniform(0.0005, 0.004)),
        drag_coulomb=float(rng.uniform(2.0, 5.0)),
        drag_viscous=float(rng.uniform(0.01, 0.05)),
        drag_quadratic=float(rng.uniform(0.0, 0.0004)),
        group_kg=float(rng.uniform(35, 75) if front else rng.uniform(25, 45)),
        lateral_hz=vertical * float(rng.uniform(0.75, 0.98)),
        vertical_hz=vertical,
        axial_hz=vertical * float(rng.uniform(1.0, 1.5)),
        damping_ratio=float(rng.uniform(0.09, 0.22)),
        rod_friction_n=float(rng.uniform(2, 15)),
        stop_gap_m=float(rng.uniform(0.02, 0.035)),
        unbalance_kg_m=float(rng.uniform(0.008, 0.05)),
        arm_opening=0.0,
        axial_gain=float(rng.uniform(0.08, 0.25)),
        second_order_gain=float(rng.uniform(0.01, 0.05)),
        cabinet_kg=float(rng.uniform(25, 50)),
        cabinet_hz=float(rng.uniform(9, 26)),
        cabinet_damping=float(rng.uniform(0.04, 0.12)),
        foot_slap=0.0,
        air_level=float(rng.uniform(0.5, 1.5)),
        air_exponent=float(rng.uniform(1.2, 2.4)),
        impact_level=0.0,
        impact_band_hz=(80.0, 160.0),
        impact_jitter_turns=0.01,
        impact_speed_rpm=(0.0, 3000.0),
        impact_chance=1.0,
        bearing=size,
        bearing_race="outer",
        bearing_place="rear" if front else "spin",
        bearing_slip=float(rng.uniform(0.0, 0.012)),
        bearing_level=0.0,
        bearing_roughness=0.0,
        structure_hz=tuple(float(f) for f in np.sort(rng.uniform(700, 7000, size=5))),
        structure_q=tuple(float(q) for q in rng.uniform(12, 50, size=5)),
    )


def _motor_orders(layout: Layout, rng: np.random.Generator) -> tuple[tuple[float, float], ...]:
    """Tones as (multiple of the motor's own rate, relative amplitude)."""
    slots = float(rng.choice([12, 24, 36, 42]) if layout.drive == "direct" else rng.choice([4, 6, 8, 12, 24]))
    return (
        (1.0, float(rng.uniform(0.2, 1.0))),
        (2.0, float(rng.uniform(0.1, 0.8))),
        (slots, float(rng.uniform(0.2, 1.0))),
        (2.0 * slots, float(rng.uniform(0.05, 0.5))),
    )


def _bend(washer: Washer, fault: str, s: float, rng: np.random.Generator) -> Washer:
    if fault in ("drum_bearing", "gearcase_bearing"):
        return _worn_bearing(washer, s, rng)
    if fault == "spider":
        return replace(
            washer,
            arm_opening=float(rng.uniform(0.6, 1.8)) * (0.5 + 1.2 * s),
            axial_gain=float(rng.uniform(0.45, 0.9)),
            second_order_gain=float(rng.uniform(0.12, 0.35)),
            unbalance_kg_m=washer.unbalance_kg_m * float(rng.uniform(1.2, 2.0)),
            impact_level=float(rng.uniform(0.1, 1.0)) * s,
            impact_band_hz=(110.0, 420.0),
            impact_speed_rpm=(20.0, 130.0),
            impact_jitter_turns=0.02,
        )
    if fault == "suspension_worn":
        return replace(
            washer,
            damping_ratio=washer.damping_ratio * float(0.45 - 0.3 * s),
            rod_friction_n=washer.rod_friction_n * 0.2,
            unbalance_kg_m=max(washer.unbalance_kg_m, 0.02),
        )
    if fault == "suspension_off":
        return replace(
            washer,
            lateral_hz=washer.lateral_hz * 0.65,
            damping_ratio=washer.damping_ratio * 0.7,
            stop_gap_m=washer.stop_gap_m * (0.25 - 0.15 * s),
        )
    if fault == "load_problem":
        return replace(washer, unbalance_kg_m=float(rng.uniform(0.12, 0.35)) * (0.6 + 0.8 * s))
    if fault == "counterweight_loose":
        return replace(
            washer,
            impact_level=float(rng.uniform(1.0, 4.0)) * (0.4 + s),
            impact_band_hz=(60.0, 190.0),
            impact_speed_rpm=(90.0, 0.8 * washer.spin_rpm),
            impact_jitter_turns=0.03,
        )
    if fault == "foreign_object":
        return replace(
            washer,
            impact_level=float(rng.uniform(0.8, 4.0)) * (0.4 + s),
            impact_band_hz=(2200.0, 8500.0),
            impact_speed_rpm=(20.0, 0.9 * washer.spin_rpm),
            impact_jitter_turns=0.012,
            impact_chance=float(rng.uniform(0.75, 1.0)),
        )
    if fault == "not_level":
        return replace(washer, foot_slap=float(rng.uniform(0.5, 1.0)) * (0.4 + s), cabinet_hz=washer.cabinet_hz * 0.7)
    if fault == "belt":
        return replace(
            washer,
            belt_slip=float(rng.uniform(0.03, 0.12)) * (0.5 + s),
            squeal_level=float(rng.uniform(0.4, 1.2)) * (0.3 + s),
            ramp_rpm_s=washer.ramp_rpm_s * 0.7,
        )
    if fault == "motor_coupler":
        return replace(washer, drum_driven=False)
    return washer


def _worn_bearing(washer: Washer, s: float, rng: np.random.Generator) -> Washer:
    stage = STAGES[min(2, int(s * 3))]
    level = {"whine": (0.06, 0.25), "growl": (0.3, 1.0), "collapsed": (0.8, 2.0)}[stage]
    rough = {"whine": 0.05, "growl": 0.5, "collapsed": 1.2}[stage]
    return replace(
        washer,
        stage=stage,
        bearing_race=str(rng.choice(["outer", "inner", "ball"], p=[0.45, 0.4, 0.15])),
        bearing_level=float(rng.uniform(*level)),
        bearing_roughness=rough * float(rng.uniform(0.6, 1.4)),
        drag_coulomb=washer.drag_coulomb * {"whine": 1.1, "growl": 1.5, "collapsed": 2.5}[stage],
        unbalance_kg_m=washer.unbalance_kg_m * (1.6 if stage == "collapsed" else 1.0),
    )


def unbalance_force_n(unbalance_kg_m: float, *, speed_rpm: float) -> float:
    """Centrifugal force of an unbalance, m·r·w².

    >>> round(unbalance_force_n(0.1, speed_rpm=1200.0))
    1579
    """
    return unbalance_kg_m * (speed_rpm * 2.0 * math.pi / 60.0) ** 2
