"""What the owner of a machine tells of it whose faults are known."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.simulate.technician import Truth

# Four in ten of what is there are left out, and one in twelve tells of something that is not.
TOLD, SAID_ANYWAY = 0.6, 0.08
TELLS: Mapping[str, tuple[str, ...]] = {
    "drum_bearing": ("roar_rises_with_speed", "growl_in_spin"),
    "tub_seal": ("leak_centre", "rust_marks"),
    "spider": ("thump_in_spin", "shakes", "bang_at_spin_start"),
    "gearcase_bearing": ("roar_rises_with_speed", "growl_in_spin"),
    "spindle_seat": ("scrape_or_tick", "drum_off_centre"),
    "suspension_worn": ("bang_at_spin_start", "shakes"),
    "suspension_off": ("bang_at_spin_start", "drum_off_centre"),
    "counterweight_loose": ("thump_in_spin",),
    "balance_ring": ("shakes",),
    "not_level": ("walks", "shakes"),
    "load_problem": ("walks", "shakes"),
    "foreign_object": ("scrape_or_tick",),
    "drum_burr": ("torn_clothes",),
    "loose_hose": ("tapping",),
    "spring_bush": ("squeal",),
    "belt": ("squeal", "slow_spin"),
    "motor_coupler": ("no_spin", "no_agitation", "grinding"),
    "clutch": ("clothes_wet", "slow_spin"),
    "drive_block": ("clank_metal", "clothes_wet"),
    "gearcase": ("no_spin", "no_agitation", "hum_no_motion"),
    "hub_spline": ("no_spin", "grinding", "clothes_wet"),
    "shift_actuator": ("no_spin", "clothes_wet"),
    "shift_collar": ("no_spin", "grinding"),
    "agitator_dogs": ("poor_wash",),
    "motor": ("stops_when_hot", "burnt_smell"),
    "run_capacitor": ("hum_no_motion", "no_spin"),
    "pump_blocked": ("does_not_drain", "hum_no_motion"),
    "lid_switch": ("no_spin", "lid_not_locking"),
}


def story_of(truth: Truth, *, knowledge: Knowledge, rng: np.random.Generator) -> tuple[str, ...]:
    """Symptoms that the customer tells: most of what is there, now and then something that is not."""
    told = [s for f in truth.faults for s in TELLS.get(f, ()) if rng.random() < TOLD]
    if rng.random() < SAID_ANYWAY:
        told.append(str(rng.choice(list(knowledge.symptoms))))
    return tuple(dict.fromkeys(told))
