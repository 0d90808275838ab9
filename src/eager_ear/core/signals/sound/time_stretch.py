"""Sound made slower at its own pitch: frames laid farther apart, each where it fits the end of the one before.

WSOLA: Verhelst & Roelands, Proc. ICASSP 1993, pp. 554-557. It keeps a tick a tick, which a phase vocoder smears.
"""

from __future__ import annotations

import numpy as np

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.units import FloatArray

# Two periods of 50 Hz, twelve of the lowest tone that a phone gives back.
FRAME_S = 0.04
# As far as a frame may be moved: two periods of the lowest tone that is heard through.
SEARCH_S = 0.012


def slowed_down(samples: FloatArray, *, sample_rate_hz: float, times: float) -> FloatArray:
    """The samples `times` as long, at the same pitch [shape=(about times·n,), float32].

    Parameters
    ----------
    samples : array [shape=(n,)]
    times : float, 1 to 16

    Raises
    ------
    NotMeasurable
        Shorter than two frames.

    >>> tone = np.sin(2 * np.pi * 440.0 * np.arange(8000) / 8000.0).astype(np.float32)
    >>> slowed_down(tone, sample_rate_hz=8000.0, times=3.0).size
    24000
    """
    hop = int(0.5 * FRAME_S * sample_rate_hz)
    frame, reach = 2 * hop, int(SEARCH_S * sample_rate_hz)
    if samples.size < 2 * frame:
        raise NotMeasurable(quantity="slowed sound", reason="the stretch is shorter than a tenth of a second.")
    source = np.pad(samples.astype(np.float32, copy=False), (reach, frame + hop + reach))
    # Raised cosines half a frame apart add up to one.
    window = (0.5 - 0.5 * np.cos(2 * np.pi * (np.arange(frame) + 0.5) / frame)).astype(np.float32)
    count = int(np.ceil(samples.size * times / hop))
    out = np.zeros((count + 1) * hop, dtype=np.float32)
    taken = reach
    for k in range(count):
        wanted = reach + int(min(k * hop / times, samples.size - 1))
        if k > 0:
            # What would have come next, had nothing been moved, is what the next frame has to resemble.
            following = source[min(taken + hop, source.size - frame) :][:frame]
            around = source[wanted - reach : wanted + reach + frame]
            taken = wanted - reach + _most_alike(around, following)
        else:
            taken = wanted
        out[k * hop : k * hop + frame] += window * source[taken : taken + frame]
    return out[: int(round(samples.size * times))]


def _most_alike(around: FloatArray, wanted: FloatArray) -> int:
    """Where in `around` a stretch resembles `wanted` most, by normalised correlation."""
    product = np.correlate(around, wanted, mode="valid")
    energy = np.cumsum(np.concatenate([np.zeros(1), np.square(around, dtype=np.float64)]))
    size = energy[wanted.size :] - energy[: -wanted.size]
    return int(np.argmax(product[: size.size] / np.sqrt(size + 1e-9)))
