"""A second machine nearby, told by a tone in the sound that stays where it is while this drum's speed changes.

What follows the drum moves with it. So the sound is cut into steps of speed, and in each of them every frequency
is asked whether it stands out of its neighbourhood. One that does so at more speeds than the lines around it would by
chance is either a tone from elsewhere or a plate of the cabinet that rings whatever strikes it; a plate rings over
several hertz, a tone has no width.
"""

from __future__ import annotations

import numpy as np
import scipy

from eager_ear.core.signals.angle import SpeedTrack
from eager_ear.core.signals.dsp import (
    LowBand,
    by_bin,
    median_along,
    tone_carrier,
)
from eager_ear.core.signals.recordings.disturbances import Disturbance
from eager_ear.core.signals.recordings.neighbour_in_vibration import SteadyTone
from eager_ear.core.units import BoolArray, FloatArray, IntArray, Span, within

# Drums that differ by less than this in speed share a step: a line of theirs moves by several bins from step to step.
STEP_RATIO = 1.12
SLOWEST_STEP_HZ = 2.0
LEAST_STEP_S = 0.9
# A Hann line takes two bins on either side; what stands there to ten bins is the neighbourhood.
LINE_BINS = 2
BESIDE_BINS = 10
CLEAR_SIGMAS = 2.5
# Bins around a frequency in which other lines are counted.
COUNTED_BINS = 60
# A tenth of a candidate a recording: what is no tone is told by its width.
LEAST_CHANCE = 0.1
# Within a quarter of a hertz a tone holds ten times what lies beside it; noise does three times, a plate two.
TONE_SHARPNESS = 10.0
TONE_WIDTH_HZ = 0.25
NEAR_HZ = 2.0
FAR_HZ = 5.0
BASEBAND_HZ = 16.0
LEVELLED_S = 2.0
LOWEST_HEARD_HZ = 20.0
HIGHEST_HEARD_HZ = 900.0


def felt_second_machine(tones: tuple[SteadyTone, ...]) -> Disturbance | None:
    """What `without_steady_tones` took out, told to the technician."""
    if not tones:
        return None
    return Disturbance(
        code="second_machine",
        message=f"Another machine runs nearby: it shakes the floor {60.0 * tones[0].frequency_hz:.0f} times a minute, "
        "whatever this one does. That was taken out of the vibration.",
    )


def heard_second_machine(low: LowBand, *, track: SpeedTrack, rests: tuple[Span, ...]) -> Disturbance | None:
    """A tone in the sound that stands through the speeds of this drum.

    Parameters
    ----------
    rests : stretches in which the machine stands still [s]: a speed like any other
    """
    tone_hz = _standing_tone_hz(low, track=track, rests=rests)
    if tone_hz is None:
        return None
    return Disturbance(
        code="second_machine",
        message=f"Another machine runs nearby: it sounds at {tone_hz:.0f} Hz at every speed of this drum. Levels hold "
        "both; switch it off and record again if they matter.",
    )


def _standing_tone_hz(low: LowBand, *, track: SpeedTrack, rests: tuple[Span, ...]) -> float | None:
    if not low.spectra:
        return None
    part = low.spectra[-1]
    kept = int(HIGHEST_HEARD_HZ / part.bin_hz) + BESIDE_BINS
    step = steps_of_speed(part.t_s, track=track, rests=rests, hop_s=float(np.diff(part.t_s[:2]).sum()))
    for hz in standing_through(part.raw[:, :kept], step, bin_hz=part.bin_hz, lowest_hz=LOWEST_HEARD_HZ):
        if not low.is_mains(hz):
            sharp, exact_hz = tone_sharpness(low.samples, sample_rate_hz=low.rate_hz, frequency_hz=hz)
            if sharp > TONE_SHARPNESS:
                return exact_hz
    return None


def steps_of_speed(t_s: FloatArray, *, track: SpeedTrack, rests: tuple[Span, ...], hop_s: float) -> IntArray:
    """Number of the step of speed at each moment [shape like `t_s`]; -1 where unknown or hardly dwelt at, 0 at rest."""
    rate_hz = track.at(t_s)
    octaves = np.log(np.maximum(np.nan_to_num(rate_hz), 1e-3) / SLOWEST_STEP_HZ) / np.log(STEP_RATIO)
    step = np.where(np.isnan(rate_hz), -1, np.maximum(2 + np.floor(octaves), 1)).astype(int)
    step[within(t_s, rests)] = 0
    values, counts = np.unique(step, return_counts=True)
    step[np.isin(step, values[counts * hop_s < LEAST_STEP_S])] = -1
    return np.asarray(step)


def standing_through(strength: FloatArray, step: IntArray, *, bin_hz: float, lowest_hz: float) -> list[float]:
    """Frequencies [Hz] that stand out at more steps of speed than the lines around them do by chance, best first.

    The number of steps at which lines stand out somewhere is bounded by Chernoff's inequality for a sum of independent
    trials (Hoeffding, J. Amer. Statist. Assoc. 58(301), 1963, pp. 13-30), with the search over all bins paid for.

    Parameters
    ----------
    strength : array [shape=(frames, bins), nats]: `line_strength`
    step : array [shape=(frames,)]: `steps_of_speed`
    """
    steps, means = by_bin(strength[step >= 0], step[step >= 0])
    if steps.size < 2:
        return []
    out = _standing_out(means)
    # What other bins nearby show is the chance of one; the line itself does not count.
    nearby = scipy.ndimage.uniform_filter1d(out.astype(float), COUNTED_BINS + 1, axis=1) * (COUNTED_BINS + 1) - out
    one = np.maximum(nearby, 1.0) / COUNTED_BINS
    # A line between two bins stands now in one, now in the other.
    expected = (1.0 - (1.0 - one) ** 3).sum(axis=0)
    count = scipy.ndimage.maximum_filter1d(out, 3, axis=1).sum(axis=0)
    surplus = count * np.log(np.maximum(count, 1) / expected) - (count - expected)
    score = np.where(count > expected, surplus, 0.0) - np.log(strength.shape[1])
    score[: int(lowest_hz / bin_hz)] = -np.inf
    score[-BESIDE_BINS:] = -np.inf
    peak = (score == scipy.ndimage.maximum_filter1d(score, 5)) & (score > -np.log(LEAST_CHANCE))
    found = np.flatnonzero(peak)
    return [float(k * bin_hz) for k in found[np.argsort(-score[found])]]


def _standing_out(strength: FloatArray) -> BoolArray:
    """Bins that stand out of their neighbourhood at each speed [shape=(speeds, bins)]."""
    padded = np.pad(strength, ((0, 0), (BESIDE_BINS, BESIDE_BINS)), mode="edge")
    around = np.lib.stride_tricks.sliding_window_view(padded, 2 * BESIDE_BINS + 1, axis=1)
    beside = np.concatenate(
        [around[..., : BESIDE_BINS - LINE_BINS], around[..., BESIDE_BINS + LINE_BINS + 1 :]], axis=2
    )
    excess = strength - median_along(beside, axis=2)
    spread = 1.4826 * np.median(np.abs(excess), axis=1, keepdims=True)
    return np.asarray((excess > CLEAR_SIGMAS * spread) & (excess == scipy.ndimage.maximum_filter1d(excess, 3, axis=1)))


def tone_sharpness(samples: FloatArray, *, sample_rate_hz: float, frequency_hz: float) -> tuple[float, float]:
    """How many times more a tone near a frequency holds than what lies beside it, and its exact frequency [Hz].

    One transform over the whole recording of what lies around the frequency, loud stretches levelled, so that a tone
    that is always there counts by its length and what passes by does not.

    Parameters
    ----------
    samples : array [shape=(n,)]
    """
    hop = max(1, round(sample_rate_hz / BASEBAND_HZ))
    count = samples.size // hop
    rate = sample_rate_hz / hop
    turn = tone_carrier(frequency_hz, count=count * hop, rate_hz=sample_rate_hz)
    taper = np.hanning(hop + 2)[1:-1].astype(np.float32)
    shifted = (samples[: count * hop] * turn).reshape(count, hop) @ taper
    level = scipy.ndimage.median_filter(np.abs(shifted), size=int(LEVELLED_S * rate) | 1, mode="nearest")
    levelled = shifted / np.maximum(np.maximum(level, np.abs(shifted)), 1e-12)
    power = np.abs(scipy.fft.fftshift(scipy.fft.fft(levelled))) ** 2
    smooth = scipy.ndimage.uniform_filter1d(power, max(3, int(TONE_WIDTH_HZ * count / rate)))
    offset_hz = scipy.fft.fftshift(scipy.fft.fftfreq(count, 1.0 / rate))
    near = np.flatnonzero(np.abs(offset_hz) < NEAR_HZ)
    best = near[np.argmax(smooth[near])]
    beside = float(np.median(smooth[np.abs(offset_hz) < FAR_HZ]))
    return float(smooth[best]) / max(beside, 1e-12), frequency_hz + float(offset_hz[best])
