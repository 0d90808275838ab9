"""A whole made-up visit: one washer, one room, one phone, the recordings of a spin test, and the truth beside them."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from eager_ear.core.case import Case, Recording, RecordingFacts
from eager_ear.core.machine import Machine, find_layout
from eager_ear.core.simulate.air import sound_at_machine
from eager_ear.core.simulate.bearing_sound import damage_order
from eager_ear.core.simulate.faults import draw_washer
from eager_ear.core.simulate.phone import Phone, draw_phone, record_acceleration, record_audio
from eager_ear.core.simulate.room import Room, draw_room, heard_in, room_alone
from eager_ear.core.simulate.rotation import STEP_RATE_HZ, Rotation, rotate
from eager_ear.core.simulate.shaking import Shaking, bounce, shake
from eager_ear.core.simulate.washer import Washer
from eager_ear.core.units import FloatArray

AMBIENT_S = 5.0
BOUNCE_S = 8.0
# Shorter tests are recorded whole.
LEAST_CROPPED_S = 30.0


@dataclass(frozen=True, kw_only=True)
class Physics:
    """How a washer shakes and sounds: three functions that another model may replace.

    shake(washer, rotation, position=, rng=) gives the cabinet's motion; sound(washer, rotation, shaking,
    sample_rate_hz=, mains_hz=, rng=) the sound close to it; heard(room, sound, sample_rate_hz=, rng=) what is recorded.
    """

    shake: Callable[..., Shaking]
    sound: Callable[..., FloatArray]
    heard: Callable[..., FloatArray]


OUR_PHYSICS = Physics(shake=shake, sound=sound_at_machine, heard=heard_in)


@dataclass(frozen=True, kw_only=True)
class Take:
    """How the test was recorded.

    begin_s, end_s : what of the test was recorded, on the machine's own clock
    audio_late_s : how much later than the acceleration the sound recording began
    audio_start_s : what was noted of that
    """

    position: str
    load: str
    begin_s: float
    end_s: float
    with_audio: bool
    with_acceleration: bool
    audio_late_s: float
    audio_start_s: float
    with_ambient: bool
    with_bounce: bool
    plate_known: bool


@dataclass(frozen=True, kw_only=True)
class SimulatedCase:
    """A case and what is true about it; `drum_rpm` is [shape=(n, 2)] as (t_s, rpm) on the recordings' clock."""

    case: Case
    washer: Washer
    room: Room
    phone: Phone
    take: Take
    rotation: Rotation
    shaking: Shaking
    drum_rpm: FloatArray

    def truth(self) -> dict[str, Any]:
        """The truth as plain data, to be laid beside the case."""
        washer, begin = self.washer, self.take.begin_s
        damage = washer.damage
        tied = [k.per_turn for k in washer.knocks if k.per_turn]
        return {
            "faults": list(washer.faults) or ["none"],
            "stage": damage.stage if damage else None,
            "strength": washer.strength,
            "power_cut_s": self.rotation.power_cut_s - begin,
            "coast_down_s": self.rotation.rest_s - self.rotation.power_cut_s,
            "critical_rpm": sorted(60.0 * hz for hz in self.shaking.natural_hz),
            "damping_ratio": list(washer.suspension.damping),
            "effective_damping_ratio": list(self.shaking.damping),
            "pulley_ratio": washer.drive.pulley_ratio,
            "belt_slip_pct": self.belt_slip_pct(),
            "impacts_per_rev": max(tied, default=0),
            "audio_late_s": self.take.audio_late_s,
            "bearing": None
            if damage is None
            else {
                "designation": damage.size.designation,
                "race": damage.race,
                "level": damage.level,
                "order": damage_order(damage),
            },
            "nuisances": self.nuisances(),
            "drum_rpm": [[round(float(t), 3), round(float(r), 3)] for t, r in self.drum_rpm],
        }

    def nuisances(self) -> list[str]:
        """Names of what made this recording harder, as far as it fell into what was recorded."""
        take, phone = self.take, self.phone
        length_s = take.end_s - take.begin_s
        late_s = take.begin_s + take.audio_late_s
        present = {
            "neighbour": self.room.neighbour is not None,
            "speech": any(a < late_s + length_s and b > late_s for a, b in self.room.talk_spans),
            "gain_control": phone.gain_control > 0,
            "clipping": phone.overdrive > 1,
            "gaps": any(a < length_s for a, _ in phone.gaps),
            "sliding": phone.slide_s is not None and phone.slide_s < length_s,
            "cropped": take.begin_s > 0 or take.end_s < self.rotation.t_s[-1],
        }
        return [name for name, is_there in present.items() if is_there]

    def belt_slip_pct(self) -> float | None:
        """Mean belt slip at full speed under power [%], None without a belt or a turning drum."""
        rotation = self.rotation
        if self.washer.drive.belt_slip == 0 or not self.washer.turns_drum:
            return None
        full = (rotation.motor_on > 0) & (rotation.drum_hz > 0.97 * rotation.drum_hz.max())
        ratio = self.washer.drive.pulley_ratio
        return float(100.0 * np.mean(1.0 - rotation.drum_hz[full] * ratio / rotation.motor_hz[full]))


def simulate_case(
    *,
    layout: str,
    faults: Sequence[str],
    seed: int,
    strength: float | None = None,
    with_audio: bool = True,
    with_acceleration: bool = True,
    known_plate: bool = True,
    rough: bool = False,
) -> SimulatedCase:
    """Simulate one spin test with the drum empty, or lopsided where the load is the trouble.

    Parameters
    ----------
    known_plate : the case names plate speed, pulley ratio and bearing sizes, as a careful technician would
    rough : rooms, phones and takes as bad as they come, drawn from the seed; they may lack a sensor or the plate

    Raises
    ------
    BadField, UnknownCode
        A layout or fault that cannot be simulated.
    """
    rng = np.random.default_rng(seed)
    kinds = tuple(f for f in faults if f != "none")
    washer = draw_washer(find_layout(layout), faults=kinds, strength=strength, rng=rng)
    return record_washer(
        washer,
        rng=rng,
        name="-".join(("sim", layout, *(kinds or ("none",)), str(seed))),
        rough=rough,
        with_audio=with_audio,
        with_acceleration=with_acceleration,
        known_plate=known_plate,
    )


def record_washer(
    washer: Washer,
    *,
    rng: np.random.Generator,
    name: str,
    rough: bool,
    with_audio: bool = True,
    with_acceleration: bool = True,
    known_plate: bool = True,
    position: str | None = None,
    same_phone: Phone | None = None,
    physics: Physics = OUR_PHYSICS,
) -> SimulatedCase:
    """Put one washer through its spin test and record it, with the phone and at the position that are given."""
    room, phone = draw_room(rough=rough, rng=rng), draw_phone(rough=rough, rng=rng)
    phone = same_phone or phone
    rotation = rotate(washer, rng=rng)
    take = _draw_take(washer, rotation, rough=rough, rng=rng)
    if position is not None:
        take = replace(take, position=position)
    audio, acceleration = with_audio and take.with_audio, with_acceleration and take.with_acceleration
    shaking = physics.shake(washer, rotation, position=take.position, rng=rng)
    recordings: list[Recording] = []
    if audio or not acceleration:
        recordings += _sound_recordings(physics, washer, rotation, shaking, room, phone, take, rng)
    if acceleration:
        recordings += _shake_recordings(washer, shaking, room, phone, take, rng)
    every = slice(int(take.begin_s * STEP_RATE_HZ), int(take.end_s * STEP_RATE_HZ), 50)
    track = np.stack([rotation.t_s[every] - take.begin_s, rotation.drum_hz[every] * 60.0], axis=1)
    machine = _plate(washer, mains_hz=room.mains_hz, known=known_plate and take.plate_known)
    return SimulatedCase(
        case=Case(id=name, machine=machine, recordings=tuple(recordings)),
        washer=washer,
        room=room,
        phone=phone,
        take=take,
        rotation=rotation,
        shaking=shaking,
        drum_rpm=track,
    )


def _draw_take(washer: Washer, rotation: Rotation, *, rough: bool, rng: np.random.Generator) -> Take:
    begin, end = 0.0, float(rotation.t_s[-1])
    if rough and rng.random() < 0.15 and end > LEAST_CROPPED_S:
        begin = float(rng.uniform(1.0, 12.0))
    if rough and rng.random() < 0.15:
        end = float(rotation.power_cut_s + rng.uniform(-4.0, 6.0))
    end = min(max(end, begin + 12.0), float(rotation.t_s[-1]))
    late = float(rng.uniform(-1.5, 1.5)) if rough else 0.0
    places = ["top_centre", "top_centre", "top_front_left", "top_rear_right", "rear_panel", "front_panel"]
    sensors = float(rng.random())
    return Take(
        position=str(rng.choice(places)) if rough else "top_centre",
        load="lopsided" if "load_problem" in washer.faults else "empty",
        begin_s=begin,
        end_s=end,
        with_audio=not (rough and sensors < 0.12),
        with_acceleration=not (rough and sensors > 0.8),
        audio_late_s=max(late, -begin),
        audio_start_s=max(late, -begin) + (float(rng.normal(0.0, 0.1)) if rough else 0.0),
        with_ambient=bool(rough and rng.random() < 0.4),
        with_bounce=bool(rough and rng.random() < 0.3),
        plate_known=not (rough and rng.random() < 0.35),
    )


def _sound_recordings(
    physics: Physics,
    washer: Washer,
    rotation: Rotation,
    shaking: Shaking,
    room: Room,
    phone: Phone,
    take: Take,
    rng: np.random.Generator,
) -> list[Recording]:
    rate = phone.audio_rate_hz
    sound = physics.sound(washer, rotation, shaking, sample_rate_hz=rate, mains_hz=room.mains_hz, rng=rng)
    heard = physics.heard(room, sound, sample_rate_hz=rate, rng=rng)
    first, last = (int((s + take.audio_late_s) * rate) for s in (take.begin_s, take.end_s))
    facts = RecordingFacts(
        name="spin.wav",
        kind="audio",
        test="spin",
        run="1",
        position=take.position,
        load=take.load,
        start_s=round(take.audio_start_s, 3),
    )
    out = [Recording(facts=facts, signal=record_audio(heard[max(first, 0) : last], phone=phone, rng=rng))]
    if take.with_ambient:
        quiet = room_alone(room, count=int(AMBIENT_S * rate), sample_rate_hz=rate, rng=rng)
        # The same phone at the same gain: scaled as the spin was.
        scale = float(np.max(np.abs(quiet)) / max(np.max(np.abs(heard)), 1e-9))
        signal = record_audio(quiet, phone=_quieter(phone, scale), rng=rng)
        out.append(Recording(facts=RecordingFacts(name="ambient.wav", kind="audio", test="ambient"), signal=signal))
    return out


def _quieter(phone: Phone, scale: float) -> Phone:
    return replace(phone, peak_fs=max(phone.peak_fs * min(scale, 1.0), 1e-4), overdrive=1.0, gain_control=0.0)


def _shake_recordings(
    washer: Washer, shaking: Shaking, room: Room, phone: Phone, take: Take, rng: np.random.Generator
) -> list[Recording]:
    window = slice(int(take.begin_s * STEP_RATE_HZ), int(take.end_s * STEP_RATE_HZ))
    neighbour = room.neighbour
    neighbour_hz = neighbour.rate_hz if neighbour else 0.0
    neighbour_m_s2 = neighbour.shake_m_s2 if neighbour else 0.0
    out = [
        Recording(
            facts=RecordingFacts(
                name="spin.csv", kind="acceleration", test="spin", run="1", position=take.position, load=take.load
            ),
            signal=record_acceleration(
                shaking.cabinet_m_s2[:, window],
                neighbour_hz=neighbour_hz,
                neighbour_m_s2=neighbour_m_s2,
                phone=phone,
                rng=rng,
            ),
        )
    ]
    if take.with_bounce:
        out.append(_bounce_recording(washer, phone, rng))
    return out


def _bounce_recording(washer: Washer, phone: Phone, rng: np.random.Generator) -> Recording:
    """The phone lies on the drum's lip while the group swings out a push."""
    suspension = washer.suspension
    _, moved = bounce(
        suspension,
        push_m=float(rng.uniform(0.01, 0.03)),
        seconds=BOUNCE_S - 1.5,
        friction_n=suspension.friction_n,
    )
    still = np.zeros(int(1.5 * STEP_RATE_HZ))
    path = np.concatenate([still, moved])
    axes = np.zeros((3, path.size))
    axes[2] = np.gradient(np.gradient(path, 1.0 / STEP_RATE_HZ), 1.0 / STEP_RATE_HZ)
    axes[2, still.size - 3 : still.size + 3] = 0.0
    signal = record_acceleration(axes, neighbour_hz=0.0, neighbour_m_s2=0.0, phone=phone, rng=rng)
    return Recording(
        facts=RecordingFacts(name="bounce.csv", kind="acceleration", test="bounce", position="bench"), signal=signal
    )


def _plate(washer: Washer, *, mains_hz: float, known: bool) -> Machine:
    layout = find_layout(washer.layout)
    if not known:
        return Machine(layout=washer.layout, mains_hz=int(mains_hz))
    front = washer.drum_is_front
    return Machine(
        layout=washer.layout,
        mains_hz=int(mains_hz),
        max_spin_rpm=washer.drive.plate_rpm,
        # Read off worn pulleys or a label: two decimals.
        pulley_ratio=round(washer.drive.pulley_ratio, 2) if layout.drive == "belt" else None,
        rear_bearing=washer.bearing_size.designation if front else None,
        front_bearing="6206" if front else None,
    )
