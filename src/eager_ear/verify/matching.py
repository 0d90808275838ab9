"""Which checks go with which fault, and which faults can be settled by one look or heard at all."""

from __future__ import annotations

from collections.abc import Mapping

# The check that settles a fault, then what a technician who thinks of it would also try.
MATCHING: Mapping[str, tuple[str, ...]] = {
    "none": ("rock", "hand_turn", "bounce"),
    "drum_bearing": ("hand_turn", "drum_lift_play", "residue"),
    "tub_seal": ("staged_fill", "residue"),
    "spider": ("drum_gap_round", "drum_lift_play"),
    "gearcase_bearing": ("hand_turn", "residue"),
    "spindle_seat": ("drum_lift_play", "drum_gap_round"),
    "suspension_worn": ("bounce", "sag"),
    "suspension_off": ("corner_rest", "sag"),
    "counterweight_loose": ("counterweight", "rock"),
    "not_level": ("rock", "bounce"),
    "load_problem": ("load_seen", "bounce"),
    "foreign_object": ("foreign_sweep", "hand_turn"),
    "drum_burr": ("foreign_sweep", "hand_turn"),
    "loose_hose": ("hose_clips", "rock"),
    "spring_bush": ("spring_seats", "bounce"),
    "belt": ("belt_look", "belt_pluck"),
    "motor_coupler": ("coupler_look", "hand_turn"),
    "clutch": ("clutch_look", "residue"),
    "drive_block": ("drive_block_look", "hand_turn"),
    "gearcase": ("gearcase_turns", "coupler_look"),
    "hub_spline": ("hub_look", "hold_and_twist"),
    "shift_actuator": ("shift_sound", "collar_look"),
    "shift_collar": ("collar_look", "shift_sound"),
    "agitator_dogs": ("agitator_ratchet", "hand_turn"),
    "motor": ("hot_cutout", "smell", "motor_amps"),
    "run_capacitor": ("capacitor_uf", "pump_clear"),
    "pump_blocked": ("pump_clear", "hand_turn"),
    "lid_switch": ("lid_switch_ohms", "lid_press"),
}
# Where one look settles it: alone it must lead the call.
DECISIVE = (
    "suspension_off",
    "counterweight_loose",
    "not_level",
    "loose_hose",
    "spring_bush",
    "motor_coupler",
    "drive_block",
    "gearcase",
    "hub_spline",
    "agitator_dogs",
    "run_capacitor",
    "pump_blocked",
    "tub_seal",
)
# What can be heard or felt by a phone beside the machine at all.
HEARD = (
    "drum_bearing",
    "gearcase_bearing",
    "spider",
    "suspension_worn",
    "suspension_off",
    "counterweight_loose",
    "foreign_object",
    "loose_hose",
    "belt",
    "motor_coupler",
    "clutch",
    "load_problem",
)
