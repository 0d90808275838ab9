"""What a phone makes of it: converter, automatic gain, clipping, accelerometer with its clock, tilt and slips."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy

from eager_ear.core.signals.types import AccelerationSignal, AudioSignal
from eager_ear.core.simulate.rotation import STEP_RATE_HZ
from eager_ear.core.units import STANDARD_GRAVITY_M_S2, FloatArray

HOUSE_AUDIO_RATES_HZ = (44100, 48000)
ROUGH_AUDIO_RATES_HZ = (8000, 11025, 16000, 22050, 32000, 44100, 44100, 48000, 48000, 48000)
HOUSE_ACCELERATION_RATES_HZ = (100, 200, 400)
ROUGH_ACCELERATION_RATES_HZ = (25, 50, 50, 100, 100, 100, 200, 200, 400, 400)


@dataclass(frozen=True, kw_only=True)
class Phone:
    """One phone as it was put down.

    overdrive : 1 leaves the peaks whole, 2 clips everything above half of them
    gain_control : share by which an automatic gain evens out levels (0 none, 1 fully), with its release time
    gaps : (start, length) of stretches without a sample [s]
    slide_s : when it slid and turned, None when it stayed
    """

    audio_rate_hz: float
    low_cut_hz: float
    peak_fs: float
    overdrive: float
    gain_control: float
    gain_release_s: float
    acceleration_rate_hz: float
    jitter_s: float
    tilt_rad: tuple[float, float, float]
    noise_m_s2: float
    gaps: tuple[tuple[float, float], ...]
    slide_s: float | None


def draw_phone(*, rough: bool, rng: np.random.Generator) -> Phone:
    """A phone as met on house calls; with `rough` also slow, gappy, overdriven, sliding ones."""
    acceleration_rate = float(rng.choice(ROUGH_ACCELERATION_RATES_HZ if rough else HOUSE_ACCELERATION_RATES_HZ))
    gaps: tuple[tuple[float, float], ...] = ()
    if rough and rng.random() < 0.2:
        gaps = tuple((float(rng.uniform(3, 45)), float(rng.uniform(0.1, 1.2))) for _ in range(int(rng.integers(1, 4))))
    spread = 0.2 if rough else 0.05
    return Phone(
        audio_rate_hz=float(rng.choice(ROUGH_AUDIO_RATES_HZ if rough else HOUSE_AUDIO_RATES_HZ)),
        low_cut_hz=float(rng.uniform(30, 120)),
        peak_fs=float(rng.uniform(0.05 if rough else 0.15, 0.8)),
        overdrive=float(rng.uniform(1.5, 5.0)) if rough and rng.random() < 0.12 else 1.0,
        gain_control=float(rng.uniform(0.4, 0.95)) if rough and rng.random() < 0.25 else 0.0,
        gain_release_s=float(rng.uniform(0.5, 3.0)),
        acceleration_rate_hz=acceleration_rate,
        jitter_s=float(rng.uniform(0.0, 0.2 / acceleration_rate if rough else 0.0008)),
        tilt_rad=(
            float(rng.normal(0, spread)),
            float(rng.normal(0, spread)),
            float(rng.normal(0, 2 * spread)) if rough else 0.0,
        ),
        noise_m_s2=float(rng.uniform(0.01, 0.04)),
        gaps=gaps,
        slide_s=float(rng.uniform(15, 40)) if rough and rng.random() < 0.1 else None,
    )


def record_audio(heard: FloatArray, *, phone: Phone, rng: np.random.Generator) -> AudioSignal:
    """Microphone, gain control and 16-bit converter."""
    rate = phone.audio_rate_hz
    out = scipy.signal.sosfilt(scipy.signal.butter(2, phone.low_cut_hz, "high", fs=rate, output="sos"), heard)
    if phone.gain_control > 0:
        out = _gain_controlled(out, phone)
    out = np.clip(out * (phone.overdrive * phone.peak_fs / np.max(np.abs(out))), -phone.peak_fs, phone.peak_fs)
    if phone.overdrive > 1.0:
        out = out / phone.peak_fs
    dither = rng.uniform(-0.5, 0.5, size=out.size)
    steps = np.clip(np.round(out * 32767.0 + dither), -32768, 32767)
    return AudioSignal(samples=(steps / 32768.0).astype(np.float32), sample_rate_hz=rate)


def _gain_controlled(signal: FloatArray, phone: Phone) -> FloatArray:
    """Fast attack, slow release, towards an even level; gain is limited as a phone's is."""
    block = max(1, int(0.01 * phone.audio_rate_hz))
    count = signal.size // block + 1
    padded = np.pad(signal, (0, count * block - signal.size))
    level = np.sqrt(np.square(padded).reshape(count, block).mean(axis=1)) + 1e-9
    release = 1.0 - np.exp(-0.01 / phone.gain_release_s)
    followed = np.empty(count)
    now = float(level[: max(1, count // 20)].mean())
    for i, value in enumerate(level.tolist()):
        now += (value - now) * (0.5 if value > now else release)
        followed[i] = now
    gain = np.clip((followed.max() / followed) ** phone.gain_control, 1.0, 30.0)
    return np.asarray(signal * np.interp(np.arange(signal.size), np.arange(count) * block, gain))


def record_acceleration(
    cabinet_m_s2: FloatArray,
    *,
    neighbour_hz: float,
    neighbour_m_s2: float,
    phone: Phone,
    rng: np.random.Generator,
) -> AccelerationSignal:
    """Three axes with gravity, tilt, noise and the phone's own clock; `cabinet_m_s2` is at 1 kHz."""
    rate = phone.acceleration_rate_hz
    sos = scipy.signal.butter(2, 0.42 * rate, fs=STEP_RATE_HZ, output="sos")
    # Drivers stamp a sample with the time of the motion: the filter's delay is taken out.
    smooth = scipy.signal.sosfiltfilt(sos, cabinet_m_s2, axis=1)
    clock_s = np.arange(smooth.shape[1]) / STEP_RATE_HZ
    if neighbour_m_s2 > 0:
        smooth += neighbour_m_s2 * np.array([[0.7], [0.3], [1.0]]) * np.sin(2 * np.pi * neighbour_hz * clock_s)
    smooth[2] += STANDARD_GRAVITY_M_S2
    t_s = np.arange(0.01, clock_s[-1] - 0.01, 1.0 / rate)
    t_s = t_s + np.clip(phone.jitter_s * rng.standard_normal(t_s.size), -0.3 / rate, 0.3 / rate)
    axes = np.stack([np.interp(t_s, clock_s, row) for row in smooth])
    axes = _turned(axes, phone.tilt_rad)
    if phone.slide_s is not None:
        axes = _slid(axes, t_s, at_s=phone.slide_s, rng=rng)
    axes = axes + phone.noise_m_s2 * rng.standard_normal(axes.shape)
    kept = np.ones(t_s.size, dtype=bool)
    for begin, length in phone.gaps:
        kept &= (t_s < begin) | (t_s > begin + length)
    return AccelerationSignal(t_s=np.round(t_s[kept], 6), axes_m_s2=np.round(axes[:, kept], 5))


def _turned(axes: FloatArray, angles_rad: tuple[float, float, float]) -> FloatArray:
    """Rotated by roll, pitch and yaw."""
    (cr, sr), (cp, sp), (cy, sy) = ((np.cos(a), np.sin(a)) for a in angles_rad)
    roll = np.array([[1, 0, 0], [0, cr, -sr], [0, sr, cr]])
    pitch = np.array([[cp, 0, sp], [0, 1, 0], [-sp, 0, cp]])
    yaw = np.array([[cy, -sy, 0], [sy, cy, 0], [0, 0, 1]])
    return np.asarray(yaw @ pitch @ roll @ axes)


def _slid(axes: FloatArray, t_s: FloatArray, *, at_s: float, rng: np.random.Generator) -> FloatArray:
    """After `at_s` it lies turned by up to a right angle and tilted a little, with a bump on the way."""
    after = _turned(axes, (float(rng.normal(0, 0.1)), float(rng.normal(0, 0.1)), float(rng.uniform(0.4, 1.5))))
    share = np.clip((t_s - at_s) / 0.3, 0.0, 1.0)
    bump = scipy.ndimage.gaussian_filter1d(np.where((t_s > at_s) & (t_s < at_s + 0.3), 1.0, 0.0), 2.0)
    return np.asarray((1 - share) * axes + share * after + 3.0 * bump * rng.standard_normal((3, t_s.size)))
