"""Washers that sound and shake, for demo, tests and training. The analysis never imports this package."""

from eager_ear.core.simulate.agitation import simulate_agitation
from eager_ear.core.simulate.by_hand import simulate_hand_turn
from eager_ear.core.simulate.clamp import with_clamp
from eager_ear.core.simulate.corners import simulate_corners
from eager_ear.core.simulate.faults import SIMULATED_FAULTS, draw_washer, faults_of_layout
from eager_ear.core.simulate.scenario import Physics, SimulatedCase, record_washer, simulate_case

__all__ = [
    "Physics",
    "SIMULATED_FAULTS",
    "SimulatedCase",
    "draw_washer",
    "faults_of_layout",
    "record_washer",
    "simulate_agitation",
    "simulate_case",
    "simulate_corners",
    "simulate_hand_turn",
    "with_clamp",
]
