"""Short-time spectra, computed once and shared by all who need them.

Hann frames in cache-sized blocks through scipy's real transform in single precision. Scaling: a bin holds the
mean-square that a tone there would have (Harris, Proc. IEEE 66(1), 1978: coherent gain), so levels compare between
frame lengths for tones. Noise levels come from sums over bins divided by the equivalent noise bandwidth.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import scipy

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.dsp.medians import median_along
from eager_ear.core.units import FloatArray

# As many frames at a time as stay in a processor's cache.
BLOCK_FRAMES = 64
# Equivalent noise bandwidth of a Hann window (Harris, Proc. IEEE 66(1), 1978, table 1).
HANN_NOISE_BANDWIDTH_BINS = 1.5
# A Hann window spreads a tone over four bins.
HANN_LINE_BINS = 4
SHAPE_FRAMES = 120
# Low-pass filters before decimation: what is kept of the new band, and how far the rest is kept down.
KEPT_SHARE = 0.8
STOP_DB = 50.0
KAISER_BETA = 0.1102 * (STOP_DB - 8.7)
FILTER_ROW = 32
FILTER_BLOCK = 1024


@dataclass(frozen=True, kw_only=True)
class Spectrogram:
    """Power against time and frequency.

    power : array [shape=(frames, bins), unit of signal squared, float32]
    t_s : array [shape=(frames,), s], middle of each frame
    frequency_hz : array [shape=(bins,), Hz]
    """

    power: FloatArray
    t_s: FloatArray
    frequency_hz: FloatArray

    @property
    def bin_hz(self) -> float:
        return float(self.frequency_hz[1] - self.frequency_hz[0])

    @property
    def hop_s(self) -> float:
        return float(self.t_s[1] - self.t_s[0]) if self.t_s.size > 1 else 0.0

    def band_power(self, low_hz: float, high_hz: float) -> FloatArray:
        """Mean-square of the signal between two frequencies in each frame [shape=(frames,)]."""
        inside = (self.frequency_hz >= low_hz) & (self.frequency_hz < high_hz)
        first, last = int(np.argmax(inside)), int(inside.size - np.argmax(inside[::-1]))
        if not inside.any():
            return np.zeros(self.t_s.size, dtype=np.float32)
        return np.asarray(self.power[:, first:last].sum(axis=1) / np.float32(HANN_NOISE_BANDWIDTH_BINS))


def short_time_power(signal: FloatArray, *, sample_rate_hz: float, frame_s: float, hop_s: float) -> Spectrogram:
    """Power spectrogram of one channel.

    Parameters
    ----------
    signal : array [shape=(n,)], evenly sampled
    frame_s, hop_s : float [s]; the frame is rounded up to a length that transforms fast

    Raises
    ------
    NotMeasurable
        The signal is shorter than one frame.

    >>> t_s = np.arange(8000) / 8000.0
    >>> tone = np.sqrt(2.0) * np.sin(2 * np.pi * 1000.0 * t_s)
    >>> spectrum = short_time_power(tone, sample_rate_hz=8000.0, frame_s=0.1, hop_s=0.05)
    >>> round(float(spectrum.power[3].max()), 2)
    1.0
    """
    length = int(scipy.fft.next_fast_len(int(np.ceil(frame_s * sample_rate_hz)), real=True))
    hop = max(1, round(hop_s * sample_rate_hz))
    if signal.size < length:
        raise NotMeasurable(
            quantity="spectrum", reason=f"{signal.size / sample_rate_hz:.2f} s is shorter than a frame."
        )
    window = np.hanning(length + 1)[:-1]
    window = (window * (np.sqrt(2.0) / window.sum())).astype(np.float32)
    frames = np.lib.stride_tricks.sliding_window_view(signal, length)[::hop]
    power = np.empty((frames.shape[0], length // 2 + 1), dtype=np.float32)
    for block in blocks_of(frames.shape[0]):
        parts = scipy.fft.rfft(frames[block].astype(np.float32, copy=False) * window, axis=1).view(np.float32)
        np.multiply(parts, parts, out=parts)
        np.add(parts[:, ::2], parts[:, 1::2], out=power[block])
    return Spectrogram(
        power=power,
        t_s=(np.arange(frames.shape[0]) * hop + length / 2) / sample_rate_hz,
        frequency_hz=np.arange(length // 2 + 1) * (sample_rate_hz / length),
    )


def blocks_of(frames: int, length: int = BLOCK_FRAMES) -> list[slice]:
    """Runs of frames that stay in the processor's cache while they are worked on."""
    return [slice(begin, begin + length) for begin in range(0, frames, length)]


def spectral_shape(power: FloatArray, *, line_bins: int) -> FloatArray:
    """What the spectra of all frames have in common, lines left out [shape=(bins,)].

    The median of the louder half of the frames, each at unit power, and of that the running median over twice a
    line's width: it follows the steep fall of a microphone towards low frequencies, which a floor of blocks would cut
    across. Frames that were masked are silent and say nothing.
    """
    total = power.sum(axis=-1)
    loud = np.flatnonzero(total >= max(float(np.median(total)), np.finfo(np.float32).tiny))
    some = loud[:: max(1, loud.size // SHAPE_FRAMES)]
    if some.size == 0:
        return np.ones(power.shape[-1], dtype=power.dtype)
    typical = median_along(power[some] / total[some, None], axis=0)
    shape = scipy.ndimage.median_filter(typical, size=2 * line_bins + 1, mode="nearest")
    return np.asarray(np.maximum(shape, 1e-9 * float(shape.max())), dtype=power.dtype)


def floor_of_frames(power: FloatArray, *, width: int, line_bins: int, quantile: float = 0.5) -> FloatArray:
    """Floor under the lines of each frame [shape like `power`]: `noise_floor` over what all frames have in common."""
    return floor_over(spectral_shape(power, line_bins=line_bins), power, width=width, quantile=quantile)


def floor_over(shape: FloatArray, power: FloatArray, *, width: int, quantile: float) -> FloatArray:
    """Floor under the lines of each frame [shape like `power`], over a shape that is known [shape=(bins,)]."""
    return np.asarray(noise_floor(power / shape, width=width, quantile=quantile) * shape)


def noise_floor(power: FloatArray, *, width: int, quantile: float = 0.5) -> FloatArray:
    """Smooth floor under the lines of each spectrum [shape like `power`]: `NoiseFloor` in one go."""
    return NoiseFloor(bins=power.shape[-1], width=width, quantile=quantile)(power)


class NoiseFloor:
    """Smooth floor under the lines of spectra: local quantile along frequency.

    The quantile of blocks of `width` bins, joined by straight lines: a tone that occupies fewer than `1 - quantile`
    of a block does not lift it. The bias of the quantile against the mean of exponential power is taken out.
    """

    def __init__(self, *, bins: int, width: int, quantile: float) -> None:
        blocks = max(2, bins // max(4, min(width, bins // 2)))
        edges = np.linspace(0, bins, blocks + 1).astype(int)
        self._parts = [(slice(a, b), int(quantile * (b - a - 1))) for a, b in pairwise(edges)]
        centres = 0.5 * (edges[:-1] + edges[1:] - 1)
        position = np.clip(np.interp(np.arange(bins), centres, np.arange(blocks)), 0, blocks - 1)
        # Straight lines between the blocks, and the bias taken out, as one product of matrices.
        before = np.minimum(position.astype(int), blocks - 2)
        share = np.stack([1.0 - (position - before), position - before]) / -np.log(1.0 - quantile)
        self._joined = np.zeros((blocks, bins), dtype=np.float32)
        self._joined[[before, before + 1], np.arange(bins)] = share

    def __call__(self, power: FloatArray) -> FloatArray:
        """The floor [shape like `power`]. power : array [shape=(..., bins)]."""
        ranked = [np.partition(power[..., part], rank, axis=-1)[..., rank] for part, rank in self._parts]
        floor = np.stack(ranked, axis=-1).astype(np.float32, copy=False) @ self._joined
        return np.asarray(np.maximum(floor, np.finfo(np.float32).tiny))


def decimated(signal: FloatArray, *, sample_rate_hz: float, target_hz: float) -> tuple[FloatArray, float]:
    """The signal at an integer fraction of its rate, at least `target_hz`, low-passed before."""
    decimator = Decimator(sample_rate_hz=sample_rate_hz, target_hz=target_hz)
    return decimator(signal), decimator.rate_hz


class Decimator:
    """Brings signals to an integer fraction of their rate, at least `target_hz`, low-passed before.

    In stages (Crochiere & Rabiner, Multirate Digital Signal Processing, section 5.3): each one keeps out only what
    would fold into the band that is kept in the end, four fifths of half the last rate, so that the first, which have
    the most to do, need few taps.

    factor : whole number by which the rate falls; rate_hz : what it falls to
    reach : how far the filters look to both sides, in values of the slower signal
    """

    def __init__(self, *, sample_rate_hz: float, target_hz: float) -> None:
        self.factor = max(1, int(sample_rate_hz // target_hz))
        self.rate_hz = sample_rate_hz / self.factor
        self._stages: list[tuple[int, FloatArray]] = []
        reach, faster = 0, 1
        kept_hz = KEPT_SHARE * self.rate_hz / 2.0
        left, rate = self.factor, sample_rate_hz
        while left > 1:
            step = next((k for k in (5, 4, 3, 2, 7) if left % k == 0), left)
            stop_hz = rate / step - kept_hz
            # Kaiser's estimate for the attenuation; half the taps a whole number of steps, so that times stay even.
            width = (stop_hz - kept_hz) / (rate / 2.0)
            half = -(-int(np.ceil((STOP_DB - 7.95) / (2.285 * np.pi * width) / 2.0)) // step)
            taps = scipy.signal.firwin(
                2 * half * step + 1, (kept_hz + stop_hz) / 2.0, fs=rate, window=("kaiser", KAISER_BETA)
            )
            self._stages.append((step, _shifted(step, taps.astype(np.float32))))
            reach += half * step * faster
            faster *= step
            rate /= step
            left //= step
        self.reach = -(-reach // self.factor)

    def __call__(self, signal: FloatArray) -> FloatArray:
        """The slower signal, without delay [shape=(..., ceil(n / factor))]. signal : array [shape=(..., n)]."""
        out = signal
        for step, shifted in self._stages:
            out = _every(step, out, shifted)
        return out


def _shifted(step: int, taps: FloatArray) -> FloatArray:
    """Taps moved on by one step a column [shape=(taps + steps, FILTER_ROW)]."""
    out = np.zeros(((FILTER_ROW - 1) * step + taps.size, FILTER_ROW), dtype=np.float32)
    for k in range(FILTER_ROW):
        out[k * step : k * step + taps.size, k] = taps
    return out


def _every(step: int, signal: FloatArray, shifted: FloatArray) -> FloatArray:
    """The signal filtered by an odd number of symmetric taps, without their delay, one value in `step` worked out.

    Rows of the signal that overlap by the taps, times a matrix of shifted taps: a third of the time of a plain filter.
    """
    taps = shifted.shape[0] - (FILTER_ROW - 1) * step
    half = taps // 2
    count = -(-signal.shape[-1] // step)
    rows = -(-count // FILTER_ROW)
    # By hand, and as plain strides: blocks of a few hundred values are filtered hundreds of times a minute.
    room = max(rows * FILTER_ROW * step + taps, half + signal.shape[-1])
    padded = np.zeros((*signal.shape[:-1], room), dtype=np.float32)
    padded[..., half : half + signal.shape[-1]] = signal
    views = np.lib.stride_tricks.as_strided(
        padded,
        shape=(*signal.shape[:-1], rows, shifted.shape[0]),
        strides=(*padded.strides[:-1], FILTER_ROW * step * padded.itemsize, padded.itemsize),
        writeable=False,
    )
    out = np.empty((*signal.shape[:-1], rows, FILTER_ROW), dtype=np.float32)
    for begin in range(0, rows, FILTER_BLOCK):
        block = slice(begin, min(begin + FILTER_BLOCK, rows))
        np.matmul(views[..., block, :], shifted, out=out[..., block, :])
    return out.reshape(*signal.shape[:-1], -1)[..., :count]
