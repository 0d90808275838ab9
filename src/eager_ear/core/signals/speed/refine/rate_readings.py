"""What the phase of one line says about the error of a speed track.

A line at order o of a track whose rate is off by e turns by o·e in its demodulated phase. With a window of T seconds
and a signal-to-noise ratio q in that window, the rate of a steady tone is known to 1.5/(pi²·T²·q) in variance at best
(Cramér-Rao bound for a tone of unknown phase, Rife & Boorstyn, IEEE Trans. Inf. Theory 20(5), 1974, with
q = N·A²/(4·s²)); the estimate here, a phase difference over half a window, comes within a factor of two.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import scipy

from eager_ear.core.signals.angle import FRAME_STEP_S, OncePerTurn, SpeedTrack
from eager_ear.core.signals.dsp import (
    LowBand,
    block_means,
    hann,
    turned_back,
)
from eager_ear.core.units import ComplexArray, FloatArray, Span, within

# Below it a phase jumps by whole turns now and then, and its error is no longer small.
LEAST_SNR = 6.0
# A tone is summed over so many parts of its window first; a window of more than a second would follow no ramp.
BLOCKS = 8
NARROWEST_HZ = 1.0
# Noise beside a tone is averaged over so long, and taken for no less than this share of what is usual.
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


@dataclass(frozen=True, kw_only=True)
class DemodulatedTone:
    """One line of the sound, turned back by a track: a baseband that can be read along better tracks.

    t_s : array [shape=(values,), s], `step_s` apart; turns : of the track by then
    base : array [shape=(values,), complex], sums over an eighth of the band's window
    """

    order: float
    bandwidth_hz: float
    t_s: FloatArray
    step_s: float
    turns: FloatArray
    base: ComplexArray
    spoilt_s: tuple[Span, ...]

    @classmethod
    def of(
        cls, track: SpeedTrack, low: LowBand, *, order: float, bandwidth_hz: float, turns: FloatArray | None = None
    ) -> DemodulatedTone:
        """Demodulate at `order` times the track's rate, as wide as the rate may be off.

        Parameters
        ----------
        turns : the track's revolutions by every sample of `low`, for who reads several lines [shape=(samples,)]
        """
        turns = track.turns_at(low.sample_s) if turns is None else turns
        block = max(1, int(low.rate_hz / (BLOCKS * bandwidth_hz)))
        count = low.samples.size // block
        samples = low.samples[: count * block]
        t_s = low.start_s + (np.arange(count) + 0.5) * block / low.rate_hz
        return cls(
            order=order,
            bandwidth_hz=bandwidth_hz,
            t_s=t_s,
            step_s=block / low.rate_hz,
            turns=track.turns_at(t_s),
            base=block_means(samples * turned_back(order * turns[: samples.size]), block),
            spoilt_s=low.spoilt_s,
        )

    def moved(self, lag_s: float) -> DemodulatedTone:
        """The same line on a clock put right by so much: what the track did by then is looked up when it is read."""
        return replace(self, t_s=self.t_s + lag_s, spoilt_s=tuple((a + lag_s, b + lag_s) for a, b in self.spoilt_s))

    def read(self, track: SpeedTrack, *, narrower: float = 1.0) -> RateReading:
        """What the line says of a track near the one that it was turned back by.

        Parameters
        ----------
        narrower : share of the bandwidth that is looked at, no less than `NARROWEST_HZ`
        """
        bandwidth_hz = max(narrower * self.bandwidth_hz, min(NARROWEST_HZ, self.bandwidth_hz))
        length = round(BLOCKS * self.bandwidth_hz / bandwidth_hz)
        window = hann(length)
        turned = self.base * np.exp(-2j * np.pi * self.order * (track.turns_at(self.t_s) - self.turns))
        base = np.convolve(turned, window, mode="same")
        # The floor beside the line: the same window two bandwidths off the order.
        offset = np.exp(2j * np.pi * 2.0 / length * np.arange(turned.size))
        beside = np.convolve(turned * offset, window, mode="same")
        lag = length // 2
        product = base[lag:] * np.conj(base[:-lag])
        noise = _around(np.square(np.abs(beside)), frames=int(NOISE_S / self.step_s))[lag // 2 :][: product.size]
        middle_s = 0.5 * (self.t_s[lag:] + self.t_s[:-lag])
        noise = np.where(within(middle_s, self.spoilt_s), np.inf, noise)
        power = np.square(np.abs(base[lag // 2 :]))
        return _from_product(track, product, power, noise, middle_s, lag_s=lag * self.step_s, order=self.order)


def _around(power: FloatArray, *, frames: int) -> FloatArray:
    """Mean power around each moment, since noise follows the speed [shape like power]; never far below the usual."""
    mean = scipy.ndimage.uniform_filter1d(power, max(frames, 3))
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
        return np.asarray(
            np.interp(track.t_s, middle_s, scipy.ndimage.uniform_filter1d(values[: middle_s.size], frame))
        )

    error = np.arctan2(at_frames(product.imag), at_frames(product.real)) / (2 * np.pi * lag_s * order)
    snr = np.interp(track.t_s, middle_s, power[: middle_s.size] / np.maximum(noise, 1e-30))
    inside = (track.t_s >= middle_s[0]) & (track.t_s <= middle_s[-1])
    clear = inside & (snr > LEAST_SNR)
    # Twice the bound for a window of 2·lag, since half of it is used at either end.
    sigma = 2.0 * np.sqrt(1.5 / np.maximum(snr, 1e-9)) / (np.pi * 2 * lag_s * order)
    return RateReading(error_hz=error, sigma_hz=np.where(clear, sigma, np.inf))
