"""What resonances between drum and sensor do to the apparent speed, taken out.

A resonance delays what is seen: while the speed changes by c Hz a second, a group delay g shifts the apparent rate by
-c·g. The delay follows from the measured amplitude alone (Bode's gain-phase relation for minimum-phase systems; Bendat
& Piersol, Random Data, 4th ed., section 13.1).
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import scipy

from eager_ear.core.signals.angle import OncePerTurn, SpeedTrack, smooth_known
from eager_ear.core.units import FloatArray

# Logarithmic steepness of cabinet motion over force, far below and far above all resonances: a case on its feet follows
# a held force with the square of the rate; above, springs hold ever less (-2), dampers a little more (-1).
STEEPNESS_BELOW = 2.0
STEEPNESS_ABOVE = -1.5
BEYOND_NATS = 3.0


def without_delay(track: SpeedTrack, seen: OncePerTurn) -> SpeedTrack:
    """Add back what the resonances' group delay took from the rate while it changed."""
    slope = np.gradient(scipy.ndimage.gaussian_filter1d(track.rate_hz, 2.0), track.t_s)
    weight, total = np.zeros(track.t_s.size), np.zeros(track.t_s.size)
    told = np.interp(track.t_s, seen.t_s, np.isfinite(seen.noise)) > 0.99
    for row in seen.base:
        at_frames = told * np.interp(track.t_s, seen.t_s, np.abs(row))
        delay = _group_delay_s(track, at_frames)
        weight += at_frames**2
        total += at_frames**2 * delay
    delay_s = total / np.maximum(weight, 1e-30)
    shift = np.clip(slope * delay_s, -0.15 * track.rate_hz, 0.15 * track.rate_hz)
    rate_hz = np.where(track.known, track.rate_hz + shift, track.rate_hz)
    # As uncertain as it is large: its error does not average out along the passage as that of single readings does.
    return replace(
        track, rate_hz=smooth_known(rate_hz, track), sigma_hz=np.hypot(track.sigma_hz, np.abs(slope * delay_s))
    )


def _group_delay_s(track: SpeedTrack, amplitude: FloatArray) -> FloatArray:
    """Delay of a minimum-phase path with that amplitude, at the track's frames [shape=(frames,), s].

    Force grows with the square of the rate, so what the path does is amplitude over rate squared. Its logarithm over
    the logarithm of the rate gives the phase by Bode's integral, the phase's slope the delay. What the integral needs
    from beyond the rates seen is what any mass on springs does there.
    """
    use = track.known & (amplitude > 0)
    if use.sum() < 24:
        return np.zeros(track.t_s.size)
    x = np.log(track.rate_hz[use])
    y = np.log(amplitude[use]) - 2.0 * x
    grid = np.arange(x.min(), x.max() + 0.02, 0.02)
    if grid.size < 24:
        return np.zeros(track.t_s.size)
    which = np.clip(np.rint((x - grid[0]) / 0.02).astype(int), 0, grid.size - 1)
    count = np.bincount(which, minlength=grid.size)
    mean = np.bincount(which, weights=y, minlength=grid.size) / np.maximum(count, 1)
    gain = scipy.ndimage.gaussian_filter1d(np.interp(grid, grid[count > 0], mean[count > 0]), 2.0, mode="nearest")
    beyond = int(BEYOND_NATS / 0.02)
    ends = np.full(beyond, STEEPNESS_BELOW), np.full(beyond, STEEPNESS_ABOVE)
    steepness = np.concatenate([ends[0], np.gradient(gain, 0.02), ends[1]])
    # Weight ln coth |u/2| of Bode's relation, its pole at zero integrated in closed form over one cell.
    u = np.abs(0.02 * np.arange(-2 * beyond, 2 * beyond + 1))
    kernel = np.log(1.0 / np.tanh(np.maximum(u, 0.005) / 2.0))
    kernel[2 * beyond] = 1.0 + np.log(2.0 / 0.01)
    phase = scipy.signal.fftconvolve(steepness, kernel, mode="same")[beyond:-beyond] * 0.02 / np.pi
    slope = np.gradient(scipy.ndimage.gaussian_filter1d(phase, 2.0), 0.02)
    delay = -slope / (2 * np.pi * np.exp(grid))
    return np.asarray(np.interp(np.log(np.maximum(track.rate_hz, 0.1)), grid, delay))
