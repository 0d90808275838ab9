"""The speed track sharpened by phase: demodulated lines of vibration and sound turn a little too fast or too slow.

A line at order o of a track whose rate is off by e turns by o·e in its demodulated phase. With a window of T seconds
and a signal-to-noise ratio q in that window, the rate of a steady tone is known to 1.5/(pi²·T²·q) in variance at best
(Cramér-Rao bound for a tone of unknown phase, Rife & Boorstyn, IEEE Trans. Inf. Theory 20(5), 1974, with
q = N·A²/(4·s²)); the estimate here, a phase difference over half a window, comes within a factor of two.

A resonance between drum and sensor delays what is seen: while the speed changes by c Hz a second, a group delay g
shifts the apparent rate by -c·g. The delay follows from the measured amplitude alone (Bode's gain-phase relation for
minimum-phase systems; Bendat & Piersol, Random Data, 4th ed., section 13.1), and is taken out.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy import ndimage
from scipy import signal as sps

from eager_ear.core.signals.even_grid import EvenAcceleration
from eager_ear.core.signals.low_band import LowBand
from eager_ear.core.signals.order_families import OrderFamily
from eager_ear.core.signals.speed_path import known_spans
from eager_ear.core.signals.speed_track import FRAME_STEP_S, LOWEST_HZ, SpeedTrack
from eager_ear.core.units import ComplexArray, FloatArray, Span

BANDWIDTHS_HZ = (2.0, 1.2, 0.8)
# How much must be left of a window that lies in spoilt stretches, or cannot tell a line from its mirror image.
LEAST_TOLD = 0.4
LEAST_SNR = 6.0
MOST_TONES = 4
LOWEST_TONE_RATE_HZ = 0.5
# A belt's creep follows its load: a motor's line tells the drum's rate only this well while the speed changes.
CREEP_SHARE = 0.002
# Logarithmic steepness of cabinet motion over force, far below and far above all resonances: a case on its feet follows
# a held force with the square of the rate; above, springs hold ever less (-2), dampers a little more (-1).
STEEPNESS_BELOW = 2.0
STEEPNESS_ABOVE = -1.5
BEYOND_NATS = 3.0


@dataclass(frozen=True, kw_only=True)
class _Correction:
    """What one line says about the track's error [shape=(frames,), Hz] with its standard error, inf where nothing."""

    error_hz: FloatArray
    sigma_hz: FloatArray


def refine_by_vibration(
    track: SpeedTrack, acceleration: EvenAcceleration, *, spoilt_s: Sequence[Span] = ()
) -> SpeedTrack:
    """Correct the rate by the phase of the once-per-turn vibration, narrower each time, then take out its delay.

    Parameters
    ----------
    spoilt_s : stretches [s, run's clock] in which the sensor did not show the machine: gaps, and while it slid
    """
    for bandwidth_hz, reach in zip(BANDWIDTHS_HZ, (0.3, 0.15, 0.1), strict=True):
        seen = _OncePerTurn.of(track, acceleration, bandwidth_hz=bandwidth_hz, spoilt_s=spoilt_s)
        track = _applied(track, [_vibration_correction(track, seen)], reach=reach)
    return _without_delay(
        track, _OncePerTurn.of(track, acceleration, bandwidth_hz=BANDWIDTHS_HZ[-1], spoilt_s=spoilt_s)
    )


def refine_by_tones(
    track: SpeedTrack, low: LowBand, family: OrderFamily, *, creeps: bool, clock_sigma_s: float
) -> SpeedTrack:
    """Correct the rate by the strongest lines of the sound.

    Parameters
    ----------
    creeps : a belt lies between motor and drum, so that a motor's line follows the drum only within its creep
    clock_sigma_s : how well the sound's clock is known against the track's
    """
    fast = np.maximum(track.rate_hz, LOWEST_TONE_RATE_HZ)
    slope = np.abs(np.gradient(ndimage.gaussian_filter1d(track.rate_hz, 3.0), track.t_s))
    for bandwidth_hz in (12.0, 6.0):
        corrections = [_vibrationless(track)]
        for order in family.orders[:MOST_TONES]:
            found = _tone_correction(track, low, order=float(order), bandwidth_hz=bandwidth_hz)
            creep = CREEP_SHARE * fast * np.minimum(slope / 0.5, 1.0) if creeps else 0.0 * fast
            systematic = np.hypot(creep, slope * clock_sigma_s)
            corrections.append(
                _Correction(
                    error_hz=found.error_hz - _order_error(found, track) * track.rate_hz,
                    sigma_hz=np.hypot(found.sigma_hz, systematic),
                )
            )
        track = _applied(track, corrections, reach=0.03)
    return track


def _order_error(found: _Correction, track: SpeedTrack) -> float:
    """Share by which the order was learnt wrong: what the line says on average is the track's to know better."""
    use = track.known & np.isfinite(found.sigma_hz) & (np.abs(found.error_hz) < 0.03 * track.rate_hz)
    return float(np.median(found.error_hz[use] / track.rate_hz[use])) if use.sum() >= 8 else 0.0


def _vibrationless(track: SpeedTrack) -> _Correction:
    """The track's own say: no error, at the standard error it has already."""
    return _Correction(error_hz=np.zeros(track.t_s.size), sigma_hz=track.sigma_hz)


@dataclass(frozen=True, kw_only=True)
class _OncePerTurn:
    """Vibration turned back by the drum's angle and averaged over a window.

    The fit of cosine and sine of the drum's angle over each window, by least squares: a real line has a mirror image at
    the negative rate, which lies within the window where the drum turns slowly and where the sampling folds it back.

    base : array [shape=(axes, values), complex] at `t_s`, `step_s` apart; `reach` values are half a window
    noise : array [shape=(values,)], power that the sensor's noise alone shows in all axes together, inf where the
        window cannot tell
    """

    t_s: FloatArray
    step_s: float
    base: ComplexArray
    reach: int
    noise: FloatArray

    @classmethod
    def of(
        cls, track: SpeedTrack, acceleration: EvenAcceleration, *, bandwidth_hz: float, spoilt_s: Sequence[Span]
    ) -> _OncePerTurn:
        """Means over an eighth of the window come first, so that the window works on few values."""
        rate = acceleration.sample_rate_hz
        block = max(1, int(rate / (8.0 * bandwidth_hz)))
        count = acceleration.axes_m_s2.shape[1] // block
        axes, t_s = acceleration.axes_m_s2[:, : count * block], acceleration.t_s[: count * block]
        good = np.ones(t_s.size, dtype=np.complex64)
        for begin, end in spoilt_s:
            good[(t_s > begin) & (t_s < end)] = 0.0
        turn_back = good * np.exp(-2j * np.pi * track.turns_at(t_s)).astype(np.complex64)
        window = _hann(max(5, int(rate / block / bandwidth_hz)))

        def averaged(values: ComplexArray) -> ComplexArray:
            means = sum((values[k::block] for k in range(1, block)), start=values[::block]) / block
            return np.asarray(np.convolve(means, window, mode="same"))

        seen, mirrored = averaged(good).real, averaged(turn_back**2)
        told = seen**2 - np.abs(mirrored) ** 2
        clear = told > LEAST_TOLD
        share = np.where(clear, told, 1.0)
        rows = np.stack([averaged(row * turn_back) for row in axes])
        rough = np.percentile(np.square(np.diff(axes, axis=1)), 20, axis=1).sum() / 0.128 / 2.0
        return cls(
            t_s=t_s[::block] + 0.5 * (block - 1) / rate,
            step_s=block / rate,
            base=np.where(clear, (seen * rows - mirrored * np.conj(rows)) / share, 0.0),
            reach=window.size // 2,
            noise=np.where(clear, float(rough) * float(np.sum(window**2)) / block * seen / share, np.inf),
        )


def _hann(length: int) -> FloatArray:
    """Window of odd length, so that it has a middle sample, with the sum one."""
    window = np.hanning((length | 1) + 2)[1:-1].astype(np.float32)
    return np.asarray(window / window.sum())


def _vibration_correction(track: SpeedTrack, seen: _OncePerTurn) -> _Correction:
    base, lag = seen.base, seen.reach
    product = (base[:, lag:] * np.conj(base[:, :-lag])).sum(axis=0)
    power = np.square(np.abs(base)).sum(axis=0)
    middle_s = 0.5 * (seen.t_s[lag:] + seen.t_s[:-lag])
    noise = np.maximum(seen.noise[lag:], seen.noise[:-lag])
    return _from_product(track, product, power[lag // 2 :], noise, middle_s, lag_s=lag * seen.step_s, order=1.0)


def _tone_correction(track: SpeedTrack, low: LowBand, *, order: float, bandwidth_hz: float) -> _Correction:
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
    window = _hann(8)
    base = np.convolve(sums, window, mode="same")
    # The floor beside the line: the same window two bandwidths off the order.
    beside = np.convolve(sums * np.exp(2j * np.pi * np.arange(count) / 4.0), window, mode="same")
    lag = 4
    product = base[lag:] * np.conj(base[:-lag])
    noise = np.full(product.size, float(np.median(np.abs(beside) ** 2)) / np.log(2.0))
    times = low.start_s + (np.arange(count) + 0.5) * block / rate
    middle_s = 0.5 * (times[lag:] + times[:-lag])
    power = np.abs(base[lag // 2 :]) ** 2
    return _from_product(track, product, power, noise, middle_s, lag_s=lag * block / rate, order=order)


def _from_product(
    track: SpeedTrack,
    product: ComplexArray,
    power: FloatArray,
    noise: FloatArray,
    middle_s: FloatArray,
    *,
    lag_s: float,
    order: float,
) -> _Correction:
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
    return _Correction(error_hz=error, sigma_hz=np.where(clear, sigma, np.inf))


def _applied(track: SpeedTrack, corrections: list[_Correction], *, reach: float) -> SpeedTrack:
    """Weighted mean of all corrections that lie within `reach` of the rate."""
    weight = np.zeros(track.t_s.size)
    total = np.zeros(track.t_s.size)
    for correction in corrections:
        fits = np.abs(correction.error_hz) < reach * track.rate_hz
        w = np.where(fits & np.isfinite(correction.sigma_hz), 1.0 / np.maximum(correction.sigma_hz, 1e-6) ** 2, 0.0)
        weight += w
        total += w * correction.error_hz
    told = track.known & (weight > 0)
    rate = np.where(told, track.rate_hz + total / np.maximum(weight, 1e-30), track.rate_hz)
    sigma = np.where(told, 1.0 / np.sqrt(np.maximum(weight, 1e-30)), track.sigma_hz)
    return _with_rate(track, smooth_known(rate, track), np.minimum(sigma, track.sigma_hz))


def _with_rate(track: SpeedTrack, rate_hz: FloatArray, sigma_hz: FloatArray) -> SpeedTrack:
    return SpeedTrack(t_s=track.t_s, rate_hz=rate_hz, known=track.known, sigma_hz=sigma_hz, source=track.source)


def smooth_known(rate_hz: FloatArray, track: SpeedTrack) -> FloatArray:
    """Local parabolas over seven frames of every known stretch."""
    out = rate_hz.copy()
    for span in known_spans(track.known):
        if span.size >= 7:
            # A parabola may swing below zero where the drum comes to rest.
            out[span] = np.maximum(sps.savgol_filter(rate_hz[span], 7, 2, mode="interp"), 0.5 * LOWEST_HZ)
    return out


def _without_delay(track: SpeedTrack, seen: _OncePerTurn) -> SpeedTrack:
    """Add back what the resonances' group delay took from the rate while it changed."""
    slope = np.gradient(ndimage.gaussian_filter1d(track.rate_hz, 2.0), track.t_s)
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
    return _with_rate(track, smooth_known(rate_hz, track), np.hypot(track.sigma_hz, np.abs(slope * delay_s)))


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
    gain = ndimage.gaussian_filter1d(np.interp(grid, grid[count > 0], mean[count > 0]), 2.0, mode="nearest")
    beyond = int(BEYOND_NATS / 0.02)
    ends = np.full(beyond, STEEPNESS_BELOW), np.full(beyond, STEEPNESS_ABOVE)
    steepness = np.concatenate([ends[0], np.gradient(gain, 0.02), ends[1]])
    # Weight ln coth |u/2| of Bode's relation, its pole at zero integrated in closed form over one cell.
    u = np.abs(0.02 * np.arange(-2 * beyond, 2 * beyond + 1))
    kernel = np.log(1.0 / np.tanh(np.maximum(u, 0.005) / 2.0))
    kernel[2 * beyond] = 1.0 + np.log(2.0 / 0.01)
    phase = sps.fftconvolve(steepness, kernel, mode="same")[beyond:-beyond] * 0.02 / np.pi
    slope = np.gradient(ndimage.gaussian_filter1d(phase, 2.0), 0.02)
    delay = -slope / (2 * np.pi * np.exp(grid))
    return np.asarray(np.interp(np.log(np.maximum(track.rate_hz, 0.1)), grid, delay))
