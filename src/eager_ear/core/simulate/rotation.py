"""How drum and motor turn: the program's commanded speed, what lies between motor and drum, and the coast-down."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import scipy

from eager_ear.core.simulate.washer import NEVER_S, Drag, Washer
from eager_ear.core.units import BoolArray, FloatArray

STEP_RATE_HZ = 1000.0
STEP_S = 1.0 / STEP_RATE_HZ
REST_AFTER_S = 1.5
CONTROLLER_LAG_S = 0.25
CLUTCH_LAG_S = 9.0
HUM_S = 6.0
LONGEST_COAST_S = 60.0


@dataclass(frozen=True, kw_only=True)
class Rotation:
    """Drum and motor on a 1 kHz clock. All arrays [shape=(n,)].

    slips_s : moments at which the drum slipped back on its drive
    humming : where the motor is energised and stands
    """

    t_s: FloatArray
    drum_hz: FloatArray
    drum_turns: FloatArray
    motor_hz: FloatArray
    motor_on: FloatArray
    humming: BoolArray
    slips_s: tuple[float, ...]
    power_cut_s: float
    rest_s: float


def rotate(washer: Washer, *, rng: np.random.Generator) -> Rotation:
    """The spin test from rest to rest."""
    drive = washer.drive
    command = _commanded_rpm(washer, rng)
    hunt = drive.hunting * np.sin(2 * np.pi * _uniform(rng, 0.3, 1.2) * np.arange(command.size) * STEP_S)
    nominal_hz = np.maximum(_lagged(command, CONTROLLER_LAG_S) * (1.0 + hunt), 0.0) / 60.0
    drum_hz, slips = _gripped(washer, nominal_hz, rng)
    coast_hz = _coast(washer.drag, from_hz=float(drum_hz[-1]), brake_rad_s2=drive.brake_rad_s2)
    cut = command.size
    drum_hz = np.concatenate([drum_hz, coast_hz, np.zeros(int(REST_AFTER_S * STEP_RATE_HZ))])
    motor_on = np.zeros(drum_hz.size)
    motor_on[int(np.argmax(command > 0)) if command.any() else 0 : cut] = 1.0
    humming = np.zeros(drum_hz.size, dtype=bool)
    if drive.hum_level > 0:
        humming[int(1.5 * STEP_RATE_HZ) : cut] = True
    return Rotation(
        t_s=np.arange(drum_hz.size) * STEP_S,
        drum_hz=drum_hz,
        drum_turns=np.cumsum(drum_hz) * STEP_S + float(rng.uniform()),
        motor_hz=_motor_hz(washer, nominal_hz, drum_hz, rng),
        motor_on=motor_on,
        humming=humming,
        slips_s=slips,
        power_cut_s=cut * STEP_S,
        rest_s=(cut + coast_hz.size) * STEP_S,
    )


def _uniform(rng: np.random.Generator, low: float, high: float) -> float:
    return float(rng.uniform(low, high))


def _lagged(values: FloatArray, lag_s: float) -> FloatArray:
    share = STEP_S / lag_s
    return np.asarray(scipy.signal.lfilter([share], [1.0, share - 1.0], values))


def _commanded_rpm(washer: Washer, rng: np.random.Generator) -> FloatArray:
    """Rest, tumble, distribute (perhaps a start broken off), a step on the way, full speed."""
    drive = washer.drive
    if drive.hum_level > 0:
        return np.zeros(int((1.5 + HUM_S) * STEP_RATE_HZ))
    legs: list[tuple[float, float]] = [
        (0.0, _uniform(rng, 1.2, 2.5)),
        (drive.tumble_rpm, _uniform(rng, 4.0, 6.0)),
    ]
    for _ in range(drive.false_starts):
        legs.append((drive.distribute_rpm * _uniform(rng, 1.4, 2.2), _uniform(rng, 0.0, 1.0)))
        legs.append((drive.tumble_rpm, _uniform(rng, 2.0, 3.0)))
    legs.append((drive.distribute_rpm, _uniform(rng, 2.0, 5.0)))
    legs.append((drive.spin_rpm * _uniform(rng, 0.4, 0.65), _uniform(rng, 0.0, 4.0)))
    legs.append((drive.spin_rpm, min(drive.plateau_s, drive.cut_out_after_s)))
    pieces: list[FloatArray] = []
    now = 0.0
    for target, hold_s in legs:
        rise_s = abs(target - now) / drive.ramp_rpm_s
        pieces.append(np.linspace(now, target, max(int(rise_s * STEP_RATE_HZ), 1)))
        pieces.append(np.full(int(hold_s * STEP_RATE_HZ), target))
        now = target
    return np.concatenate(pieces)


def _gripped(washer: Washer, nominal_hz: FloatArray, rng: np.random.Generator) -> tuple[FloatArray, tuple[float, ...]]:
    """What of the commanded speed reaches the drum."""
    grip = washer.drive.grip
    if grip == "stands":
        return np.zeros(nominal_hz.size), ()
    if grip == "creeps":
        return _lagged(nominal_hz, CLUTCH_LAG_S) * washer.drive.creep_share, ()
    if grip == "jerks":
        fast = np.flatnonzero(nominal_hz > 3.0)
        count = int(rng.integers(6, 16))
        at = np.sort(rng.choice(fast, size=count, replace=False)) if fast.size > count else fast[:1]
        loss = np.zeros(nominal_hz.size)
        loss[at] = rng.uniform(0.05, 0.2, size=at.size)
        return nominal_hz * np.exp(-_decaying(loss, 0.5)), tuple(float(i) * STEP_S for i in at)
    return nominal_hz, ()


def _decaying(kicks: FloatArray, lag_s: float) -> FloatArray:
    return np.asarray(scipy.signal.lfilter([1.0], [1.0, STEP_S / lag_s - 1.0], kicks))


def _coast(drag: Drag, *, from_hz: float, brake_rad_s2: float) -> FloatArray:
    w = 2.0 * math.pi * from_hz
    rates: list[float] = []
    while w > 0.0 and len(rates) < int(LONGEST_COAST_S * STEP_RATE_HZ):
        rates.append(w / (2.0 * math.pi))
        w -= STEP_S * (drag.coulomb + brake_rad_s2 + drag.viscous * w + drag.quadratic * w * w)
    return np.asarray(rates)


def _motor_hz(washer: Washer, nominal_hz: FloatArray, drum_hz: FloatArray, rng: np.random.Generator) -> FloatArray:
    """Under power the motor leads by the belt's slip; afterwards the drum drags it along, or it stops by itself."""
    drive = washer.drive
    slip = drive.belt_slip * float(np.clip(1.0 + 0.3 * rng.standard_normal(), 0.5, 1.5))
    if drive.cut_out_after_s < NEVER_S and drive.grip == "stands":
        return np.zeros(drum_hz.size)
    # Torque grows with acceleration, and creep of a belt with torque.
    pull = np.clip(np.gradient(nominal_hz, STEP_S) if nominal_hz.size > 1 else nominal_hz * 0, 0, 2)
    powered = nominal_hz * drive.pulley_ratio / (1.0 - np.clip(slip * (1.0 + 0.8 * pull), 0, 0.6))
    after = drum_hz[nominal_hz.size :] * drive.pulley_ratio
    if drive.freewheels or drive.grip != "drives":
        fall = np.exp(-np.arange(after.size) * STEP_S / 0.5)
        after = float(powered[-1]) * fall if powered.size else after
    return np.concatenate([powered, after])
