"""What the phase of one line says about the error of a speed track.

A line at order o of a track whose rate is off by e turns by o·e in its demodulated phase. With a window of T seconds
and a signal-to-noise ratio q in that window, the rate of a steady tone is known to 1.5/(pi²·T²·q) in variance at best
(Cramér-Rao bound for a tone of unknown phase, Rife & Boorstyn, IEEE Trans. Inf. Theory 20(5), 1974, with
q = N·A²/(4·s²)); the estimate here, a phase difference over half a window, comes within a factor of two.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy import ndimage

from eager_ear.core.signals.low_band import LowBand
from eager_ear.core.signals.once_per_turn import OncePerTurn, hann
from eager_ear.core.signals.speed_track import FRAME_STEP_S, SpeedTrack
from eager_ear.core.units import ComplexArray, FloatArray, within

LEAST_SNR = 6.0
NOISE_S = 3.0
LEAST_NOISE_SHARE = 0.25
# Windows of 1.25 s overlap, of which a Hann window weighs about the middle half: so many frames say what one says.
FRAMES_A_READING = 5.0


@dataclass(frozen=True, kw_only=True)
class RateReading:
    """What one line says about the track's error [shape=(frames,), Hz] with its standard error, inf where nothing."""

    error_hz: FloatArray
    sigma_hz: FloatArray


def read_turns(track: SpeedTrack, seen: OncePerTurn) -> RateReading:
    base, lag = seen.base, seen.reach
    product = (base[:, lag:] * np.conj(base[:, :-lag])).sum(axis=0)
    power = np.square(np.abs(base)).sum(axis=0)
    middle_s = 0.5 * (seen.t_s[lag:] + seen.t_s[:-lag])
    noise = np.maximum(seen.noise[lag:], seen.noise[:-lag])
    return _from_product(track, product, power[lag // 2 :], noise, middle_s, lag_s=lag * seen.step_s, order=1.0)


def read_tone(track: SpeedTrack, low: LowBand, *, order: float, bandwidth_hz: float) -> RateReading:
    """Demodulate one line; sums over an eighth of the window come first, so that the window works on few values."""
    rate = low.rate_hz
    block = max(1, int(rate / (8.0 * bandwidth_hz)))
    count = low.samples.size // block
    t_s = low.start_s + np.arange(count * block) / rate
    phase = np.mod(order * track.turns_at(t_s), 1.0).astype(np.float32) * np.float32(2 * np.pi)
    samples = low.samples[: count * block]
    sums = (samples * np.cos(phase)).reshape(count, block).sum(axis=1) - 1j * (samples * np.sin(phase)).reshape(
        count, block
    ).sum(axis=1)
    window = hann(8)
    base = np.convolve(sums, window, mode="same")
    # The floor beside the line: the same window two bandwidths off the order.
    beside = np.convolve(sums * np.exp(2j * np.pi * np.arange(count) / 4.0), window, mode="same")
    lag = 4
    product = base[lag:] * np.conj(base[:-lag])
    noise = _around(np.abs(beside) ** 2, frames=int(NOISE_S * rate / block))[lag // 2 :][: product.size]
    times = low.start_s + (np.arange(count) + 0.5) * block / rate
    middle_s = 0.5 * (times[lag:] + times[:-lag])
    power = np.abs(base[lag // 2 :]) ** 2
    noise[within(middle_s, low.spoilt_s)] = np.inf
    return _from_product(track, product, power, noise, middle_s, lag_s=lag * block / rate, order=order)


def _around(power: FloatArray, *, frames: int) -> FloatArray:
    """Mean power around each moment, since noise follows the speed [shape like power]; never far below the usual."""
    mean = ndimage.uniform_filter1d(power, max(frames, 3))
    return np.asarray(np.maximum(mean, LEAST_NOISE_SHARE * np.median(power)))


def _from_product(
    track: SpeedTrack,
    product: ComplexArray,
    power: FloatArray,
    noise: FloatArray,
    middle_s: FloatArray,
    *,
    lag_s: float,
    order: float,
) -> RateReading:
    """Track error at the track's frames from the phase turned in `lag_s`."""
    frame = int(FRAME_STEP_S / max(middle_s[1] - middle_s[0], 1e-9)) | 1

    def at_frames(values: FloatArray) -> FloatArray:
        return np.asarray(np.interp(track.t_s, middle_s, ndimage.uniform_filter1d(values[: middle_s.size], frame)))

    error = np.arctan2(at_frames(product.imag), at_frames(product.real)) / (2 * np.pi * lag_s * order)
    snr = np.interp(track.t_s, middle_s, power[: middle_s.size] / np.maximum(noise, 1e-30))
    inside = (track.t_s >= middle_s[0]) & (track.t_s <= middle_s[-1])
    clear = inside & (snr > LEAST_SNR)
    # Twice the bound for a window of 2·lag, since half of it is used at either end.
    sigma = 2.0 * np.sqrt(1.5 / np.maximum(snr, 1e-9)) / (np.pi * 2 * lag_s * order)
    return RateReading(error_hz=error, sigma_hz=np.where(clear, sigma, np.inf))
