"""Which machine a seed stands for. Three kinds of draw, each a pure function of its seed and of the physics.

Mixed draws: any layout, none, one or two faults, everything that can go wrong with a recording. Bearing draws: a known
bearing whose damage is exactly 10 dB below the drum's broadband noise, or none, recorded decently. Stage draws: a
bearing worn to any stage, each as likely as any other.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from eager_ear.core.machine import LAYOUT_CODES, find_layout
from eager_ear.core.simulate import Physics, SimulatedCase, draw_washer, faults_of_layout, record_washer
from eager_ear.core.simulate.scenario import OUR_PHYSICS
from eager_ear.knowledge import load_knowledge

HEALTHY_SHARE = 0.2
PAIR_SHARE = 0.2
BEARING_LEVEL = 10.0 ** (-10.0 / 20.0)
BEARING_FAULTS = ("drum_bearing", "gearcase_bearing")
FRONT_LAYOUTS = ("front_belt", "front_direct")


@dataclass(frozen=True, kw_only=True)
class Draw:
    """One drawn case; `group` names what it is counted under."""

    seed: int
    group: str
    case: SimulatedCase


def mixed_draw(seed: int, *, physics: Physics = OUR_PHYSICS) -> Draw:
    """Any machine, any fault or two, a rough recording."""
    rng = np.random.default_rng([seed, 1])
    layout = find_layout(str(rng.choice(LAYOUT_CODES)))
    possible = faults_of_layout(layout.code, knowledge=load_knowledge())
    count = int(rng.choice([0, 1, 2], p=[HEALTHY_SHARE, 1.0 - HEALTHY_SHARE - PAIR_SHARE, PAIR_SHARE]))
    faults = tuple(str(f) for f in rng.choice(possible, size=count, replace=False))
    washer = draw_washer(layout, faults=faults, strength=None, rng=rng)
    case = record_washer(washer, rng=rng, name=f"mixed-{seed}", rough=True, physics=physics)
    return Draw(seed=seed, group="+".join(faults) or "none", case=case)


def bearing_draw(seed: int, *, stage: str | None, physics: Physics = OUR_PHYSICS) -> Draw:
    """A front loader with one damaged bearing at that stage, or a sound one; both sensors, plate known."""
    rng = np.random.default_rng([seed, 2])
    layout = find_layout(str(rng.choice(FRONT_LAYOUTS)))
    strength = {"whine": 0.2, "growl": 0.5, "collapsed": 0.9, None: 0.5}[stage]
    faults = () if stage is None else ("drum_bearing",)
    washer = draw_washer(layout, faults=faults, strength=strength, rng=rng)
    if washer.damage is not None:
        level = BEARING_LEVEL * washer.air_level
        washer = replace(washer, damage=replace(washer.damage, level=level))
    case = record_washer(washer, rng=rng, name=f"bearing-{seed}", rough=False, physics=physics)
    return Draw(seed=seed, group=stage or "healthy", case=case)


def stage_draw(seed: int, *, physics: Physics = OUR_PHYSICS) -> Draw:
    """A machine whose bearing is worn to any stage, as loud as it then is; both sensors, plate known."""
    rng = np.random.default_rng([seed, 3])
    layout = find_layout(str(rng.choice(LAYOUT_CODES)))
    worn = next(f for f in BEARING_FAULTS if f in faults_of_layout(layout.code, knowledge=load_knowledge()))
    strength = float(rng.choice([0.2, 0.5, 0.9]) + rng.uniform(-0.1, 0.1))
    washer = draw_washer(layout, faults=(worn,), strength=strength, rng=rng)
    case = record_washer(washer, rng=rng, name=f"stage-{seed}", rough=False, physics=physics)
    return Draw(seed=seed, group=washer.damage.stage if washer.damage is not None else "none", case=case)
