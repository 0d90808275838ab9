"""Washers that sound and shake, for demo, tests and training. The analysis never imports this package."""

from eager_ear.core.simulate.scenario import SimulatedCase, simulate_case
from eager_ear.core.simulate.washer import SIMULATED_FAULTS

__all__ = ["SIMULATED_FAULTS", "SimulatedCase", "simulate_case"]
