"""A clamp meter around the motor's lead: RMS current ten times a second, as hand-held meters log it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from eager_ear.core.case import Recording, RecordingFacts
from eager_ear.core.signals.types import CurrentSignal
from eager_ear.core.simulate.rotation import STEP_RATE_HZ, STEP_S, Rotation
from eager_ear.core.simulate.scenario import SimulatedCase

METER_RATE_HZ = 10.0
IDLE_A = 0.05
SURGE_LAG_S = 0.4


def clamp_current(rotation: Rotation, *, rng: np.random.Generator) -> CurrentSignal:
    """What the meter logs over the whole test.

    An energised motor that stands draws its starting current; a running one draws by its load, more while it
    accelerates the drum.
    """
    running_a = float(rng.uniform(1.2, 4.5))
    starting_a = running_a * float(rng.uniform(2.5, 5.0))
    top_hz = max(float(rotation.drum_hz.max()), 1e-3)
    pull = np.clip(np.gradient(rotation.motor_hz, STEP_S) / max(float(rotation.motor_hz.max()), 1e-3), 0.0, None)
    load = 0.55 + 0.45 * (rotation.drum_hz / top_hz) ** 2 + 2.0 * pull
    since_on = np.cumsum(rotation.motor_on) * STEP_S
    surge = (starting_a - running_a) * np.exp(-since_on / SURGE_LAG_S)
    drawn = np.where(rotation.humming, starting_a, running_a * load + surge)
    amps = IDLE_A + drawn * ((rotation.motor_on > 0.5) | rotation.humming)
    every = int(STEP_RATE_HZ / METER_RATE_HZ)
    power = np.square(amps)[: amps.size // every * every].reshape(-1, every).mean(axis=1)
    logged = np.sqrt(power) * (1.0 + 0.01 * rng.standard_normal(power.size))
    return CurrentSignal(t_s=(np.arange(power.size) + 0.5) / METER_RATE_HZ, current_a=np.round(logged, 2))


def with_clamp(simulated: SimulatedCase, *, seed: int) -> SimulatedCase:
    """The same test with a clamp meter's log beside the other recordings."""
    take = simulated.take
    logged = clamp_current(simulated.rotation, rng=np.random.default_rng(seed))
    inside = (logged.t_s >= take.begin_s) & (logged.t_s < take.end_s)
    recording = Recording(
        facts=RecordingFacts(name="current.csv", kind="current", test="spin", run="1", load=take.load),
        signal=CurrentSignal(t_s=logged.t_s[inside] - take.begin_s, current_a=logged.current_a[inside]),
    )
    case = simulated.case
    return replace(simulated, case=replace(case, recordings=(*case.recordings, recording)))
