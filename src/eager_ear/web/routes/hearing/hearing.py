"""A hand check that the phone hears or feels by itself; nothing of it is kept."""

from __future__ import annotations

import base64
import binascii
from dataclasses import dataclass

import numpy as np
from fastapi import APIRouter

from eager_ear.core.errors import BadField
from eager_ear.core.hands.arithmetic import swings_from_damping
from eager_ear.core.hands.flick import Flick, fit_flick
from eager_ear.core.signals.drive import Pluck, pluck_pitch
from eager_ear.core.signals.dsp import even_acceleration
from eager_ear.core.signals.impacts import HandTurns, hand_turns
from eager_ear.core.signals.mechanics import BounceDecay, measure_bounce
from eager_ear.core.signals.types import AccelerationSignal, AudioSignal
from eager_ear.web.schemas.hearing.hearing import FeltIn, FlickIn, HeardIn

router = APIRouter(prefix="/api", tags=["catalogue"])
FULL_SCALE = 32768.0


@router.post("/hear/pluck")
def hear_pluck(body: HeardIn) -> Pluck:
    """The pitch of a plucked belt."""
    return pluck_pitch(_sound(body))


@router.post("/hear/hand-turn")
def hear_hand_turn(body: HeardIn) -> HandTurns:
    """How rough a drum sounds that is turned by hand, and whether something comes back once a turn."""
    return hand_turns(_sound(body))


@router.post("/feel/flick")
def feel_flick(body: FlickIn) -> Flick:
    """How fast a flicked drum slows, by a tap at each turn."""
    return fit_flick(body.taps_s)


def _sound(body: HeardIn) -> AudioSignal:
    try:
        content = base64.b64decode(body.samples, validate=True)
    except (binascii.Error, ValueError):
        raise BadField(field="samples", reason="are not base64.") from None
    if len(content) % 2:
        raise BadField(field="samples", reason="are not whole numbers of 16 bits.")
    samples = np.frombuffer(content, dtype="<i2").astype(np.float32) / FULL_SCALE
    return AudioSignal(samples=samples, sample_rate_hz=body.rate_hz)


@dataclass(frozen=True, kw_only=True)
class Felt:
    """swings : full ones until a twentieth is left, as a hand counts them"""

    swings: float
    decay: BounceDecay


@router.post("/feel/bounce")
def feel_bounce(body: FeltIn) -> Felt:
    """How a pushed tub swings out, by a phone that lies on it."""
    rows = np.array(body.rows, dtype=float)
    ordered = rows[np.argsort(rows[:, 0], kind="stable")]
    fresh = np.concatenate([[True], np.diff(ordered[:, 0]) > 0])
    signal = AccelerationSignal(t_s=ordered[fresh, 0], axes_m_s2=ordered[fresh, 1:].T)
    decay = measure_bounce(even_acceleration(signal, start_s=0.0))
    return Felt(swings=round(swings_from_damping(decay.damping_ratio), 1), decay=decay)
