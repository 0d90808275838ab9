"""Hand checks and their arithmetic."""

from eager_ear.core.hands.arithmetic import (
    belt_tension_n,
    capacitor_excess,
    damping_from_swings,
    foot_turns,
    swings_from_damping,
    swings_from_peaks,
)
from eager_ear.core.hands.checks import validate_values
from eager_ear.core.hands.gap_round import GapRound, fit_gap_round

__all__ = [
    "GapRound",
    "belt_tension_n",
    "capacitor_excess",
    "damping_from_swings",
    "fit_gap_round",
    "foot_turns",
    "swings_from_damping",
    "swings_from_peaks",
    "validate_values",
]
