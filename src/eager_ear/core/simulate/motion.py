"""How the drum turns and how the suspended group shakes.

Rotation follows a commanded profile, then coasts with Coulomb, viscous and quadratic drag. The group is a rigid
mass on springs, viscous dampers and rod friction, integrated with the semi-implicit Euler rule at 1 kHz
(stable for these rates; Hairer, Lubich & Wanner, Geometric Numerical Integration, 2nd ed., section I.1), with
end stops. The cabinet answers to the force through its feet as one mode a direction.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy import signal as sps

from eager_ear.core.simulate.washer import Washer
from eager_ear.core.units import FloatArray

STEP_RATE_HZ = 1000.0
STOP_STIFFNESS_N_M = 8.0e4
FRICTION_SPEED_M_S = 0.005


@dataclass(frozen=True, kw_only=True)
class Rotation:
    """Drum and motor on a 1 kHz clock. All arrays [shape=(n,)]."""

    t_s: FloatArray
    drum_hz: FloatArray
    drum_turns: FloatArray
    motor_hz: FloatArray
    motor_on: FloatArray
    power_cut_s: float


@dataclass(frozen=True, kw_only=True)
class Shaking:
    """Cabinet acceleration [shape=(3, n), m/s²] and the end-stop hits as (time, strength)."""

    cabinet_m_s2: FloatArray
    hits: tuple[tuple[float, float], ...]


def rotate(washer: Washer, *, rng: np.random.Generator) -> Rotation:
    """The spin test from rest to rest."""
    dt = 1.0 / STEP_RATE_HZ
    command = _commanded_rpm(washer, rng)
    cut_index = command.size
    lag = 0.25
    smooth = sps.lfilter([dt / lag], [1.0, dt / lag - 1.0], command)
    hunt = washer.hunting * np.sin(2 * np.pi * float(rng.uniform(0.3, 1.2)) * np.arange(cut_index) * dt)
    driven_hz = np.maximum(smooth * (1.0 + hunt), 0.0) / 60.0
    coast_hz = _coast(washer, float(driven_hz[-1]))
    rest = np.zeros(int(1.5 * STEP_RATE_HZ))
    nominal_hz = np.concatenate([driven_hz, coast_hz, rest])
    motor_on = np.zeros(nominal_hz.size)
    start = int(np.argmax(command > 0))
    motor_on[start:cut_index] = 1.0
    drum_hz = nominal_hz if washer.drum_driven else np.zeros(nominal_hz.size)
    slip = washer.belt_slip * np.clip(1.0 + 0.3 * rng.standard_normal(), 0.5, 1.5)
    loaded_slip = slip * (1.0 + 0.8 * np.clip(np.gradient(nominal_hz, dt), 0, 2))
    motor_hz = np.where(motor_on > 0, nominal_hz * washer.pulley_ratio / (1.0 - np.clip(loaded_slip, 0, 0.6)), 0.0)
    return Rotation(
        t_s=np.arange(nominal_hz.size) * dt,
        drum_hz=drum_hz,
        drum_turns=np.cumsum(drum_hz) * dt + float(rng.uniform()),
        motor_hz=motor_hz,
        motor_on=motor_on,
        power_cut_s=cut_index * dt,
    )


def _commanded_rpm(washer: Washer, rng: np.random.Generator) -> FloatArray:
    first_step = washer.spin_rpm * float(rng.uniform(0.4, 0.65))
    dwell = float(rng.uniform(0.0, 4.0))
    legs: list[tuple[float, float]] = [
        (0.0, float(rng.uniform(1.2, 2.5))),
        (washer.tumble_rpm, float(rng.uniform(4.0, 6.0))),
        (washer.distribute_rpm, float(rng.uniform(3.0, 5.0))),
        (first_step, dwell),
        (washer.spin_rpm, washer.plateau_s),
    ]
    pieces: list[FloatArray] = []
    now = 0.0
    for target, hold_s in legs:
        rise_s = abs(target - now) / washer.ramp_rpm_s
        pieces.append(np.linspace(now, target, max(int(rise_s * STEP_RATE_HZ), 1)))
        pieces.append(np.full(int(hold_s * STEP_RATE_HZ), target))
        now = target
    return np.concatenate(pieces)


def _coast(washer: Washer, start_hz: float) -> FloatArray:
    dt = 1.0 / STEP_RATE_HZ
    w = 2.0 * math.pi * start_hz
    rates: list[float] = []
    while w > 0.0 and len(rates) < int(60 * STEP_RATE_HZ):
        rates.append(w / (2.0 * math.pi))
        w -= dt * (washer.drag_coulomb + washer.drag_viscous * w + washer.drag_quadratic * w * w)
    return np.asarray(rates)


def shake(washer: Washer, rotation: Rotation) -> Shaking:
    """Move the suspended group and the cabinet."""
    forces, hits = _integrate(washer, rotation)
    gains = (1.0, 1.0, 0.6)
    rates = (washer.cabinet_hz, washer.cabinet_hz * 1.3, washer.cabinet_hz * 2.1)
    cabinet = np.empty((3, rotation.t_s.size))
    for row in range(3):
        cabinet[row] = gains[row] * _through_feet(
            forces[row], mass_kg=washer.cabinet_kg, rate_hz=rates[row], washer=washer
        )
    if washer.foot_slap > 0:
        phase = 2 * np.pi * rotation.drum_turns
        slap = washer.foot_slap * (rotation.drum_hz / 8.0) ** 2
        cabinet[2] += slap * (np.maximum(np.sin(phase), 0.0) ** 4 - 0.3 + 0.4 * np.cos(2 * phase))
    return Shaking(cabinet_m_s2=cabinet, hits=hits)


def _through_feet(force: FloatArray, *, mass_kg: float, rate_hz: float, washer: Washer) -> FloatArray:
    w = 2 * np.pi * rate_hz
    b, a = sps.bilinear([1.0 / mass_kg, 0.0, 0.0], [1.0, 2 * washer.cabinet_damping * w, w * w], fs=STEP_RATE_HZ)
    return np.asarray(sps.lfilter(b, a, force))


def _drive_forces(washer: Washer, rotation: Rotation) -> FloatArray:
    """Forces on the group [shape=(3, n), N]: lateral, axial, vertical."""
    w = 2 * np.pi * rotation.drum_hz
    alpha = np.gradient(w, 1.0 / STEP_RATE_HZ)
    phase = 2 * np.pi * rotation.drum_turns
    share = (w / (2 * np.pi * washer.spin_rpm / 60.0)) ** 2
    moment = washer.unbalance_kg_m * (1.0 + washer.arm_opening * share)
    radial = moment * w * w
    second = washer.second_order_gain * radial
    x = radial * np.cos(phase) + moment * alpha * np.sin(phase) + second * np.cos(2 * phase + 0.7)
    z = radial * np.sin(phase) - moment * alpha * np.cos(phase) + second * np.sin(2 * phase + 0.2)
    y = washer.axial_gain * radial * np.cos(phase + 0.5) + 0.5 * second * np.cos(2 * phase)
    return np.stack([x, y, z])


def _integrate(washer: Washer, rotation: Rotation) -> tuple[FloatArray, tuple[tuple[float, float], ...]]:
    """March the three directions; returns the forces on the cabinet and the end-stop hits."""
    drive = _drive_forces(washer, rotation)
    rates = (washer.lateral_hz, washer.axial_hz, washer.vertical_hz)
    transmitted = np.empty_like(drive)
    hits: list[tuple[float, float]] = []
    for row, rate_hz in enumerate(rates):
        friction = washer.rod_friction_n if row != 1 else 0.3 * washer.rod_friction_n
        transmitted[row] = _march(
            drive[row].tolist(),
            mass=washer.group_kg,
            stiffness=washer.group_kg * (2 * math.pi * rate_hz) ** 2,
            damping=2 * washer.damping_ratio * washer.group_kg * 2 * math.pi * rate_hz,
            friction=friction,
            gap=washer.stop_gap_m,
            hits=hits,
        )
    return transmitted, tuple(sorted(hits))


def _march(
    drive: list[float],
    *,
    mass: float,
    stiffness: float,
    damping: float,
    friction: float,
    gap: float,
    hits: list[tuple[float, float]],
) -> FloatArray:
    dt = 1.0 / STEP_RATE_HZ
    x = v = 0.0
    inside = True
    out = [0.0] * len(drive)
    tanh = math.tanh
    for i, force in enumerate(drive):
        holding = stiffness * x + damping * v + friction * tanh(v / FRICTION_SPEED_M_S)
        if x > gap:
            holding += STOP_STIFFNESS_N_M * (x - gap) + 60.0 * v
        elif x < -gap:
            holding += STOP_STIFFNESS_N_M * (x + gap) + 60.0 * v
        v += dt * (force - holding) / mass
        x += dt * v
        out[i] = holding
        if inside and abs(x) > gap:
            hits.append((i * dt, abs(v)))
            inside = False
        elif abs(x) < 0.9 * gap:
            inside = True
    return np.asarray(out)
