"""A spin test made of textbook formulas alone: no simulator of ours had a hand in it.

A mass on one spring and one damper in each direction under a rotating unbalance, solved by a filter; noise that grows
with the speed, lines of a motor behind a belt, and blows that ring down. It is plainer than any washer, and for that
reason tells where a measurement has learnt our simulators' habits.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy

from eager_ear.core.case import Case, Recording, RecordingFacts
from eager_ear.core.machine import Machine
from eager_ear.core.signals.types import AccelerationSignal, AudioSignal
from eager_ear.core.units import FloatArray

STEP_HZ, SOUND_HZ, FELT_HZ = 2000.0, 44_100.0, 200.0
MAINS_HZ = 50
# Balls, their diameter and the pitch circle [mm] of a 6206, which is the bearing next to the drum.
BALLS, BALL_MM, PITCH_MM = 9, 9.525, 46.0


@dataclass(frozen=True, kw_only=True)
class Textbook:
    """A case and its truth: the drum's rate [shape=(n,), Hz] at times [shape=(n,), s]."""

    case: Case
    t_s: FloatArray
    rate_hz: FloatArray
    critical_rpm: float
    damping: float


def textbook_spin(seed: int, *, worn: bool = False, blows_a_turn: float = 0.0, ringing_hz: float = 4000.0) -> Textbook:
    """A front loader with a belt, phone on top, drum empty.

    Parameters
    ----------
    worn : dampers that take two to five percent instead of twelve to twenty-two
    blows_a_turn : of a loose part, or of a bearing's race; ringing_hz : what each rings at
    """
    rng = np.random.default_rng(seed)
    top_rpm = float(rng.uniform(900, 1500))
    t_s, rate_hz, cut_s = _speeds(rng, top_rpm)
    critical_hz = float(rng.uniform(2.5, 4.5))
    damping = float(rng.uniform(0.02, 0.045) if worn else rng.uniform(0.12, 0.22))
    ratio = float(rng.uniform(9, 13))
    felt = _felt(rng, t_s, rate_hz, critical_hz=critical_hz, damping=damping)
    heard = _heard(rng, t_s, rate_hz, ratio=ratio, cut_s=cut_s, blows_a_turn=blows_a_turn, ringing_hz=ringing_hz)
    shared = {"test": "spin", "run": "1", "position": "top_centre", "load": "empty"}
    recordings = (
        Recording(facts=RecordingFacts(name="spin.wav", kind="audio", **shared), signal=heard),
        Recording(facts=RecordingFacts(name="spin.csv", kind="acceleration", **shared), signal=felt),
    )
    machine = Machine(
        layout="front_belt",
        mains_hz=MAINS_HZ,
        max_spin_rpm=round(top_rpm, -2),
        pulley_ratio=round(ratio, 2),
        front_bearing="6206",
        rear_bearing="6205",
    )
    case = Case(id=f"textbook-{seed}", machine=machine, recordings=recordings)
    return Textbook(case=case, t_s=t_s, rate_hz=rate_hz, critical_rpm=60.0 * critical_hz, damping=damping)


def outer_race_order() -> float:
    """Passes of a ball over one place of the outer race in a turn: half of all balls, less what rolls."""
    return BALLS / 2 * (1 - BALL_MM / PITCH_MM)


def _speeds(rng: np.random.Generator, top_rpm: float) -> tuple[FloatArray, FloatArray, float]:
    """Rest, tumble, distribution, a ramp with a pause, full speed, and a coast-down by friction and drag."""
    rise = float(rng.uniform(20, 60))
    at, rpm = [0.0, 3.0, 4.0, 14.0, 16.0, 22.0], [0.0, 0.0, 45.0, 45.0, 90.0, 90.0]
    for lasts_s, to in (
        ((500 - 90) / rise, 500.0),
        (float(rng.uniform(2, 6)), 500.0),
        ((top_rpm - 500) / rise, top_rpm),
        (float(rng.uniform(8, 15)), top_rpm),
    ):
        at.append(at[-1] + lasts_s)
        rpm.append(to)
    cut_s, coast_s = at[-1], float(rng.uniform(12, 25))
    t_s = np.arange(int((cut_s + coast_s + 4) * STEP_HZ)) / STEP_HZ
    coast = 1.16 * top_rpm * np.exp(-(t_s - cut_s) / (coast_s / 2)) - 0.16 * top_rpm
    turning = np.where(t_s < cut_s, np.interp(t_s, at, rpm), np.maximum(coast, 0.0)) / 60.0
    corners = np.ones(400) / 400
    return t_s, np.maximum(scipy.signal.filtfilt(corners, [1.0], turning), 0.0), cut_s


def _felt(
    rng: np.random.Generator, t_s: FloatArray, rate_hz: FloatArray, *, critical_hz: float, damping: float
) -> AccelerationSignal:
    """What the cabinet takes over of the group's own acceleration, jittered and noisy."""
    turn = 2 * np.pi * np.cumsum(rate_hz) / STEP_HZ
    w = 2 * np.pi * critical_hz
    filtered = scipy.signal.bilinear([-1.0, 0.0, 0.0], [1.0, 2 * damping * w, w**2], STEP_HZ)
    share = float(rng.uniform(0.02, 0.06)) * float(rng.uniform(0.4, 1.2)) * 1e-3
    moves = [scipy.signal.lfilter(*filtered, share * wave(turn)) for wave in (np.cos, np.sin)]
    across, up = (np.gradient(np.gradient(move, 1.0 / STEP_HZ), 1.0 / STEP_HZ) for move in moves)
    even = np.linspace(0.0, t_s[-1], int(t_s[-1] * FELT_HZ))
    stamps = np.sort(even + rng.normal(0.0, 0.05 / FELT_HZ, even.size))
    axes = np.stack([np.interp(stamps, t_s, axis) for axis in (across, 0.15 * np.roll(across, 30), 0.8 * up)])
    axes += rng.normal(0.0, 0.02, axes.shape) + np.array([[0.0], [0.0], [9.81]])
    return AccelerationSignal(t_s=stamps, axes_m_s2=axes)


def _heard(
    rng: np.random.Generator,
    t_s: FloatArray,
    rate_hz: FloatArray,
    *,
    ratio: float,
    cut_s: float,
    blows_a_turn: float,
    ringing_hz: float,
) -> AudioSignal:
    """Noise of the drum, four lines of the motor while it is on, blows, and a room."""
    at_s = np.arange(int(t_s[-1] * SOUND_HZ)) / SOUND_HZ
    turns = np.cumsum(rate_hz) / STEP_HZ
    speed, angle = np.interp(at_s, t_s, rate_hz / rate_hz.max()), np.interp(at_s, t_s, turns)
    white = rng.standard_normal((2, at_s.size))
    band = scipy.signal.butter(2, [200, 4000], "band", fs=SOUND_HZ, output="sos")
    sound = 0.15 * speed**1.5 * scipy.signal.sosfilt(band, white[0])
    driven = (at_s > 3.0) & (at_s < cut_s) & (speed > 0)
    for k in range(1, 5):
        sound += 0.05 / k * driven * np.sqrt(speed) * np.sin(2 * np.pi * 2 * k * ratio * angle + k)
    if blows_a_turn > 0:
        when = np.interp(np.arange(1, int(turns[-1] * blows_a_turn)) / blows_a_turn, turns, t_s)
        blows = np.zeros(at_s.size)
        index = np.minimum((when * SOUND_HZ).astype(int), at_s.size - 1)
        blows[index] = np.sqrt(np.interp(when, t_s, rate_hz / rate_hz.max())) * rng.lognormal(0.0, 0.2, when.size)
        tail_s = np.arange(int(0.012 * SOUND_HZ)) / SOUND_HZ
        ring = np.exp(-tail_s / 0.002) * np.sin(2 * np.pi * ringing_hz * tail_s)
        sound += 0.8 * scipy.signal.oaconvolve(blows, ring)[: at_s.size]
    room = scipy.signal.butter(1, 800, fs=SOUND_HZ, output="sos")
    sound += float(rng.uniform(0.003, 0.02)) * scipy.signal.sosfilt(room, white[1])
    loudest = float(np.max(np.abs(sound)))
    return AudioSignal(samples=(0.6 / loudest * sound).astype(np.float32), sample_rate_hz=SOUND_HZ)
