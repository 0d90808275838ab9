"""Narrow-band complex envelopes of a long signal, many bands from one set of transforms.

Blocks that overlap are transformed once; a band is a slice of their bins with cosine flanks, transformed back at the
band's own low rate, the overlap thrown away (overlap-save; Oppenheim & Schafer, Discrete-Time Signal Processing, 3rd
ed., section 8.7). That is an ideal band-pass, Hilbert transform and decimation in one step, and a block stays in the
processor's cache.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy

from eager_ear.core.signals.types import AudioSignal
from eager_ear.core.units import ComplexArray, FloatArray

# A minute of sound at a time keeps memory bounded however long the recording is.
SECTION_S = 60.0
# Longer than any band filter rings, so that sections join without a seam.
OVERLAP_S = 0.5
# A sixteenth at either end of a block is thrown away: at 48 kHz 85 ms, longer than a band's flanks ring.
BLOCK = 1 << 16
EDGES = 16
# Four transforms of one length side by side fill a processor's vector registers, and still its cache.
TOGETHER = 4
# The noise's colour is told in steps of so many bins, 47 Hz at 48 kHz, from the quieter quarter of the blocks: there
# what is faint has to stand out.
COLOUR_BINS = 64
QUIET_SHARE = 0.25
# What lies thirty decibels below the loudest of its band may be empty: recorded at a lower rate, or coded away.
EMPTY_SHARE = 1e-3


@dataclass(frozen=True, kw_only=True)
class SectionSpectrum:
    """One-sided transforms of a section's overlapping blocks [shape=(blocks, BLOCK // 2 + 1), complex64]."""

    bins: ComplexArray
    samples: int
    sample_rate_hz: float

    @classmethod
    def of(cls, signal: FloatArray, *, sample_rate_hz: float) -> SectionSpectrum:
        edge = BLOCK // EDGES
        kept = BLOCK - 2 * edge
        count = max(1, -(-signal.size // kept))
        bins = np.empty((count, BLOCK // 2 + 1), dtype=np.complex64)
        blocks = np.empty((TOGETHER, BLOCK), dtype=np.float32)
        for first in range(0, count, TOGETHER):
            some = range(first, min(first + TOGETHER, count))
            for row, k in enumerate(some):
                begin = k * kept - edge
                part = signal[max(begin, 0) : begin + BLOCK]
                skipped = max(-begin, 0)
                blocks[row, :skipped] = 0.0
                blocks[row, skipped : skipped + part.size] = part
                blocks[row, skipped + part.size :] = 0.0
            bins[some.start : some.stop] = scipy.fft.rfft(blocks[: len(some)], axis=1)
        return cls(bins=bins, samples=signal.size, sample_rate_hz=sample_rate_hz)

    def baseband(
        self, low_hz: float, high_hz: float, *, colour: FloatArray | None = None
    ) -> tuple[ComplexArray, float]:
        """Complex envelope of the band [shape=(m,)] and its rate [Hz]; its phase jumps from block to block.

        Parameters
        ----------
        colour : of the noise, to make it as strong in every part of the band: what is short and wide then stands out
            wherever in the band it rings (whitening before detection: Van Trees, Detection, Estimation, and Modulation
            Theory, part I, section 4.3)
        """
        resolution = self.sample_rate_hz / BLOCK
        first, last = int(low_hz / resolution), min(int(high_hz / resolution), self.bins.shape[1])
        edge = int(scipy.fft.next_fast_len(-(-(last - first) // EDGES)))
        width = edge * EDGES
        part = np.zeros((self.bins.shape[0], width), dtype=self.bins.dtype)
        weights = _flanks(last - first)
        if colour is not None:
            weights = weights * _whitening(colour, first, last)
        np.multiply(self.bins[:, first:last], weights, out=part[:, : last - first])
        out = scipy.fft.ifft(part, axis=1, overwrite_x=True)[:, edge:-edge].ravel()
        out *= np.float32(2.0 * width / BLOCK)
        rate = width * resolution
        return out[: int(self.samples / self.sample_rate_hz * rate)], rate

    def colour(self, *, up_to_hz: float) -> FloatArray:
        """Power of the noise in steps of `COLOUR_BINS`, from zero on [shape=(steps,)]."""
        steps = min(self.bins.shape[1], int(up_to_hz * BLOCK / self.sample_rate_hz)) // COLOUR_BINS + 1
        steps = min(steps, self.bins.shape[1] // COLOUR_BINS)
        part = self.bins[:, : steps * COLOUR_BINS].view(np.float32).reshape(-1, steps, 2 * COLOUR_BINS)
        power = np.einsum("bsk,bsk->bs", part, part)
        colour = np.quantile(power, QUIET_SHARE, axis=0)
        return np.asarray(np.maximum(colour, 1e-30))


class SoundSections:
    """A recording in sections of a minute that overlap by half a second; the last one transformed is kept.

    Whoever goes through a recording of up to a minute after another finds its transform made, and memory does not grow
    with the recording.
    """

    def __init__(self, audio: AudioSignal, *, start_s: float) -> None:
        self.rate_hz = audio.sample_rate_hz
        self.length = int(SECTION_S * self.rate_hz)
        self._audio, self._start_s = audio, start_s
        self._overlap = int(OVERLAP_S * self.rate_hz)
        self._kept: tuple[int, SectionSpectrum] | None = None

    @property
    def count(self) -> int:
        return max(1, -(-(self._audio.samples.size - self._overlap) // self.length))

    def span_s(self, k: int) -> tuple[float, float]:
        """Begin and end of a section on the run's clock [s]."""
        begin = k * self.length
        end = min(begin + self.length + self._overlap, self._audio.samples.size)
        return self._start_s + begin / self.rate_hz, self._start_s + end / self.rate_hz

    def spectrum(self, k: int) -> SectionSpectrum:
        if self._kept is None or self._kept[0] != k:
            part = self._audio.samples[k * self.length : (k + 1) * self.length + self._overlap]
            self._kept = (k, SectionSpectrum.of(part, sample_rate_hz=self.rate_hz))
        return self._kept[1]


def _whitening(colour: FloatArray, first: int, last: int) -> FloatArray:
    """Weights that make noise of a colour white in a range of bins, their mean square one [shape=(bins,), float32]."""
    middles = (np.arange(colour.size) + 0.5) * COLOUR_BINS
    noise = np.interp(np.arange(first, last), middles, colour)
    weights = 1.0 / np.sqrt(np.maximum(noise, EMPTY_SHARE * float(noise.max())))
    return np.asarray(weights / np.sqrt(np.mean(weights**2)), dtype=np.float32)


def _flanks(count: int) -> FloatArray:
    edge = max(1, count // 10)
    taper = np.ones(count, dtype=np.float32)
    ramp = (0.5 - 0.5 * np.cos(np.pi * (np.arange(edge) + 0.5) / edge)).astype(np.float32)
    taper[:edge] = ramp
    taper[-edge:] = ramp[::-1]
    return taper


def resample_to_angle(values: FloatArray, *, value_rate_hz: float, start_s: float, grid_s: FloatArray) -> FloatArray:
    """Mean of `values` in every cell of an angle grid: integrates, so nothing folds back.

    Parameters
    ----------
    grid_s : array [shape=(k + 1,), s], when the borders of the cells pass

    Returns
    -------
    cells : array [shape=(k,)]
    """
    position = np.clip((grid_s - start_s) * value_rate_hz, 0, values.size)
    index = np.minimum(position.astype(np.intp), values.size - 1)
    # Whole values between the borders, and the shares of those that a border cuts; an empty slice would give its first.
    whole = np.add.reduceat(values, index)[:-1]
    whole[index[1:] == index[:-1]] = 0.0
    cut = (position - index) * values[index]
    width = np.maximum(np.diff(position), 1e-6)
    return np.asarray((whole + np.diff(cut)) / width, dtype=np.float32)
