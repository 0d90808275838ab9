"""The room and who else is heard in it: reverberation, background, a neighbour's machine, talk, mains hum.

The tail is an exponentially decaying diffuse field (Polack's model; Kuttruff, Room Acoustics, 6th ed., chapter 4).
Talk is a glottal pulse train through three formants with syllables a few times a second (Fant, Acoustic Theory of
Speech Production, chapter 1): enough of speech's statistics, no words.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy

from eager_ear.core.simulate.air import coloured_noise
from eager_ear.core.units import FloatArray

LONGEST_TAIL_S = 0.35


@dataclass(frozen=True, kw_only=True)
class Neighbour:
    """Another machine that runs at constant speed: its rate, loudness, and how far it shakes the floor [m/s²]."""

    rate_hz: float
    level: float
    shake_m_s2: float


@dataclass(frozen=True, kw_only=True)
class Room:
    """One room. Levels are relative to the machine's broadband noise at full spin."""

    reverberation_s: float
    reverberant_share: float
    background: float
    mains_hz: float
    mains_hum: float
    neighbour: Neighbour | None
    talk_level: float
    talk_spans: tuple[tuple[float, float], ...]


def draw_room(*, rough: bool, rng: np.random.Generator) -> Room:
    """A quiet room, or with `rough` one as bad as they come."""
    neighbour = None
    spans: tuple[tuple[float, float], ...] = ()
    if rough and rng.random() < 0.25:
        neighbour = Neighbour(
            rate_hz=float(rng.uniform(6.0, 25.0)),
            level=float(rng.uniform(0.03, 0.25)),
            shake_m_s2=float(rng.uniform(0.01, 0.1)),
        )
    if rough and rng.random() < 0.2:
        starts = np.sort(rng.uniform(2.0, 45.0, size=int(rng.integers(1, 5))))
        spans = tuple((float(a), float(a + rng.uniform(1.0, 3.5))) for a in starts)
    return Room(
        reverberation_s=float(rng.uniform(0.15, 1.1 if rough else 0.7)),
        reverberant_share=float(rng.uniform(0.1, 0.8 if rough else 0.5)),
        background=float(rng.uniform(0.003, 0.1 if rough else 0.03)),
        mains_hz=float(rng.choice([50, 60])) if rough else 50.0,
        mains_hum=float(rng.uniform(0.0, 0.02)) if rough else 0.0,
        neighbour=neighbour,
        talk_level=float(rng.uniform(0.1, 0.8)),
        talk_spans=spans,
    )


def heard_in(room: Room, sound: FloatArray, *, sample_rate_hz: float, rng: np.random.Generator) -> FloatArray:
    """The machine's sound with its reverberation, and all else that sounds in the room [shape like `sound`]."""
    tail_s = np.arange(int(min(room.reverberation_s, LONGEST_TAIL_S) * sample_rate_hz)) / sample_rate_hz
    tail = rng.standard_normal(tail_s.size) * np.exp(-6.9 * tail_s / room.reverberation_s)
    tail *= room.reverberant_share / np.sqrt(np.sum(tail**2))
    tail[0] += 1.0
    heard = scipy.signal.oaconvolve(sound, tail)[: sound.size]
    return np.asarray(heard + room_alone(room, count=sound.size, sample_rate_hz=sample_rate_hz, rng=rng))


def room_alone(room: Room, *, count: int, sample_rate_hz: float, rng: np.random.Generator) -> FloatArray:
    """What is heard with the machine off [shape=(count,)]."""
    out = room.background * coloured_noise(count, sample_rate_hz=sample_rate_hz, corner_hz=400.0, rng=rng)
    t_s = np.arange(count) / sample_rate_hz
    if room.mains_hum > 0:
        phase = 2 * np.pi * 2 * room.mains_hz * t_s
        out += room.mains_hum * (np.sin(phase) + 0.5 * np.sin(2 * phase))
    if room.neighbour is not None:
        out += _neighbour_sound(room.neighbour, t_s, sample_rate_hz, rng)
    for begin, end in room.talk_spans:
        first, last = int(begin * sample_rate_hz), min(int(end * sample_rate_hz), count)
        if last - first > 0.2 * sample_rate_hz:
            out[first:last] += room.talk_level * _talk(last - first, sample_rate_hz, rng)
    return out


def _neighbour_sound(
    neighbour: Neighbour, t_s: FloatArray, sample_rate_hz: float, rng: np.random.Generator
) -> FloatArray:
    phase = 2 * np.pi * neighbour.rate_hz * t_s
    tones = sum(float(rng.uniform(0.2, 1.0)) * np.sin(k * phase + k) for k in (1, 2, 3, 8, 24))
    noise = coloured_noise(t_s.size, sample_rate_hz=sample_rate_hz, corner_hz=600.0, rng=rng)
    return np.asarray(neighbour.level * (0.5 * tones + noise * (1.0 + 0.1 * np.sin(phase))))


def _talk(count: int, sample_rate_hz: float, rng: np.random.Generator) -> FloatArray:
    t_s = np.arange(count) / sample_rate_hz
    wander = scipy.ndimage.gaussian_filter1d(rng.standard_normal(max(count // 2000, 8)), 3.0) * 2.0
    pitch_hz = float(rng.uniform(90, 230)) * (1.0 + 0.08 * np.interp(t_s, np.linspace(0, t_s[-1], wander.size), wander))
    pulses = np.diff(np.floor(np.cumsum(pitch_hz) / sample_rate_hz), prepend=0.0)
    voice = pulses + 0.02 * rng.standard_normal(count)
    for centre in (float(rng.uniform(300, 800)), float(rng.uniform(900, 2000)), float(rng.uniform(2200, 3000))):
        b, a = scipy.signal.iirpeak(min(centre, 0.4 * sample_rate_hz), 8.0, fs=sample_rate_hz)
        voice = 0.5 * voice + scipy.signal.lfilter(b, a, voice)
    syllables = np.maximum(np.sin(2 * np.pi * float(rng.uniform(1.5, 3.0)) * t_s + float(rng.uniform(0, 6))), 0.0)
    out = voice * syllables
    return np.asarray(out / max(float(np.std(out)), 1e-9))
