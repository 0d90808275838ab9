"""The pitch of a plucked belt span, heard by a microphone that hardly hears so low.

A plucked span sounds at whole multiples of its fundamental, which dies slowest and which small microphones lose first.
So not the strongest tone is taken but the rate whose multiples explain most of the spectrum's lines, each of them
counted once (harmonic summation: Noll, Proc. Symp. Computer Processing in Communications, 1969); the fundamental need
not be heard. A rate half as high has all these multiples too, and as many more where nothing stands, which speak
against it.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.dsp import peak_centre
from eager_ear.core.signals.types import AudioSignal
from eager_ear.core.units import FloatArray

# Spans of 15 to 60 cm of ribbed belts of 20 to 80 g/m between slack and overtight (4·m·L²·f² = 30 to 400 N).
PITCH_RANGE_HZ = (15.0, 260.0)
HIGHEST_HZ = 1600.0
RATE_HZ = 4000.0
# The pluck itself is a click; what rings starts a moment after it and is over within a second.
AFTER_S, RINGS_S = 0.015, 0.8
# Of a plucked span so many lines ring on long enough to be read.
MULTIPLES = 8
# A line counts in nats over the floor, up to a cap: one strong hum is not a family. Noise alone reaches about one nat
# at its highest among the few bins that are looked at for a line.
CAP_NATS = 5.0
EMPTY_NATS = 1.0
LEAST_LINES = 2
LEAST_SCORE = 6.0
# How far apart two readings of one pitch lie, besides what their lines say: a hand plucks a little harder or softer.
LEAST_SHARE = 0.004


@dataclass(frozen=True, kw_only=True)
class Pluck:
    """hz : pitch of the span; sigma_hz : its standard error; lines : so many of its multiples were heard

    lowest : the lowest of them; from the second on, half the pitch cannot be told from this one for sure
    """

    hz: float
    sigma_hz: float
    lines: int
    lowest: int


def pluck_pitch(audio: AudioSignal) -> Pluck:
    """Pitch of the loudest pluck of a short recording.

    Raises
    ------
    NotMeasurable
        Nothing was plucked, or no family of lines stands out of what it rings in.
    """
    low = _slowed(audio)
    begin = _onset(low)
    ring = low[begin + int(AFTER_S * RATE_HZ) : begin + int((AFTER_S + RINGS_S) * RATE_HZ)]
    if ring.size < 0.15 * RATE_HZ:
        raise NotMeasurable(quantity="pluck", reason="it was cut off: let it ring for half a second.")
    spectrum, step = _spectrum(ring)
    # A quiet stretch of the same length before it, where there is one: hum that was there already is not the belt's.
    before = low[max(0, begin - ring.size) : max(0, begin - int(0.02 * RATE_HZ))]
    floor = _floor(spectrum, step)
    if before.size > 0.5 * ring.size:
        there, _ = _spectrum(np.pad(before, (0, ring.size - before.size)) * ring.size / before.size)
        floor = np.maximum(floor, there)
    nats = np.clip(np.log(spectrum / floor + 1e-12), -1.0, CAP_NATS)
    pitches = np.geomspace(*PITCH_RANGE_HZ, 2400)
    scores = np.array([_score(nats, hz, step) for hz in pitches])
    best = int(np.argmax(scores))
    if scores[best] < LEAST_SCORE:
        raise NotMeasurable(quantity="pluck", reason="no pitch stands out: pluck once, firmly, near the middle.")
    return _refined(spectrum, nats, float(pitches[best]), step)


def _slowed(audio: AudioSignal) -> FloatArray:
    """The lower part of the sound at a low rate; hum below what spans do is left out."""
    samples = np.asarray(audio.samples, dtype=float)
    down = scipy.signal.resample_poly(samples, int(RATE_HZ), round(audio.sample_rate_hz))
    return np.asarray(scipy.signal.sosfilt(scipy.signal.butter(2, 12.0, "high", fs=RATE_HZ, output="sos"), down))


def _onset(low: FloatArray) -> int:
    """Where the level rises fastest over twenty milliseconds."""
    width = int(0.02 * RATE_HZ)
    level = scipy.signal.convolve(low**2, np.ones(width) / width, "same")
    floor = float(np.median(level)) + 1e-15
    rise = np.log((level[width:] + floor) / (level[:-width] + floor))
    begin = int(np.argmax(rise * (level[width:] > 0.1 * level.max())))
    if rise[begin] < np.log(4.0):
        raise NotMeasurable(quantity="pluck", reason="nothing rises from the noise: hold the phone near the span.")
    return begin


def _spectrum(ring: FloatArray) -> tuple[FloatArray, float]:
    size = int(2 ** np.ceil(np.log2(8 * ring.size)))
    window = scipy.signal.windows.tukey(ring.size, 0.3)
    power = np.abs(np.fft.rfft(ring * window, size)) ** 2
    step = RATE_HZ / size
    return power[: int(HIGHEST_HZ / step)], step


def _floor(spectrum: FloatArray, step: float) -> FloatArray:
    """What the spectrum has between its lines: its median over 120 Hz, raised to the mean of such noise."""
    width = int(120.0 / step) | 1
    return np.asarray(scipy.ndimage.median_filter(spectrum, size=width, mode="reflect") / np.log(2) + 1e-15)


def _score(nats: FloatArray, hz: float, step: float) -> float:
    """What the multiples of a pitch explain, less what they leave empty, weighed as plucks fall off."""
    score, heard = 0.0, 0
    for k in range(1, MULTIPLES + 1):
        at = hz * k / step
        if at >= nats.size - 1:
            break
        reach = max(1, int(0.008 * at))
        line = float(nats[max(0, int(at) - reach) : int(at) + reach + 1].max())
        # By the line's own frequency, so that a line counts the same whichever pitch claims it.
        weight = float(np.sqrt(PITCH_RANGE_HZ[1] / (hz * k)))
        # The fundamental may be below what the microphone hears: its absence says nothing.
        score += weight * (line - EMPTY_NATS if line > EMPTY_NATS else (line - EMPTY_NATS) * (k > 1))
        heard += line > 2.0 * EMPTY_NATS
    return score if heard >= LEAST_LINES else 0.0


def _refined(spectrum: FloatArray, nats: FloatArray, hz: float, step: float) -> Pluck:
    """The pitch by the centres of its lines, each as exact as it is strong."""
    rates, weights, heard = [], [], []
    for k in range(1, MULTIPLES + 1):
        at = hz * k / step
        reach = max(2, int(0.015 * at))
        part = slice(max(0, int(at) - reach), int(at) + reach + 1)
        if part.stop >= spectrum.size:
            break
        line = spectrum[part]
        peak = int(np.argmax(line))
        strength = float(nats[part][peak])
        if strength < 2.0 * EMPTY_NATS:
            continue
        near = slice(max(0, peak - 3), peak + 4)
        centre = float(peak_centre(line[near], np.arange(line.size)[near]))
        rates.append((part.start + centre) * step / k)
        weights.append(strength * k)
        heard.append(k)
    rate = np.array(rates)
    weight = np.array(weights) / np.sum(weights)
    mean = float(np.sum(weight * rate))
    spread = float(np.sqrt(np.sum(weight * (rate - mean) ** 2) / max(rate.size - 1, 1)))
    return Pluck(hz=mean, sigma_hz=max(spread, LEAST_SHARE * mean), lines=rate.size, lowest=min(heard))
