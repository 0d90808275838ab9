"""Tones that shake the sensor from beginning to end: a machine beside this one, found without knowing any speed.

A drum that is recorded through its test is nowhere long. What keeps to a quarter of a hertz through every quarter of
a recording in which all else changes is not it, and is taken out before anything else is read.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import scipy

from eager_ear.core.signals.dsp import (
    EvenAcceleration,
    block_means,
    median_along,
    short_time_power,
    slowed,
    tone_carrier,
)
from eager_ear.core.units import FloatArray

# Drums and motors that shake a floor turn below 60 Hz.
READ_RATE_HZ = 120.0
# Tells speeds half a hertz apart.
FRAME_S = 4.0
# Overlapping by three quarters, as a Hann window wants.
HOP_S = 1.0
# A tone has to stand through as many to be no passage of our own drum.
FEWEST_FRAMES = 12
# A tone against what stands beside it, its skirts left out; noise in one axis shows six times its mean in one frame of
# a hundred, in three axes in one of ten thousand.
LEAST_RATIO = 6.0
SKIRT_HZ = 0.6
BESIDE_HZ = 2.0
QUARTERS = 4
LEAST_SHARE = 0.75
LEAST_QUARTER_SHARE = 0.6
# Gravity and a phone's drift lie below, where no machine is driven; above, sensors at a hundred hertz end.
RANGE_HZ = (3.0, 40.0)
# All else has to change by so much, or another line to come and go: a plateau alone is steady as well, and the drum's.
# A plateau's own level holds within two decibels.
LEAST_CHANGE_DB = 5.0
MOST_GONE_SHARE = 0.1
# The tone is followed so slowly, and no more of it is taken than it usually has, in case the drum stays there too.
FOLLOWED_S = 6.0
MOST_OF_USUAL = 1.5


@dataclass(frozen=True, kw_only=True)
class SteadyTone:
    """One tone: its frequency, and its usual amplitude in every axis [shape=(axes,), m/s²]."""

    frequency_hz: float
    amplitude_m_s2: FloatArray


def without_steady_tones(
    acceleration: EvenAcceleration, *, changes_heard: bool
) -> tuple[EvenAcceleration, tuple[SteadyTone, ...]]:
    """The acceleration less the tones that go on all the time, and those tones, strongest first.

    Parameters
    ----------
    changes_heard : whether the sound of the same run tells that the machine began, ended or changed its speed
    """
    axes = acceleration.axes_m_s2
    tones: list[SteadyTone] = []
    for near_hz in steady_frequencies_hz(acceleration, changes_heard=changes_heard):
        exact_hz = _exact_hz(axes, acceleration.sample_rate_hz, near_hz)
        axes, amplitude = _taken_out(axes, acceleration.sample_rate_hz, exact_hz)
        tones.append(SteadyTone(frequency_hz=exact_hz, amplitude_m_s2=amplitude))
    tones.sort(key=lambda tone: -float(np.linalg.norm(tone.amplitude_m_s2)))
    return (replace(acceleration, axes_m_s2=axes) if tones else acceleration), tuple(tones)


def steady_frequencies_hz(acceleration: EvenAcceleration, *, changes_heard: bool) -> list[float]:
    """Frequencies that stand out in every quarter of the recording, to a bin [Hz]."""
    slow = slowed(acceleration, target_hz=READ_RATE_HZ) if acceleration.sample_rate_hz > READ_RATE_HZ else acceleration
    rate = slow.sample_rate_hz
    if slow.axes_m_s2.shape[1] < (FRAME_S + FEWEST_FRAMES * HOP_S) * rate:
        return []
    rows = slow.axes_m_s2.astype(np.float32)
    spectra = [short_time_power(row, sample_rate_hz=rate, frame_s=FRAME_S, hop_s=HOP_S) for row in rows]
    bin_hz = spectra[0].bin_hz
    kept = int((RANGE_HZ[1] + BESIDE_HZ) / bin_hz)
    power = np.sum([s.power[:, :kept] for s in spectra], axis=0)
    far, skirt = int(BESIDE_HZ / bin_hz), int(SKIRT_HZ / bin_hz)
    around = np.lib.stride_tricks.sliding_window_view(
        np.pad(power, ((0, 0), (far, far)), mode="edge"), 2 * far + 1, axis=1
    )
    beside = np.concatenate([around[..., : far - skirt], around[..., far + skirt + 1 :]], axis=2)
    ratio = power / np.maximum(median_along(beside, axis=2) / np.log(2.0), np.finfo(np.float32).tiny)
    shown = scipy.ndimage.maximum_filter1d(ratio, 3, axis=1) > LEAST_RATIO
    quarters = np.array_split(np.arange(shown.shape[0]), QUARTERS)
    least = np.min([shown[part].mean(axis=0) for part in quarters], axis=0)
    usual = median_along(ratio, axis=0)
    frequency_hz = np.arange(usual.size) * bin_hz
    steady = (least >= LEAST_QUARTER_SHARE) & (shown.mean(axis=0) >= LEAST_SHARE)
    steady &= usual == scipy.ndimage.maximum_filter1d(usual, 2 * skirt + 1)
    steady &= (frequency_hz > RANGE_HZ[0]) & (frequency_hz < min(RANGE_HZ[1], 0.45 * rate))
    found = np.flatnonzero(steady)
    most = np.max([shown[part].mean(axis=0) for part in quarters], axis=0)
    comes_and_goes = (most >= LEAST_QUARTER_SHARE) & (least <= MOST_GONE_SHARE)
    for k in found:
        power[:, max(0, k - skirt) : k + skirt + 1] = 0.0
        comes_and_goes[max(0, k - skirt) : k + skirt + 1] = False
    level_db = 10.0 * np.log10(power[:, skirt:].sum(axis=1) + 1e-20)
    changes = (
        changes_heard
        or comes_and_goes.any()
        or np.percentile(level_db, 90) - np.percentile(level_db, 10) > LEAST_CHANGE_DB
    )
    return [float(frequency_hz[k]) for k in found] if changes else []


def _exact_hz(axes: FloatArray, rate_hz: float, near_hz: float) -> float:
    """Where a tone near a frequency is strongest over the whole recording [Hz]."""
    count = axes.shape[1]
    offsets_hz = np.arange(-0.3, 0.3, 0.25 / (count / rate_hz))
    carried = axes * np.hanning(count) * tone_carrier(near_hz, count=count, rate_hz=rate_hz)
    # A short stretch at a time: within it the offsets turn little.
    hop = max(1, int(0.5 * rate_hz))
    blocks = block_means(carried, hop)
    middles_s = (np.arange(blocks.shape[1]) + 0.5) * hop / rate_hz
    strength = np.abs(blocks @ np.exp(-2j * np.pi * middles_s[:, None] * offsets_hz)) ** 2
    return near_hz + float(offsets_hz[strength.sum(axis=0).argmax()])


def _taken_out(axes: FloatArray, rate_hz: float, frequency_hz: float) -> tuple[FloatArray, FloatArray]:
    """The axes without the slowly followed tone, and its usual amplitude in each."""
    turn_back = tone_carrier(frequency_hz, count=axes.shape[1], rate_hz=rate_hz)
    window = max(3, int(FOLLOWED_S * rate_hz / 2))
    base = axes * turn_back
    for _ in range(2):
        base = scipy.ndimage.uniform_filter1d(base.real, window, axis=1) + 1j * scipy.ndimage.uniform_filter1d(
            base.imag, window, axis=1
        )
    size = np.abs(base)
    usual = np.median(size, axis=1, keepdims=True)
    taken = base * np.minimum(1.0, MOST_OF_USUAL * usual / np.maximum(size, 1e-12))
    return axes - 2.0 * (taken * turn_back.conj()).real, 2.0 * usual[:, 0]
