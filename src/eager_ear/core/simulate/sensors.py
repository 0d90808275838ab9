"""What a phone makes of it: the room, the microphone, the accelerometer.

The room is an exponentially decaying diffuse tail (Polack's model; Kuttruff, Room Acoustics, 6th ed., ch. 4).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy import signal as sps

from eager_ear.core.signals.types import AccelerationSignal, AudioSignal
from eager_ear.core.simulate.motion import STEP_RATE_HZ, Rotation, Shaking
from eager_ear.core.simulate.sound import coloured_noise
from eager_ear.core.units import STANDARD_GRAVITY_M_S2, FloatArray


@dataclass(frozen=True, kw_only=True)
class Phone:
    """One phone in one room."""

    audio_rate_hz: float
    acceleration_rate_hz: float
    jitter_s: float
    tilt_rad: tuple[float, float]
    acceleration_noise_m_s2: float
    reverberation_s: float
    reverberant_share: float
    background: float
    low_cut_hz: float
    peak_fs: float


def draw_phone(*, rng: np.random.Generator) -> Phone:
    """A phone and room as met on house calls."""
    return Phone(
        audio_rate_hz=float(rng.choice([44100, 48000])),
        acceleration_rate_hz=float(rng.choice([100, 200, 400])),
        jitter_s=float(rng.uniform(0.0, 0.0008)),
        tilt_rad=(float(rng.normal(0, 0.05)), float(rng.normal(0, 0.05))),
        acceleration_noise_m_s2=float(rng.uniform(0.01, 0.04)),
        reverberation_s=float(rng.uniform(0.15, 0.7)),
        reverberant_share=float(rng.uniform(0.1, 0.5)),
        background=float(rng.uniform(0.003, 0.03)),
        low_cut_hz=float(rng.uniform(30, 120)),
        peak_fs=float(rng.uniform(0.15, 0.8)),
    )


def record_audio(sound: FloatArray, *, phone: Phone, rng: np.random.Generator) -> AudioSignal:
    """Room, microphone and 16-bit converter."""
    rate = phone.audio_rate_hz
    tail_s = np.arange(int(min(phone.reverberation_s, 0.35) * rate)) / rate
    tail = rng.standard_normal(tail_s.size) * np.exp(-6.9 * tail_s / phone.reverberation_s)
    tail *= phone.reverberant_share / np.sqrt(np.sum(tail**2))
    tail[0] += 1.0
    heard = sps.oaconvolve(sound, tail)[: sound.size]
    heard += phone.background * coloured_noise(sound.size, sample_rate_hz=rate, corner_hz=400.0, rng=rng)
    heard = sps.sosfilt(sps.butter(2, phone.low_cut_hz, "high", fs=rate, output="sos"), heard)
    heard *= phone.peak_fs / np.max(np.abs(heard))
    steps = np.round(heard * 32767.0)
    return AudioSignal(samples=(steps / 32768.0).astype(np.float32), sample_rate_hz=rate)


def record_acceleration(
    shaking: Shaking, rotation: Rotation, *, phone: Phone, rng: np.random.Generator
) -> AccelerationSignal:
    """Three axes with gravity, tilt, noise and jittered times."""
    rate = phone.acceleration_rate_hz
    sos = sps.butter(4, 0.42 * rate, fs=STEP_RATE_HZ, output="sos")
    smooth = sps.sosfilt(sos, shaking.cabinet_m_s2, axis=1)
    smooth[2] += STANDARD_GRAVITY_M_S2
    t_s = np.arange(0.01, rotation.t_s[-1] - 0.01, 1.0 / rate)
    t_s = t_s + np.clip(phone.jitter_s * rng.standard_normal(t_s.size), -0.3 / rate, 0.3 / rate)
    axes = np.stack([np.interp(t_s, rotation.t_s, row) for row in smooth])
    roll, pitch = phone.tilt_rad
    turn = np.array([[1.0, 0.0, roll], [0.0, 1.0, pitch], [-roll, -pitch, 1.0]])
    axes = turn @ axes + phone.acceleration_noise_m_s2 * rng.standard_normal(axes.shape)
    return AccelerationSignal(t_s=np.round(t_s, 6), axes_m_s2=np.round(axes, 5))
