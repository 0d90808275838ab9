"""A whole made-up visit: one washer, one phone, the recordings of one spin test, and the truth beside them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from eager_ear.core.case import Case, Recording, RecordingFacts
from eager_ear.core.machine import Machine, find_layout
from eager_ear.core.simulate.motion import Rotation, rotate, shake
from eager_ear.core.simulate.sensors import draw_phone, record_acceleration, record_audio
from eager_ear.core.simulate.sound import sound_at_machine
from eager_ear.core.simulate.washer import Washer, draw_washer
from eager_ear.core.units import FloatArray


@dataclass(frozen=True, kw_only=True)
class SimulatedCase:
    """A case and what is true about it; `drum_rpm` is [shape=(n, 2)] as (t_s, rpm)."""

    case: Case
    washer: Washer
    rotation: Rotation
    drum_rpm: FloatArray

    def truth(self) -> dict[str, Any]:
        """The truth as plain data, to be laid beside the case."""
        return {
            "faults": list(self.washer.faults) or ["none"],
            "stage": self.washer.stage,
            "strength": self.washer.strength,
            "power_cut_s": self.rotation.power_cut_s,
            "critical_rpm": [self.washer.lateral_hz * 60.0, self.washer.vertical_hz * 60.0],
            "damping_ratio": self.washer.damping_ratio,
            "pulley_ratio": self.washer.pulley_ratio,
            "belt_slip": self.washer.belt_slip,
            "bearing": {
                "designation": self.washer.bearing.designation,
                "race": self.washer.bearing_race,
                "level": self.washer.bearing_level,
            },
            "drum_rpm": [[round(float(t), 3), round(float(r), 3)] for t, r in self.drum_rpm],
        }


def simulate_case(
    *,
    layout: str,
    faults: Sequence[str],
    seed: int,
    strength: float | None = None,
    with_audio: bool = True,
    with_acceleration: bool = True,
    known_plate: bool = True,
) -> SimulatedCase:
    """Simulate one spin test with the drum empty, or lopsided where the load is the trouble.

    Parameters
    ----------
    known_plate : the case names plate speed, pulley ratio and bearing sizes, as a careful technician would

    Raises
    ------
    BadField, UnknownCode
        A layout or fault that cannot be simulated.
    """
    rng = np.random.default_rng(seed)
    kinds = tuple(f for f in faults if f != "none")
    washer = draw_washer(find_layout(layout), faults=kinds, strength=strength, rng=rng)
    phone = draw_phone(rng=rng)
    rotation = rotate(washer, rng=rng)
    shaking = shake(washer, rotation)
    position = "top_centre"
    load = "lopsided" if "load_problem" in kinds else "empty"
    recordings: list[Recording] = []
    if with_audio:
        sound = sound_at_machine(washer, rotation, shaking, sample_rate_hz=phone.audio_rate_hz, rng=rng)
        recordings.append(
            Recording(
                facts=RecordingFacts(name="spin.wav", kind="audio", test="spin", run="1", position=position, load=load),
                signal=record_audio(sound, phone=phone, rng=rng),
            )
        )
    if with_acceleration:
        recordings.append(
            Recording(
                facts=RecordingFacts(
                    name="spin.csv", kind="acceleration", test="spin", run="1", position=position, load=load
                ),
                signal=record_acceleration(shaking, rotation, phone=phone, rng=rng),
            )
        )
    machine = _plate(washer, known=known_plate)
    name = "-".join(("sim", layout, *(kinds or ("none",)), str(seed)))
    every = slice(None, None, 100)
    track = np.stack([rotation.t_s[every], rotation.drum_hz[every] * 60.0], axis=1)
    case = Case(id=name, machine=machine, recordings=tuple(recordings))
    return SimulatedCase(case=case, washer=washer, rotation=rotation, drum_rpm=track)


def _plate(washer: Washer, *, known: bool) -> Machine:
    if not known:
        return Machine(layout=washer.layout)
    front = washer.layout.startswith("front")
    ratio = washer.pulley_ratio if washer.layout in ("front_belt", "top_shifter", "top_pulsator") else None
    return Machine(
        layout=washer.layout,
        mains_hz=50,
        max_spin_rpm=washer.plate_rpm,
        pulley_ratio=round(ratio, 2) if ratio is not None else None,
        rear_bearing=washer.bearing.designation if front else None,
        front_bearing="6206" if front else None,
    )
