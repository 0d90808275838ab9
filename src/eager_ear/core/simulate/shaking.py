"""How the suspended group shakes and what reaches the cabinet.

In the drum's plane the group is a mass on two springs and dampers along principal axes, with Coulomb friction along
its velocity and a round end stop, integrated with the semi-implicit Euler rule at 1 kHz (stable for these rates;
Hairer, Lubich & Wanner, Geometric Numerical Integration, 2nd ed., section I.1). Along the drum's axis it is a linear
oscillator. The cabinet answers to what springs and dampers hold with two rocking modes and a vertical one.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import scipy

from eager_ear.core.simulate.rotation import STEP_RATE_HZ, STEP_S, Rotation
from eager_ear.core.simulate.washer import Suspension, Washer
from eager_ear.core.units import FloatArray

STOP_STIFFNESS_N_M = 3.0e5
STOP_DAMPING_NS_M = 600.0
FRICTION_SPEED_M_S = 0.005
# How much of a short foot's slap is felt where.
SLAP_SHARE = {"its corner": 1.0, "opposite": 0.7, "beside": 0.3, "nowhere": 0.6}
# Where a phone stands on the case: share of the way to the (right, rear) edge, and whether it lies at a top corner.
PLACES: dict[str, tuple[float, float, int | None]] = {
    "top_centre": (0.0, 0.0, None),
    "top_front_left": (-1.0, -1.0, 0),
    "top_front_right": (1.0, -1.0, 1),
    "top_rear_right": (1.0, 1.0, 2),
    "top_rear_left": (-1.0, 1.0, 3),
    "rear_panel": (0.0, 1.0, None),
    "front_panel": (0.0, -1.0, None),
}


@dataclass(frozen=True, kw_only=True)
class Shaking:
    """Cabinet acceleration [shape=(3, n), m/s²; x right, y rear, z up], stop hits as (time, speed), and the group.

    peak_mm : largest travel of the group in the drum's plane
    slaps : of feet that come down on the floor, as (time, speed)
    natural_hz, damping : of the group in that plane, with the friction that acts at this travel
    """

    cabinet_m_s2: FloatArray
    hits: tuple[tuple[float, float], ...]
    peak_mm: float
    natural_hz: tuple[float, ...]
    damping: tuple[float, ...]
    slaps: tuple[tuple[float, float], ...] = ()


def shake(washer: Washer, rotation: Rotation, *, position: str, rng: np.random.Generator) -> Shaking:
    """Move group and cabinet through the whole test."""
    first, second, axial = _forces(washer, rotation, rng)
    held, hits, peak_m = _march(washer.suspension, first, second)
    held_axial = _axial(washer.suspension, axial)
    if washer.drum_is_front:
        holding = np.stack([held[0], held_axial, held[1]])
    else:
        holding = np.stack([held[0], held[1], held_axial])
    suspension = washer.suspension
    return Shaking(
        cabinet_m_s2=_cabinet(washer, holding, position=position),
        hits=hits,
        peak_mm=1000.0 * peak_m,
        natural_hz=suspension.radial_hz,
        damping=tuple(
            viscous
            + friction_damping(suspension.friction_n, mass_kg=suspension.group_kg, natural_hz=hz, travel_m=peak_m)
            for viscous, hz in zip(suspension.damping, suspension.radial_hz, strict=True)
        ),
    )


def friction_damping(friction_n: float, *, mass_kg: float, natural_hz: float, travel_m: float) -> float:
    """Damping ratio that takes as much out of a swing of that travel as the friction does: 2·F/(pi·k·x).

    Equivalent viscous damping of Coulomb friction: Inman, Engineering Vibration, section 2.8.
    """
    stiffness = mass_kg * (2 * math.pi * natural_hz) ** 2
    return 2.0 * friction_n / (math.pi * stiffness * max(travel_m, 1e-4))


def _forces(washer: Washer, rotation: Rotation, rng: np.random.Generator) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Forces on the group in its plane and along its axis [shape=(n,) each, N]."""
    suspension = washer.suspension
    w = 2 * np.pi * rotation.drum_hz
    alpha = np.gradient(w, STEP_S)
    phase = 2 * np.pi * rotation.drum_turns
    if suspension.wander_rad > 0:
        # The liquid lags and creeps: its angle drifts over some ten seconds.
        drift = scipy.ndimage.gaussian_filter1d(rng.standard_normal(w.size // 200 + 64), 20.0) * 8.0
        phase = phase + suspension.wander_rad * np.interp(np.arange(w.size) / 200.0, np.arange(drift.size), drift)
    share = (w / (2 * np.pi * max(washer.drive.plate_rpm, 1.0) / 60.0)) ** 2
    settled = np.clip((rotation.drum_hz - 1.2) / 1.5, 0.0, 1.0)
    moment = suspension.unbalance_kg_m * (1.0 + suspension.arm_opening * share)
    moment = moment + suspension.shifted_unbalance_kg_m * np.maximum.accumulate(settled)
    radial = moment * w * w
    twice = suspension.second_order_gain * radial
    first = radial * np.cos(phase) + moment * alpha * np.sin(phase) + twice * np.cos(2 * phase + 0.7)
    second = radial * np.sin(phase) - moment * alpha * np.cos(phase) + twice * np.sin(2 * phase + 0.2)
    axial = suspension.axial_gain * radial * np.cos(phase + 0.5) + 0.5 * twice * np.cos(2 * phase)
    return first, second, axial


def _axial(suspension: Suspension, force: FloatArray) -> FloatArray:
    """Force that the axial spring and damper hold."""
    w = 2 * np.pi * suspension.axial_hz
    c = 2 * suspension.damping[0] * w
    b, a = scipy.signal.bilinear([c, w * w], [1.0, c, w * w], fs=STEP_RATE_HZ)
    return np.asarray(scipy.signal.lfilter(b, a, force))


def _march(
    suspension: Suspension, force_x: FloatArray, force_y: FloatArray
) -> tuple[FloatArray, tuple[tuple[float, float], ...], float]:
    """Integrate the plane motion; returns the held forces [shape=(2, n)], stop hits and the largest travel [m]."""
    cos, sin = math.cos(suspension.principal_rad), math.sin(suspension.principal_rad)
    along = (cos * force_x + sin * force_y).tolist()
    across = (-sin * force_x + cos * force_y).tolist()
    mass = suspension.group_kg
    k1, k2 = (mass * (2 * math.pi * hz) ** 2 for hz in suspension.radial_hz)
    c1, c2 = (2 * z * mass * 2 * math.pi * hz for z, hz in zip(suspension.damping, suspension.radial_hz, strict=True))
    friction, gap = suspension.friction_n, suspension.stop_gap_m
    slow2, gap2 = FRICTION_SPEED_M_S**2, gap * gap
    step = STEP_S / mass
    x = y = u = v = peak2 = 0.0
    inside = True
    out_x, out_y = [0.0] * len(along), [0.0] * len(along)
    hits: list[tuple[float, float]] = []
    sqrt = math.sqrt
    for i, (fx, fy) in enumerate(zip(along, across, strict=True)):
        rub = friction / sqrt(u * u + v * v + slow2)
        hold_x = k1 * x + (c1 + rub) * u
        hold_y = k2 * y + (c2 + rub) * v
        travel2 = x * x + y * y
        if travel2 > gap2:
            travel = sqrt(travel2)
            if inside:
                hits.append((i * STEP_S, abs(x * u + y * v) / travel))
                inside = False
            push = STOP_STIFFNESS_N_M * (travel - gap) / travel
            hold_x += push * x + STOP_DAMPING_NS_M * u
            hold_y += push * y + STOP_DAMPING_NS_M * v
        elif not inside and travel2 < 0.81 * gap2:
            inside = True
        if travel2 > peak2:
            peak2 = travel2
        u += step * (fx - hold_x)
        v += step * (fy - hold_y)
        x += STEP_S * u
        y += STEP_S * v
        out_x[i], out_y[i] = hold_x, hold_y
    p, q = np.asarray(out_x), np.asarray(out_y)
    return np.stack([cos * p - sin * q, sin * p + cos * q]), tuple(hits), sqrt(peak2)


def _cabinet(washer: Washer, holding: FloatArray, *, position: str) -> FloatArray:
    cabinet = washer.cabinet
    side = [
        _mode(holding[row], kg=cabinet.kg, rate_hz=cabinet.rocking_hz[row], damping=cabinet.rocking_damping[row])
        for row in (0, 1)
    ]
    up = _mode(holding[2], kg=cabinet.kg, rate_hz=cabinet.vertical_hz, damping=cabinet.vertical_damping)
    to_right, to_rear, corner = PLACES[position]
    up = up - cabinet.lever * (to_right * side[0] + to_rear * side[1])
    if cabinet.foot_slap > 0:
        # A short foot lifts and lands as the case rocks on its diagonal: above it, and a little elsewhere.
        rock = np.abs(side[0] + 0.6 * side[1])
        near = SLAP_SHARE["nowhere" if corner is None else _seen_from(corner, cabinet.short_foot)]
        up = up + near * cabinet.foot_slap * (rock - scipy.ndimage.uniform_filter1d(rock, int(STEP_RATE_HZ)))
        if corner == cabinet.short_foot:
            # Without its foot this corner follows the rocking alone.
            up = up + cabinet.foot_slap * (side[0] + 0.6 * side[1])
    gain = 1.0 if corner is None else cabinet.corner_gain[corner]
    return np.stack([side[0], side[1], gain * up])


def _seen_from(corner: int, short_foot: int) -> str:
    if corner == short_foot:
        return "its corner"
    return "opposite" if (corner - short_foot) % 4 == 2 else "beside"


def _mode(force: FloatArray, *, kg: float, rate_hz: float, damping: float) -> FloatArray:
    w = 2 * np.pi * rate_hz
    b, a = scipy.signal.bilinear([1.0 / kg, 0.0, 0.0], [1.0, 2 * damping * w, w * w], fs=STEP_RATE_HZ)
    return np.asarray(scipy.signal.lfilter(b, a, force))


def bounce(
    suspension: Suspension, *, push_m: float, seconds: float, friction_n: float
) -> tuple[FloatArray, FloatArray]:
    """Free decay after a push down: times [s] and displacement [m] of the group along its second principal axis."""
    mass = suspension.group_kg
    w = 2 * math.pi * suspension.radial_hz[1]
    damping = 2 * suspension.damping[1] * w
    x, v = push_m, 0.0
    out: list[float] = []
    for _ in range(int(seconds * STEP_RATE_HZ)):
        v -= STEP_S * (w * w * x + damping * v + friction_n / mass * v / math.sqrt(v * v + FRICTION_SPEED_M_S**2))
        x += STEP_S * v
        out.append(x)
    return np.arange(len(out)) * STEP_S, np.asarray(out)
