"""A push and its dying swing: frequency, damping ratio, and friction that does not depend on speed.

Successive half-swings of a mass with viscous damping and Coulomb friction obey A[k+1] = a·A[k] - b: the factor gives
the damping ratio by the logarithmic decrement, a = exp(-pi·z/sqrt(1-z²)), the subtracted part the friction (Feeny &
Liang, J. Sound Vib. 195(1), 1996, pp. 149-154).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.dsp import EvenAcceleration
from eager_ear.core.units import FloatArray

# From a heavy group on soft rods to a small one on stiff dampers.
SWING_RANGE_HZ = (0.8, 9.0)
# Two parameters, and two more to tell scatter.
FEWEST_HALF_SWINGS = 4
# A half swing lower than this cannot be told from a footstep.
NOISE_FACTOR = 4.0


@dataclass(frozen=True, kw_only=True)
class BounceDecay:
    """One push. `friction_share`: loss by friction in the first half-swing over all loss in it, 0 to 1."""

    rate_hz: float
    damping_ratio: float
    damping_sigma: float
    friction_share: float
    swings: float
    axis: str


def measure_bounce(acceleration: EvenAcceleration) -> BounceDecay:
    """Damping from one recorded push, in the axis that swings most.

    Raises
    ------
    NotMeasurable
        No swing, or fewer than four half-swings above the noise.
    """
    row = int(np.argmax(acceleration.axes_m_s2.std(axis=1)))
    rate = acceleration.sample_rate_hz
    band = (SWING_RANGE_HZ[0] * 0.6, min(2.0 * SWING_RANGE_HZ[1], 0.45 * rate))
    signal = scipy.signal.sosfiltfilt(
        scipy.signal.butter(2, band, "band", fs=rate, output="sos"), acceleration.axes_m_s2[row]
    )
    start = int(np.argmax(np.abs(signal)))
    rest = signal[start:]
    if rest.size < 2.0 * rate:
        raise NotMeasurable(quantity="bounce", reason="less than two seconds were recorded after the push.")
    noise = float(np.median(np.abs(rest[-int(rest.size // 4) :]))) * 1.4826
    swing_hz = _swing_rate(rest, rate)
    smooth = scipy.signal.sosfiltfilt(
        scipy.signal.butter(2, min(3.0 * swing_hz, 0.45 * rate), fs=rate, output="sos"), rest
    )
    peaks = _half_swings(smooth, distance=max(1, int(0.3 * rate / swing_hz)), least=NOISE_FACTOR * noise)
    if peaks.size < FEWEST_HALF_SWINGS:
        raise NotMeasurable(
            quantity="bounce", reason="the push dies within two swings, or hardly rises from the noise."
        )
    factor, friction, sigma = _recursion(peaks)
    decrement = -np.log(np.clip(factor, 1e-3, 0.999))
    ratio = decrement / np.hypot(np.pi, decrement)
    lost = max(float(peaks[0] - peaks[1]), 1e-12)
    return BounceDecay(
        rate_hz=swing_hz / float(np.sqrt(max(1.0 - ratio**2, 0.05))),
        damping_ratio=float(ratio),
        damping_sigma=float(sigma / max(factor, 1e-3) / np.pi),
        friction_share=float(np.clip(friction / lost, 0.0, 1.0)),
        swings=0.5 * peaks.size,
        axis=acceleration.axis_names[row],
    )


def _swing_rate(rest: FloatArray, rate: float) -> float:
    padded = int(2 ** np.ceil(np.log2(rest.size * 4)))
    spectrum = np.abs(np.fft.rfft(rest * np.exp(-np.arange(rest.size) / (1.5 * rate)), padded))
    frequency = np.fft.rfftfreq(padded, 1.0 / rate)
    inside = (frequency > SWING_RANGE_HZ[0]) & (frequency < SWING_RANGE_HZ[1])
    return float(frequency[inside][np.argmax(spectrum[inside])])


def _half_swings(signal: FloatArray, *, distance: int, least: float) -> FloatArray:
    """Heights of successive extremes until they sink below `least`; the first, bent by the push, is left out."""
    peaks, _ = scipy.signal.find_peaks(np.abs(signal), distance=distance)
    heights = np.abs(signal[peaks])[1:]
    below = np.flatnonzero(heights < least)
    return np.asarray(heights[: below[0]] if below.size else heights)


def _recursion(peaks: FloatArray) -> tuple[float, float, float]:
    """Factor, subtracted part (not negative) and the factor's standard error, by least squares."""
    x, y = peaks[:-1], peaks[1:]
    design = np.stack([x, -np.ones_like(x)], axis=1)
    (factor, friction), *_ = np.linalg.lstsq(design, y, rcond=None)
    if friction < 0 or peaks.size < FEWEST_HALF_SWINGS + 2:
        factor, friction = float(x @ y / (x @ x)), 0.0
        residual = y - factor * x
        variance = float(residual @ residual) / max(y.size - 1, 1) / float(x @ x)
    else:
        residual = y - design @ np.array([factor, friction])
        variance = float(np.linalg.inv(design.T @ design)[0, 0] * (residual @ residual) / max(y.size - 2, 1))
    return float(factor), float(friction), float(np.sqrt(max(variance, 1e-8)))
