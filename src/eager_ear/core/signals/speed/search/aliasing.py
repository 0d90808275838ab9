"""Which of a rate and its alias a slow sensor saw, told by the unevenness of its samples.

Sampled evenly, a drum faster than half the sensor's rate cannot be told from a slower one. Phones do not sample
evenly: their stamps scatter by a millisecond or several. A sinusoid of the true rate fits the samples at the times
at which they were taken, its alias only at the times at which they should have been (Bretthorst, "Nonuniform
sampling: bandwidth and aliasing", Concepts in Magnetic Resonance 32A(6), 2008, pp. 417-435).
"""

from __future__ import annotations

import numpy as np
import scipy

from eager_ear.core.signals.angle import FRAME_STEP_S, known_spans
from eager_ear.core.signals.gates import gate
from eager_ear.core.signals.types import AccelerationSignal
from eager_ear.core.units import BoolArray, FloatArray

# As long as a line must stand to be told from its alias.
BLOCK_S = 1.5
# Fewer make no spectrum.
FEWEST_SAMPLES = 16
# Nearer than this to half the rate a line and its image are one.
APART_HZ = 0.4
# How far rate and slope may lie off the path [Hz, Hz/s].
RATE_STEPS_HZ = np.arange(-0.3, 0.31, 0.1)
SLOPE_STEPS_HZ_S = np.array([-0.5, 0.0, 0.5])
# Blocks in a row are judged together, and so is a whole stretch on one side of half the rate. The better of two maxima
# over noise scatters by so much a block (2300 blocks of noise); real images are told by tens to hundreds.
NOISE_NATS = 2.4
CLEAR_SIGMAS = 5.0
TOGETHER_BLOCKS = 5


@gate("alias", harmless=lambda *_, known, **__: np.zeros_like(known))
def aliased(
    signal: AccelerationSignal, *, start_s: float, t_s: FloatArray, rate_hz: FloatArray, known: BoolArray
) -> BoolArray:
    """Moments at which the samples fit the alias of a rate clearly better than the rate [shape like `t_s`].

    Parameters
    ----------
    signal, start_s : as stamped by the sensor, and its time zero on the run's clock
    rate_hz, known : a path through the run, and where it claims to be the drum's [shape like `t_s`], on an even clock
    """
    frames = int(round(BLOCK_S / FRAME_STEP_S))
    blocks = [slice(k, k + frames) for k in range(0, t_s.size - frames + 1, frames)]
    nats = np.array([_nats(signal, start_s, t_s[b], rate_hz[b]) if known[b].all() else 0.0 for b in blocks])
    alone = nats / NOISE_NATS
    beside = scipy.ndimage.uniform_filter1d(alone, TOGETHER_BLOCKS, mode="constant") * np.sqrt(TOGETHER_BLOCKS)
    out = np.zeros(t_s.size, dtype=bool)
    for one_side in known_spans(known & (rate_hz < 0.5 * signal.sample_rate_hz)) + known_spans(
        known & (rate_hz > 0.5 * signal.sample_rate_hz)
    ):
        inside = [k for k, b in enumerate(blocks) if one_side[0] <= b.start and b.stop <= one_side[-1] + 1]
        if not inside:
            continue
        out[one_side] = alone[inside].sum() / np.sqrt(len(inside)) < -CLEAR_SIGMAS
        for k in inside:
            # What a block tells clearly, alone or with those beside it, is not overruled by the rest of the stretch.
            told = next((z for z in (alone[k], beside[k]) if abs(z) > CLEAR_SIGMAS), None)
            if told is not None:
                out[blocks[k]] = told < 0.0
    return out


def _nats(signal: AccelerationSignal, start_s: float, t_s: FloatArray, rate_hz: FloatArray) -> float:
    """Log likelihood ratio of a rate against its alias over one block, noise unknown; 0.0 where neither can be.

    Each of them as a sinusoid of its own amplitude and phase in every axis beside a straight line.
    """
    middle_s = 0.5 * float(t_s[0] + t_s[-1])
    slope, rate = np.polyfit(t_s - middle_s, rate_hz, 1)
    inside = slice(*np.searchsorted(signal.t_s + start_s, [t_s[0], t_s[-1]]))
    sensor_hz = signal.sample_rate_hz
    if signal.t_s[inside].size < FEWEST_SAMPLES or abs(rate - 0.5 * sensor_hz) < APART_HZ or rate > sensor_hz:
        return 0.0
    times_s = signal.t_s[inside] + start_s - middle_s
    line = np.stack([np.ones_like(times_s), times_s])
    axes = _without(signal.axes_m_s2[list(signal.present), inside], line)
    axes = axes[np.square(axes).sum(axis=1) > 0.0]
    left = [_left_nats(axes, times_s, line, f, s) for f, s in ((rate, slope), (sensor_hz - rate, -slope))]
    return left[1] - left[0]


def _without(rows: FloatArray, line: FloatArray) -> FloatArray:
    q, _ = np.linalg.qr(line.T)
    return np.asarray(rows - (rows @ q) @ q.T)


def _left_nats(axes: FloatArray, times_s: FloatArray, line: FloatArray, rate_hz: float, slope_hz_s: float) -> float:
    """Negative log likelihood of the best sinusoid near a rate and slope, noise of each axis free, less constants."""
    rates, slopes = np.meshgrid(rate_hz + RATE_STEPS_HZ, slope_hz_s + SLOPE_STEPS_HZ_S)
    phase = 2 * np.pi * (rates.reshape(-1, 1) * times_s + 0.5 * slopes.reshape(-1, 1) * times_s**2)
    cos, sin = _without(np.cos(phase), line), _without(np.sin(phase), line)
    cc, ss, cs = (np.einsum("kn,kn->k", a, b)[:, None] for a, b in ((cos, cos), (sin, sin), (cos, sin)))
    cx, sx = cos @ axes.T, sin @ axes.T
    explained = (ss * cx**2 - 2.0 * cs * cx * sx + cc * sx**2) / np.maximum(cc * ss - cs**2, 1e-9)
    total = np.square(axes).sum(axis=1)
    left = np.maximum(total - explained, 1e-9 * total)
    return float(0.5 * times_s.size * np.log(left).sum(axis=1).min())
