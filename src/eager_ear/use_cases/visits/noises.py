"""Examples of noises as customers tell them: a typical machine of the layout, made by the simulator, in that phase.

The same machine each time, so that only what is wrong with it differs.
"""

from __future__ import annotations

from collections.abc import Mapping
from concurrent.futures import ProcessPoolExecutor
from functools import lru_cache
from multiprocessing import get_context

import numpy as np

from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.diagnosis.knowledge import Symptom
from eager_ear.core.errors import UnknownCode
from eager_ear.core.machine import LAYOUTS
from eager_ear.core.signals.sound import Heard, for_the_ear
from eager_ear.core.signals.types import AudioSignal
from eager_ear.core.simulate import faults_of_layout, simulate_agitation, simulate_case, simulate_hand_turn
from eager_ear.core.units import FloatArray

SEED = 3
LENGTH_S = 4.0
# Phases of a spin test, a drum turned by hand, and the wash: before it spins a front loader tumbles as it does in the
# wash; how a top loader agitates is made by itself.
SPIN_PHASES = ("spin_start", "ramp", "full_speed", "coast_down")
HAND_TURN, WASH = "hand_turn", "wash"
TUMBLE_RPM = 25.0
# Where a spin has begun in earnest, and where its ramp is nearly over, as shares of the fastest.
BEGUN, NEARLY_THERE = 0.15, 0.85
MOST_KEPT = 16
# How far gone a fault is, 0 to 1.
STAGES = {"begun": 0.2, "well_on": 0.5, "far_gone": 0.95}


def heard_phases(layout: str) -> tuple[str, ...]:
    """When a machine of that layout can be heard."""
    return (HAND_TURN, WASH, *SPIN_PHASES) if layout in LAYOUTS else ()


def _of_spin(layout: str) -> tuple[str, ...]:
    return (WASH, *SPIN_PHASES) if LAYOUTS[layout].drum == "front" else SPIN_PHASES


def example_fault(symptom: Symptom, *, layout: str, knowledge: Knowledge) -> str | None:
    """The fault whose sound stands for the symptom on that layout; None where there is none, or it is no noise."""
    if symptom.example is None:
        return None
    possible = faults_of_layout(layout, knowledge=knowledge)
    telling = [(chance, fault) for fault, chance in symptom.given.items() if fault in possible]
    return max(telling)[1] if telling else None


def noise(*, layout: str, symptom: str, phase: str, knowledge: Knowledge) -> Heard:
    """A few seconds of it.

    Raises
    ------
    UnknownCode
        A phase without sound, or a symptom that is no noise on that layout.
    """
    _require_heard(layout, phase)
    found = knowledge.symptoms.get(symptom)
    fault = example_fault(found, layout=layout, knowledge=knowledge) if found is not None else None
    if found is None or found.example is None or fault is None:
        symptoms = knowledge.symptoms.values()
        known = tuple(s.code for s in symptoms if example_fault(s, layout=layout, knowledge=knowledge))
        raise UnknownCode(field="symptom", value=symptom, known=known)
    return _stretches(layout, fault, found.example)[phase]


def fault_noise(*, layout: str, fault: str, stage: str, phase: str, knowledge: Knowledge) -> Heard:
    """A few seconds of a fault at a stage, or of the same machine with nothing wrong.

    Raises
    ------
    UnknownCode
        A phase without sound, a stage that is none, or a fault that cannot be simulated on that layout.
    """
    _require_heard(layout, phase)
    if stage not in STAGES:
        raise UnknownCode(field="stage", value=stage[:40], known=tuple(STAGES))
    possible = ("none", *faults_of_layout(layout, knowledge=knowledge))
    if fault not in possible:
        raise UnknownCode(field="fault", value=fault[:40], known=possible)
    return _stretches(layout, fault, STAGES[stage])[phase]


def _require_heard(layout: str, phase: str) -> None:
    if layout not in LAYOUTS:
        raise UnknownCode(field="layout", value=layout[:40], known=tuple(LAYOUTS))
    if phase not in heard_phases(layout):
        raise UnknownCode(field="phase", value=phase[:40], known=heard_phases(layout))


@lru_cache(maxsize=MOST_KEPT)
def _stretches(layout: str, fault: str, strength: float) -> Mapping[str, Heard]:
    """One spin's phases, a few seconds each.

    Made in a process of its own: a spin takes three hundred megabytes, of which a server that lives for weeks would
    keep a part for each of its threads.
    """
    with ProcessPoolExecutor(max_workers=1, mp_context=get_context("spawn")) as child:
        return child.submit(made_up, layout, fault, strength).result()


def made_up(layout: str, fault: str, strength: float) -> dict[str, Heard]:
    """The phases of a simulated spin; the spin itself is not kept."""
    spin = simulate_case(layout=layout, faults=[fault], seed=SEED, strength=strength)
    sound = next(r.signal for r in spin.case.recordings if isinstance(r.signal, AudioSignal))
    rate = sound.sample_rate_hz
    out, truth = {}, spin.truth()
    for phase in _of_spin(layout):
        first = int(max(0.0, _begin_s(spin.drum_rpm, truth["power_cut_s"], phase)) * rate)
        out[phase] = for_the_ear(sound.samples[first : first + int(LENGTH_S * rate)], sample_rate_hz=rate)
    alone = {HAND_TURN: simulate_hand_turn}
    if WASH not in out:
        alone[WASH] = simulate_agitation
    for phase, simulate in alone.items():
        made = simulate(layout=layout, faults=[fault], seed=SEED, strength=strength, lasts_s=LENGTH_S)
        out[phase] = for_the_ear(made.samples, sample_rate_hz=made.sample_rate_hz)
    return out


def _begin_s(drum_rpm: FloatArray, power_cut_s: float, phase: str) -> float:
    t_s, rpm = drum_rpm[:, 0], drum_rpm[:, 1]
    top = float(rpm.max())
    if phase == "coast_down":
        return power_cut_s + 0.3
    if phase == WASH:
        return float(t_s[np.argmax(rpm > TUMBLE_RPM)])
    if phase == "full_speed":
        return min(power_cut_s, float(t_s[np.flatnonzero(rpm > 0.98 * top)[-1]])) - LENGTH_S
    if phase == "ramp":
        return float(t_s[np.argmax(rpm > NEARLY_THERE * top)]) - LENGTH_S
    return float(t_s[np.argmax(rpm > BEGUN * top)]) - 0.4 * LENGTH_S
