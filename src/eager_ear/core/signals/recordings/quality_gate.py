"""What a recording can carry, before any claim is made on it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from eager_ear.core.signals.types import AccelerationSignal, AudioSignal
from eager_ear.core.units import FloatArray

# Two equal samples at full scale do not happen in an unclipped 16-bit recording of noise; ten in a million do no harm.
CLIPPED_SHARE = 1e-5
# With so many the peaks of most turns are cut: impacts, roughness and envelope lines are no longer the machine's.
REJECTED_SHARE = 5e-3
# Below this RMS a 16-bit converter's own steps are within 20 dB of the sound.
QUIET_DBFS = -72.0
SHORTEST_SPIN_S = 8.0
LOW_AUDIO_RATE_HZ = 16000.0
LOW_ACCELERATION_RATE_HZ = 45.0


@dataclass(frozen=True, kw_only=True)
class Warning:
    """Something that the technician should know; `recording` is a file name or None for the whole case.

    rejects : what this recording shows is weighed, and opens no machine
    """

    code: str
    message: str
    recording: str | None = None
    rejects: bool = False


def judge_audio(audio: AudioSignal, *, name: str, is_spin: bool) -> tuple[Warning, ...]:
    """Clipping, level, length and rate of a sound recording."""
    out: list[Warning] = []
    share = clipped_share(audio.samples)
    if share > CLIPPED_SHARE:
        out.append(
            Warning(
                code="clipped",
                recording=name,
                rejects=share > REJECTED_SHARE,
                message=f"{100 * share:.2g} % of the samples are clipped: peaks are cut off. Move the phone away and "
                "record again.",
            )
        )
    level = 10.0 * np.log10(float(np.dot(audio.samples, audio.samples)) / audio.samples.size + 1e-20)
    if level < QUIET_DBFS:
        out.append(
            Warning(
                code="too_quiet",
                recording=name,
                rejects=True,
                message=f"The sound is at {level:.0f} dB of full scale, near the converter's own steps.",
            )
        )
    if is_spin and audio.duration_s < SHORTEST_SPIN_S:
        out.append(_too_short(name, audio.duration_s))
    if audio.sample_rate_hz < LOW_AUDIO_RATE_HZ:
        out.append(
            Warning(
                code="rate_too_low",
                recording=name,
                message=f"At {audio.sample_rate_hz / 1000:g} kHz nothing above {audio.sample_rate_hz / 2000:.2g} kHz "
                "is heard: ticks and early bearing damage may be missed.",
            )
        )
    return tuple(out)


def judge_acceleration(
    signal: AccelerationSignal, *, name: str, is_spin: bool, gaps: int, highest_hz: float
) -> tuple[Warning, ...]:
    """Gaps, length and rate of a vibration recording; `highest_hz` is the drum's top rate."""
    out: list[Warning] = []
    if gaps:
        out.append(
            Warning(code="gaps_in_data", recording=name, message=f"{gaps} gaps in the acceleration were bridged.")
        )
    if is_spin and signal.duration_s < SHORTEST_SPIN_S:
        out.append(_too_short(name, signal.duration_s))
    if signal.sample_rate_hz < max(LOW_ACCELERATION_RATE_HZ, 2.2 * highest_hz):
        out.append(
            Warning(
                code="rate_too_low",
                recording=name,
                message=f"At {signal.sample_rate_hz:.0f} Hz the once-per-turn motion is seen only up to "
                f"{27 * signal.sample_rate_hz:.0f} rpm.",
            )
        )
    return tuple(out)


def clipped_share(samples: FloatArray) -> float:
    """Share of samples that sit with an equal neighbour at the recording's largest magnitude, when that is near 1."""
    top = max(float(samples.max()), -float(samples.min()))
    if top < 0.5:
        return 0.0
    limit = np.float32(top * (1.0 - 1e-4))
    at_top = (samples >= limit) | (samples <= -limit)
    return float(np.mean(at_top[1:] & at_top[:-1]))


def _too_short(name: str, seconds: float) -> Warning:
    return Warning(
        code="too_short",
        recording=name,
        rejects=True,
        message=f"{seconds:.1f} s is too short for a spin test: record from rest to rest, about a minute.",
    )
