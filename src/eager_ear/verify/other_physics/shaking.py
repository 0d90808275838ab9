"""A rigid cabinet on four feet that can lift, and the group that hangs in it by supports damped mostly by friction."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import scipy

from eager_ear.core.simulate.rotation import STEP_S, Rotation
from eager_ear.core.simulate.shaking import Shaking, friction_damping
from eager_ear.core.simulate.washer import Washer
from eager_ear.core.units import FloatArray

GRAVITY = 9.81
MOST_FORCE_N = 1500.0
# Half the distances between the feet, and the heights of the group and of the top above them [m].
HALF_WIDTH, HALF_DEPTH, GROUP_HEIGHT, TOP_HEIGHT = 0.28, 0.26, 0.45, 0.85
# A foot this high above the floor slaps it when it comes down [m]; how often a sensor lies softly.
LIFT_M = 5e-5
SOFT_SHARE = 0.25
FEET = ((-1, -1), (1, -1), (1, 1), (-1, 1))
PLACES = {
    "top_centre": (0.0, 0.0, TOP_HEIGHT),
    "top_front_left": (-0.25, -0.25, TOP_HEIGHT),
    "top_front_right": (0.25, -0.25, TOP_HEIGHT),
    "top_rear_right": (0.25, 0.25, TOP_HEIGHT),
    "top_rear_left": (-0.25, 0.25, TOP_HEIGHT),
    "rear_panel": (0.0, 0.3, 0.5),
    "front_panel": (0.0, -0.3, 0.5),
}


@dataclass(frozen=True, kw_only=True)
class _Machine:
    """Masses [kg], supports' stiffness [N/m] as a matrix in (x, y, z), friction [N], and what turns off its axis."""

    group_kg: float
    case_kg: float
    stiffness: FloatArray
    viscous: float
    friction_n: float
    gap_m: float
    foot_n_m: float
    foot_damping: float
    side_n_m: float
    short_foot: int
    short_m: float
    unbalance: FloatArray
    angle: FloatArray
    nodding: float
    pulses: float


def shake(washer: Washer, rotation: Rotation, *, position: str, rng: np.random.Generator) -> Shaking:
    """Integrate group and cabinet at 1 kHz (semi-implicit Euler); see `core.simulate.shaking` for what is returned."""
    machine = _machine(washer, rotation, rng)
    force = _forces(machine, washer, rotation, rng)
    place = PLACES[position]
    path, hits, slaps, peak = _march(machine, force)
    ax, ay, az, roll, pitch = path
    x, y, h = place
    cabinet = np.stack([ax + h * pitch, ay - h * roll, az + y * roll - x * pitch])
    if rng.random() < SOFT_SHARE:
        cabinet = _on_soft_foot(cabinet, rng)
    natural_hz = _natural_hz(machine, in_plane=(0, 2) if washer.drum_is_front else (0, 1))
    viscous = machine.viscous / (2 * machine.group_kg)
    return Shaking(
        cabinet_m_s2=cabinet,
        hits=tuple(hits),
        peak_mm=1000.0 * peak,
        natural_hz=natural_hz,
        slaps=tuple(slaps),
        damping=tuple(
            viscous / (2 * math.pi * hz)
            + friction_damping(machine.friction_n, mass_kg=machine.group_kg, natural_hz=hz, travel_m=peak)
            for hz in natural_hz
        ),
    )


def _natural_hz(machine: _Machine, *, in_plane: tuple[int, int]) -> tuple[float, ...]:
    """Frequencies at which the group swings in the drum's plane, on all four feet, slowest first.

    Small swings of group (x, y, z) and cabinet (x, y, z, roll, pitch): eigenvalues of stiffness against mass, of those
    modes in which the group's two directions hold most of the moving energy.
    """
    lever = GROUP_HEIGHT
    # Stretch of the supports for every coordinate.
    stretch = np.zeros((3, 8))
    stretch[:, :3] = np.eye(3)
    stretch[:, 3:6] = -np.eye(3)
    stretch[0, 7], stretch[1, 6] = -lever, lever
    stiffness = stretch.T @ machine.stiffness @ stretch
    for sx, sy in FEET:
        squeeze = np.zeros(8)
        squeeze[5], squeeze[6], squeeze[7] = 1.0, sy * HALF_DEPTH, -sx * HALF_WIDTH
        stiffness += machine.foot_n_m * np.outer(squeeze, squeeze)
    stiffness[3, 3] += 4.0 * machine.side_n_m
    stiffness[4, 4] += 4.0 * machine.side_n_m
    mass = np.diag([machine.group_kg] * 3 + [machine.case_kg] * 3 + list(_inertia(machine)))
    squared, shapes = scipy.linalg.eigh(stiffness, mass)
    moving = np.diag(mass)[:, None] * shapes**2
    share = moving[list(in_plane)].sum(axis=0) / moving.sum(axis=0)
    return tuple(float(np.sqrt(s) / (2 * np.pi)) for s, part in zip(squared, share, strict=True) if part > 0.5)


def _inertia(machine: _Machine) -> tuple[float, float]:
    """Of the cabinet about its foot, for roll and pitch [kg·m²]."""
    return (
        machine.case_kg * (HALF_DEPTH**2 + 0.6 * TOP_HEIGHT**2) / 1.5,
        machine.case_kg * (HALF_WIDTH**2 + 0.6 * TOP_HEIGHT**2) / 1.5,
    )


def _machine(washer: Washer, rotation: Rotation, rng: np.random.Generator) -> _Machine:
    front, far = washer.drum_is_front, washer.strength
    faults = set(washer.faults)
    kg = float(rng.uniform(30, 70) if front else rng.uniform(18, 38))
    hz = float(rng.uniform(2.2, 4.6) if front else rng.uniform(1.1, 2.4))
    total = kg * (2 * math.pi * hz) ** 2
    # Four supports that lean inwards; a share of each acts sideways.
    lean = float(rng.uniform(0.25, 0.55) if front else rng.uniform(0.5, 0.7))
    weak = int(rng.integers(4))
    stiffness = np.zeros((3, 3))
    for k, (sx, sy) in enumerate(FEET):
        direction = np.array([sx * lean, sy * lean, 1.0])
        direction /= np.linalg.norm(direction)
        share = total / 4.0 * float(rng.uniform(0.95, 1.05))
        if "suspension_off" in faults and k == weak:
            share *= 0.05
        stiffness += share * (0.35 * np.eye(3) + np.outer(direction, direction))
    weight = kg * GRAVITY
    dry = weight * float(rng.uniform(0.003, 0.025) if front else rng.uniform(0.002, 0.012))
    viscous = float(rng.uniform(0.02, 0.07))
    if "suspension_worn" in faults:
        dry, viscous = dry * (0.4 - 0.35 * far), viscous * (0.9 - 0.4 * far)
    unbalance, angle, nodding = _off_axis(washer, rotation, kg, rng)
    return _Machine(
        group_kg=kg - (8.0 if "counterweight_loose" in faults else 0.0),
        case_kg=float(rng.uniform(22, 50)),
        stiffness=stiffness,
        viscous=2 * viscous * kg * 2 * math.pi * hz,
        friction_n=dry,
        gap_m=float(rng.uniform(0.018, 0.04)) * (0.45 if "suspension_off" in faults else 1.0),
        foot_n_m=float(rng.uniform(1.5e5, 6e5)),
        foot_damping=float(rng.uniform(200, 900)),
        side_n_m=float(rng.uniform(2e5, 8e5)),
        short_foot=int(rng.integers(4)),
        short_m=float(rng.uniform(0.0015, 0.007)) if "not_level" in faults else 0.0,
        unbalance=unbalance,
        angle=angle,
        nodding=nodding,
        pulses=float(rng.uniform(60, 300)) * far if "counterweight_loose" in faults else 0.0,
    )


def _off_axis(
    washer: Washer, rotation: Rotation, kg: float, rng: np.random.Generator
) -> tuple[FloatArray, FloatArray, float]:
    """Unbalance [kg·m] and its angle [rad] over time, and the share that makes the drum nod along its axis."""
    faults, far = set(washer.faults), washer.strength
    turns = 2 * np.pi * rotation.drum_turns
    share = np.clip(rotation.drum_hz * 60.0 / max(washer.drive.plate_rpm, 1.0), 0, 1.2) ** 2
    small = float(np.exp(rng.uniform(math.log(0.008), math.log(0.06))))
    unbalance, angle = np.full(turns.size, small), turns.copy()
    nodding = float(rng.uniform(0.03, 0.2))
    if "spider" in faults:
        # The drum itself, a quarter of the group, runs off its axis, further the faster it turns.
        off_m = float(rng.uniform(0.0015, 0.005)) * (0.4 + far) + float(rng.uniform(0.002, 0.007)) * far * share
        unbalance, nodding = unbalance + 0.25 * kg * off_m, float(rng.uniform(0.35, 0.9))
    if "load_problem" in faults:
        heavy = float(rng.uniform(0.1, 0.4)) * (0.5 + 0.7 * far)
        settled = 1.0 - float(rng.uniform(0.0, 0.4)) * np.clip((rotation.drum_hz - 1.5) / 2.0, 0, 1)
        unbalance = unbalance + heavy * settled
    if "balance_ring" in faults:
        # The liquid goes round a little slower than the ring: the sum beats, and its angle goes to and fro.
        slower = float(rng.uniform(0.004, 0.03))
        liquid = float(rng.uniform(0.5, 0.9)) * (0.5 + 0.5 * far) * max(small, 0.02) * float(rng.uniform(1.2, 2.5))
        both = max(small, 0.02) * np.exp(1j * turns) + liquid * np.exp(1j * turns * (1.0 - slower))
        unbalance, angle = np.abs(both), np.unwrap(np.angle(both))
    if "spindle_seat" in faults:
        loose = float(rng.uniform(0.0008, 0.003)) * (0.4 + far)
        unbalance = unbalance + 0.2 * kg * loose
        angle = angle + 0.3 * far * np.sin(0.5 * turns)
    return unbalance, angle, nodding


def _forces(machine: _Machine, washer: Washer, rotation: Rotation, rng: np.random.Generator) -> FloatArray:
    """Force on the group [shape=(3, n), N; x right, y rear, z up]."""
    w = 2 * np.pi * rotation.drum_hz
    # Beyond this the machine gives up its spin.
    radial = np.minimum(machine.unbalance * w * w, MOST_FORCE_N)
    # Shafts are a little softer one way: twice a turn.
    twice = float(rng.uniform(0.005, 0.04)) * radial
    if "spider" in washer.faults:
        twice = twice * float(rng.uniform(2.0, 7.0))
    one = radial * np.cos(machine.angle) + twice * np.cos(2 * machine.angle + 1.0)
    two = radial * np.sin(machine.angle) + twice * np.sin(2 * machine.angle + 0.4)
    along = machine.nodding * radial * np.cos(machine.angle + 0.8)
    if machine.pulses > 0:
        low, high = 1.5, 0.8 * washer.drive.spin_rpm / 60.0
        close = np.mod(rotation.drum_turns, 1.0) < 0.03
        two = two + machine.pulses * close * (rotation.drum_hz > low) * (rotation.drum_hz < high)
    return np.stack([one, along, two]) if washer.drum_is_front else np.stack([one, two, along])


def _on_soft_foot(cabinet: FloatArray, rng: np.random.Generator) -> FloatArray:
    """What a phone in its cover, or a sensor on a pad, feels: a resonance of its own, then nothing [shape=(3, n)]."""
    w, damping = 2 * math.pi * float(rng.uniform(15.0, 60.0)), float(rng.uniform(0.1, 0.35))
    b, a = scipy.signal.bilinear([2 * damping * w, w * w], [1.0, 2 * damping * w, w * w], fs=1.0 / STEP_S)
    return np.asarray(scipy.signal.lfilter(b, a, cabinet, axis=1))


def _march(
    machine: _Machine, force: FloatArray
) -> tuple[FloatArray, list[tuple[float, float]], list[tuple[float, float]], float]:
    """Accelerations of the cabinet [shape=(5, n); x, y, z in m/s², roll, pitch in rad/s²], stop hits, travel [m].

    Hits of the stops, and slaps of feet that come down again, as (time, speed).
    """
    (kxx, kxy, kxz), (_, kyy, kyz), (_, _, kzz) = machine.stiffness.tolist()
    group, case, viscous, dry, gap = (
        machine.group_kg,
        machine.case_kg,
        machine.viscous,
        machine.friction_n,
        machine.gap_m,
    )
    foot, damp, side = machine.foot_n_m, machine.foot_damping, machine.side_n_m
    side_damp = 0.25 * 2.0 * math.sqrt(4.0 * side * (case + group))
    bears = (case + group) * GRAVITY / 4.0 / foot
    feet = [
        (sx * HALF_WIDTH, sy * HALF_DEPTH, -(machine.short_m if k == machine.short_foot else 0.0))
        for k, (sx, sy) in enumerate(FEET)
    ]
    inertia_roll, inertia_pitch = _inertia(machine)
    gx = gy = gz = gu = gv = gw = 0.0
    cx = cy = cz = cr = cp = cu = cv = cw = dr = dp = 0.0
    peak, inside, hits = 0.0, True, []
    slaps: list[tuple[float, float]] = []
    lifted = [False] * 4
    fx_all, fy_all, fz_all = (row.tolist() for row in force)
    out = np.zeros((5, len(fx_all)))
    rows = [[0.0] * len(fx_all) for _ in range(5)]
    r0, r1, r2, r3, r4 = rows
    sqrt, lever = math.sqrt, GROUP_HEIGHT
    for i, fx in enumerate(fx_all):
        # Where the group hangs the cabinet moves with its tilt.
        x, y, z = gx - cx - lever * cp, gy - cy + lever * cr, gz - cz
        u, v, w = gu - cu - lever * dp, gv - cv + lever * dr, gw - cw
        rub = dry / sqrt(u * u + v * v + w * w + 1.6e-5) + viscous
        hx = kxx * x + kxy * y + kxz * z + rub * u
        hy = kxy * x + kyy * y + kyz * z + rub * v
        hz = kxz * x + kyz * y + kzz * z + rub * w
        travel = sqrt(x * x + y * y + z * z)
        if travel > peak:
            peak = travel
        if travel > gap:
            if inside:
                hits.append((i * STEP_S, abs(x * u + y * v + z * w) / travel))
                inside = False
            push = 2.0e5 * (travel - gap) / travel
            hx, hy, hz = hx + push * x + 300.0 * u, hy + push * y + 300.0 * v, hz + push * z + 300.0 * w
        elif travel < 0.85 * gap:
            inside = True
        gu += STEP_S / group * (fx - hx)
        gv += STEP_S / group * (fy_all[i] - hy)
        gw += STEP_S / group * (fz_all[i] - hz)
        lift = turn_r = turn_p = 0.0
        for k, (px, py, short) in enumerate(feet):
            squeeze = bears + short - (cz + py * cr - px * cp)
            if squeeze <= -LIFT_M:
                lifted[k] = True
            if squeeze > 0:
                if lifted[k]:
                    lifted[k] = False
                    slaps.append((i * STEP_S, -(cw + py * dr - px * dp)))
                press = foot * squeeze - damp * (cw + py * dr - px * dp)
                if press > 0:
                    lift += press
                    turn_r += py * press
                    turn_p -= px * press
        sx, sy = 4.0 * side * cx + side_damp * cu, 4.0 * side * cy + side_damp * cv
        ax = (hx - sx) / case
        ay = (hy - sy) / case
        az = (lift + hz - (case + group) * GRAVITY) / case
        ar = (turn_r - lever * hy) / inertia_roll
        ap = (turn_p + lever * hx) / inertia_pitch
        cu, cv, cw, dr, dp = (
            cu + STEP_S * ax,
            cv + STEP_S * ay,
            cw + STEP_S * az,
            dr + STEP_S * ar,
            dp + STEP_S * ap,
        )
        cx, cy, cz, cr, cp = cx + STEP_S * cu, cy + STEP_S * cv, cz + STEP_S * cw, cr + STEP_S * dr, cp + STEP_S * dp
        gx, gy, gz = gx + STEP_S * gu, gy + STEP_S * gv, gz + STEP_S * gw
        r0[i], r1[i], r2[i], r3[i], r4[i] = ax, ay, az, ar, ap
    out[:] = rows
    # Before it has sunk onto its feet nothing was recorded.
    out[:, :600] = 0.0
    return out, hits, [(t, v) for t, v in slaps if v > 0 and t > 0.6], peak
