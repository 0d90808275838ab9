"""Amplitudes at multiples of the drum's rate, against time and speed.

Order tracking by demodulation with the drum's own angle: each axis is turned back by k revolutions and averaged
over a Hann window of several turns (a Vold-Kalman filter's single-order limit; Brandt, Noise and Vibration
Analysis, chapter 12). Displacement is acceleration over the squared angular rate.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy

from eager_ear.core.signals.angle.track import SpeedTrack
from eager_ear.core.signals.dsp import EvenAcceleration, blocks_of, hann, line_over_speed, turned_back
from eager_ear.core.units import BoolArray, ComplexArray, FloatArray

# Once a turn tells imbalance, twice a bent or oval part; from four on the cabinet's own modes answer.
ORDERS = (1, 2, 3)
# Long enough to keep neighbouring orders apart from 2.5 Hz up, short enough to follow a run-up through resonance.
WINDOW_S = 0.8
# Of the order map: a window of a few turns shows no finer one.
ORDER_STEP = 0.125


@dataclass(frozen=True, kw_only=True)
class OrderCurves:
    """Complex acceleration amplitudes on the track's clock.

    known, followed : array [shape=(n,), bool], where the speed is known, and where it is at least loosely followed
    amplitude_m_s2 : array [shape=(axes, orders, n), complex, peak]
    noise_m_s2 : array [shape=(axes,)], amplitude that noise alone would show
    """

    t_s: FloatArray
    rate_hz: FloatArray
    known: BoolArray
    followed: BoolArray
    amplitude_m_s2: ComplexArray
    noise_m_s2: FloatArray
    axis_names: tuple[str, ...]

    def displacement_mm(self, order: int) -> FloatArray:
        """Peak displacement [shape=(axes, n), mm] at that order."""
        omega = 2 * np.pi * order * np.maximum(self.rate_hz, 0.3)
        return np.asarray(1000.0 * np.abs(self.amplitude_m_s2[:, ORDERS.index(order)]) / omega**2)

    def significant(self, order: int) -> BoolArray:
        """Where the order stands at least threefold above the noise in any axis [shape=(n,), bool]."""
        strength = np.abs(self.amplitude_m_s2[:, ORDERS.index(order)]) / self.noise_m_s2[:, None]
        return np.asarray(self.known & (strength.max(axis=0) > 3.0))


def order_curves(acceleration: EvenAcceleration, *, track: SpeedTrack) -> OrderCurves:
    """Follow 1x, 2x and 3x through the run."""
    t_s = acceleration.t_s
    window = hann(int(WINDOW_S * acceleration.sample_rate_hz))
    out = np.stack([_demodulated(acceleration, acceleration.axes_m_s2, k, track, window) for k in ORDERS], axis=1)
    covered = (track.t_s >= t_s[0]) & (track.t_s <= t_s[-1])
    return OrderCurves(
        t_s=track.t_s,
        rate_hz=track.rate_hz,
        known=track.known & covered,
        followed=track.followed & covered,
        amplitude_m_s2=out,
        noise_m_s2=_noise_amplitude(acceleration.axes_m_s2, window),
        axis_names=acceleration.axis_names,
    )


def _demodulated(
    acceleration: EvenAcceleration, rows: FloatArray, order: float, track: SpeedTrack, window: FloatArray
) -> ComplexArray:
    """Complex peak amplitude of some rows at one order on the track's clock [shape=(rows, frames), complex64]."""
    carrier = turned_back(order * track.turns_at(acceleration.t_s))
    return _windowed(acceleration, rows.astype(np.float32, copy=False) * carrier, track, window)


def _windowed(
    acceleration: EvenAcceleration, turned: ComplexArray, track: SpeedTrack, window: FloatArray
) -> ComplexArray:
    """Rows that were turned back, averaged round every moment of the track [shape=(rows, frames), complex64]."""
    t_s, reach = acceleration.t_s, window.size // 2
    middles = np.clip(np.rint((track.t_s - t_s[0]) * acceleration.sample_rate_hz).astype(int), 0, t_s.size - 1)
    padded = np.pad(turned, ((0, 0), (reach, reach)))
    windows = np.lib.stride_tricks.sliding_window_view(padded, window.size, axis=1)
    out = np.empty((turned.shape[0], middles.size), dtype=np.complex64)
    for block in blocks_of(middles.size):
        out[:, block] = windows[:, middles[block]] @ (2.0 * window).astype(np.complex64)
    return out


def _noise_amplitude(axes: FloatArray, window: FloatArray) -> FloatArray:
    """Amplitude of white noise after the window, from the quietest tenth of the differenced signal."""
    rough = np.diff(axes, axis=1) / np.sqrt(2.0)
    block = max(8, rough.shape[1] // 200)
    count = rough.shape[1] // block
    power = np.square(rough[:, : count * block]).reshape(axes.shape[0], count, block).mean(axis=2)
    return np.asarray(2.0 * np.sqrt(np.percentile(power, 10, axis=1) * np.sum(window**2)) + 1e-9)


@dataclass(frozen=True, kw_only=True)
class GrowthFit:
    """How 1x displacement grows with speed above the critical speed: exponent of a power law and its error."""

    exponent: float
    sigma: float


def growth_above(curves: OrderCurves, *, from_hz: float) -> GrowthFit | None:
    """Slope of log displacement over log speed from `from_hz` upwards, largest axis; None with too little range."""
    use = curves.significant(1) & (curves.rate_hz > from_hz)
    if use.sum() < 16 or np.ptp(np.log(curves.rate_hz[use])) < np.log(1.3):
        return None
    displacement = curves.displacement_mm(1)[:, use]
    axis = int(np.argmax(np.median(displacement, axis=1)))
    line = line_over_speed(curves.rate_hz[use], np.log(displacement[axis]), bins=12)
    return None if line is None else GrowthFit(exponent=line[0], sigma=line[1])


def order_map(acceleration: EvenAcceleration, *, track: SpeedTrack, order_count: int = 40) -> FloatArray:
    """Order amplitudes up to fifth order on the track's clock, for display [shape=(n, order_count), m/s²].

    Column j is order ORDER_STEP·(j + 1).
    """
    window = hann(int(WINDOW_S * acceleration.sample_rate_hz))
    strongest = acceleration.axes_m_s2[int(np.argmax(acceleration.axes_m_s2.std(axis=1)))][None]
    out = np.empty((track.t_s.size, order_count), dtype=np.float32)
    turned, back = strongest.astype(np.complex64), turned_back(ORDER_STEP * track.turns_at(acceleration.t_s))
    for j in range(order_count):
        # Turned back by one step more each time, which is quicker than a carrier for every order.
        turned *= back
        out[:, j] = np.abs(_windowed(acceleration, turned, track, window)[0])
    out[~track.known] = np.nan
    return np.asarray(scipy.ndimage.gaussian_filter1d(out, 0.4, axis=1))
