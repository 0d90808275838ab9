"""What was measured, made audible: a band alone, orders alone or taken out, the envelope on a tone, one turn again.

Every function takes and gives one channel [shape=(n,), full scale = 1]. None of them decides anything: they let an ear
check what the figures say.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import scipy

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.types import AudioSignal
from eager_ear.core.units import FloatArray

# Long enough that the cut makes no click, short enough not to be heard.
FADE_S = 0.01
# Less is a click to an ear.
SHORTEST_S = 0.1
# Steep enough to keep neighbours out, without ringing that one would hear.
BAND_ORDER = 4
# Orders are followed over about a second: what swells and falls within it is noise and stays.
ORDER_BANDWIDTH_HZ = 1.0
READINGS_A_SECOND = 8.0
HIGHEST_ORDER_HZ = 4000.0
# A phone's loudspeaker gives nothing below 300 Hz, where envelopes live; a tone above carries them.
CARRIER_HZ = 500.0
HIGHEST_ENVELOPE_HZ = 400.0
# Envelopes of single impacts reach far above their mean.
ENVELOPE_TOP = 6.0
JOIN_S = 0.006
PEAK = 0.7
MOST_RAISED_DB = 40.0


@dataclass(frozen=True, kw_only=True)
class Heard:
    """Sound for the ear, how far it was raised above the recording [dB], and the speed at which two spins meet."""

    samples: FloatArray
    sample_rate_hz: float
    raised_db: float
    speed_rpm: float | None = None


def samples_between(
    begin_s: float, end_s: float, *, start_s: float, samples: int, sample_rate_hz: float
) -> tuple[int, int]:
    """Which samples of a recording that began at `start_s` lie between two moments, all on the run's clock.

    Raises
    ------
    NotMeasurable
        Less than a tenth of a second of it was recorded.
    """
    first = max(0, int((begin_s - start_s) * sample_rate_hz))
    last = min(samples, int((end_s - start_s) * sample_rate_hz))
    if last - first < SHORTEST_S * sample_rate_hz:
        raise NotMeasurable(quantity="stretch of sound", reason="hardly any sound was recorded between those moments.")
    return first, last


def cut(audio: AudioSignal, *, start_s: float, begin_s: float, end_s: float) -> FloatArray:
    """A stretch of a recording that began at `start_s`, both on the run's clock, faded in and out.

    Raises
    ------
    NotMeasurable
        Less than a tenth of a second of it was recorded.
    """
    rate = audio.sample_rate_hz
    first, last = samples_between(begin_s, end_s, start_s=start_s, samples=audio.samples.size, sample_rate_hz=rate)
    return faded(audio.samples[first:last], sample_rate_hz=rate)


def faded(samples: FloatArray, *, sample_rate_hz: float) -> FloatArray:
    """Faded in and out, so that the ends do not click."""
    count = max(1, min(samples.size // 2, int(FADE_S * sample_rate_hz)))
    ramp = np.sin(0.5 * np.pi * (np.arange(count) + 0.5) / count) ** 2
    out = samples.astype(np.float64)
    out[:count] *= ramp
    out[-count:] *= ramp[::-1]
    return out


def band_passed(samples: FloatArray, *, sample_rate_hz: float, low_hz: float, high_hz: float) -> FloatArray:
    """One band, by a Butterworth filter run both trellis.

    Raises
    ------
    NotMeasurable
        The sample rate does not hold the band.

    >>> t_s = np.arange(16000) / 16000.0
    >>> both = np.sin(2 * np.pi * 100.0 * t_s) + np.sin(2 * np.pi * 3000.0 * t_s)
    >>> high = band_passed(both, sample_rate_hz=16000.0, low_hz=2000.0, high_hz=5000.0)
    >>> round(float(np.std(high)), 2)
    0.71
    """
    high_hz = min(high_hz, 0.48 * sample_rate_hz)
    if not 0.0 < low_hz < 0.9 * high_hz:
        raise NotMeasurable(
            quantity="band", reason=f"at {sample_rate_hz / 1000:g} kHz nothing is heard from {low_hz:.0f} Hz upwards."
        )
    sos = scipy.signal.butter(BAND_ORDER, (low_hz, high_hz), "bandpass", fs=sample_rate_hz, output="sos")
    return np.asarray(scipy.signal.sosfiltfilt(sos, samples))


def orders_alone(
    samples: FloatArray, *, sample_rate_hz: float, turns: FloatArray, orders: Sequence[float]
) -> FloatArray:
    """What turns with the drum at the given multiples of its rate, each followed over about a second.

    Demodulation by the drum's angle: the first step of Vold and Leuridan's order tracking without its coupling
    (Mech. Syst. Signal Process. 5(5), 1991). Taken from the samples it leaves what is not tied to those orders.

    Parameters
    ----------
    turns : array [shape=(n,)], revolutions at every sample
    """
    out = np.zeros(samples.size)
    hop = max(1, int(sample_rate_hz / READINGS_A_SECOND))
    count = -(-samples.size // hop)
    width = max(3, int(2.0 * READINGS_A_SECOND / ORDER_BANDWIDTH_HZ) | 1)
    taper = np.hanning(width + 2)[1:-1]
    middles = (np.arange(count) + 0.5) * hop
    rate_hz = np.gradient(turns) * sample_rate_hz
    for order in orders:
        if order * float(np.median(rate_hz)) > min(HIGHEST_ORDER_HZ, 0.48 * sample_rate_hz):
            continue
        turn = np.exp(2j * np.pi * order * turns)
        carried = np.pad(samples * turn.conj(), (0, count * hop - samples.size)).reshape(count, hop).mean(axis=1)
        # At the ends the window is shorter; its weight goes with it.
        smooth = _around(carried, taper) / _around(np.ones(count), taper)
        amplitude = np.interp(np.arange(samples.size), middles, smooth.real) + 1j * np.interp(
            np.arange(samples.size), middles, smooth.imag
        )
        out += 2.0 * (amplitude * turn).real
    return out


def _around(readings: FloatArray, taper: FloatArray) -> FloatArray:
    """Each reading with its neighbours under the taper [shape like `readings`], which may be the longer of the two."""
    first = taper.size // 2
    return np.convolve(readings, taper)[first : first + readings.size]


def envelope_on_a_tone(samples: FloatArray, *, sample_rate_hz: float, low_hz: float, high_hz: float) -> FloatArray:
    """How loud a band is from moment to moment, as the loudness of a tone: a bearing's clicks become a growl."""
    band = band_passed(samples, sample_rate_hz=sample_rate_hz, low_hz=low_hz, high_hz=high_hz)
    length = int(scipy.fft.next_fast_len(band.size))
    envelope = np.abs(scipy.signal.hilbert(band, length)[: band.size]) ** 2
    highest_hz = min(HIGHEST_ENVELOPE_HZ, 0.4 * sample_rate_hz)
    smooth = scipy.signal.sosfiltfilt(scipy.signal.butter(2, highest_hz, fs=sample_rate_hz, output="sos"), envelope)
    relative = np.clip(smooth / max(float(np.mean(envelope)), 1e-20), 0.0, ENVELOPE_TOP)
    return _on_a_tone(relative / ENVELOPE_TOP, sample_rate_hz)


def beat_on_a_tone(alone: FloatArray, *, sample_rate_hz: float) -> FloatArray:
    """What is too low for an ear, a drum's own orders, as the beat of a tone: loud where it swings one way."""
    return _on_a_tone(0.5 * (1.0 + alone / max(float(np.max(np.abs(alone))), 1e-20)), sample_rate_hz)


def _on_a_tone(loudness: FloatArray, sample_rate_hz: float) -> FloatArray:
    carrier = np.sin(2 * np.pi * CARRIER_HZ * np.arange(loudness.size) / sample_rate_hz)
    return faded(loudness * carrier, sample_rate_hz=sample_rate_hz)


def one_turn_again(samples: FloatArray, *, sample_rate_hz: float, turns: FloatArray, seconds: float) -> FloatArray:
    """The first whole turn of a stretch, over and over, joined without a click.

    Raises
    ------
    NotMeasurable
        Less than a turn.
    """
    join = int(JOIN_S * sample_rate_hz)
    end = int(np.searchsorted(turns, turns[0] + 1.0))
    if end + join > samples.size or end < 4 * join:
        raise NotMeasurable(quantity="one turn", reason="the stretch holds less than one turn of the drum.")
    ramp = np.sin(0.5 * np.pi * (np.arange(join) + 0.5) / join) ** 2
    turn = samples[:end].astype(np.float64)
    # What follows the turn fades out into its own beginning.
    turn[:join] = turn[:join] * ramp + samples[end : end + join] * (1.0 - ramp)
    times = max(1, int(np.ceil(seconds * sample_rate_hz / end)))
    return faded(np.tile(turn, times), sample_rate_hz=sample_rate_hz)


def alternated(one: FloatArray, other: FloatArray, *, sample_rate_hz: float, piece_s: float) -> FloatArray:
    """Two sounds in turns, a piece of each, at one loudness, with a short silence between."""
    count = min(one.size, other.size, int(piece_s * sample_rate_hz))
    pause = np.zeros(int(0.15 * sample_rate_hz))
    usual = max(_rms(one[:count]), 1e-9)
    level = usual / max(_rms(other[:count]), 1e-9)
    pieces = [faded(p[:count], sample_rate_hz=sample_rate_hz) for p in (one, other * level)]
    return np.concatenate([pieces[0], pause, pieces[1], pause, pieces[0], pause, pieces[1]])


def at_rate(samples: FloatArray, *, from_hz: float, to_hz: float) -> FloatArray:
    """The same sound at another sample rate."""
    if from_hz == to_hz:
        return samples
    whole = np.gcd(int(round(from_hz)), int(round(to_hz)))
    return np.asarray(scipy.signal.resample_poly(samples, int(round(to_hz)) // whole, int(round(from_hz)) // whole))


def for_the_ear(samples: FloatArray, *, sample_rate_hz: float) -> Heard:
    """Raised until its peaks are loud, and no further than the recording's own noise allows."""
    peak = float(np.max(np.abs(samples)))
    raised_db = min(MOST_RAISED_DB, 20.0 * float(np.log10(PEAK / max(peak, 1e-6))))
    return Heard(
        samples=(samples * 10.0 ** (raised_db / 20.0)).astype(np.float32),
        sample_rate_hz=sample_rate_hz,
        raised_db=raised_db,
    )


def _rms(samples: FloatArray) -> float:
    return float(np.sqrt(np.mean(np.square(samples))))
