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
from eager_ear.core.signals.once_per_turn import OncePerTurn, hann
from eager_ear.core.signals.order_families import OrderFamily
from eager_ear.core.signals.speed_path import known_spans
from eager_ear.core.signals.speed_track import FRAME_STEP_S, LOWEST_HZ, SpeedTrack
from eager_ear.core.units import ComplexArray, FloatArray, IntArray, Span

BANDWIDTHS_HZ = (2.0, 1.2, 0.8)
LEAST_SNR = 6.0
MOST_TONES = 4
LOWEST_TONE_RATE_HZ = 0.5
SWELLING_S = 1.0
# A belt's creep follows its load: a motor's line tells the drum's rate only this well while the speed changes.
CREEP_SHARE = 0.002
STEADY_HZ_S = 0.15
FEWEST_FRAMES = 8
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

    def seen(track: SpeedTrack, bandwidth_hz: float) -> OncePerTurn:
        return OncePerTurn.of(
            track,
            acceleration.axes_m_s2,
            rate_hz=acceleration.sample_rate_hz,
            start_s=acceleration.start_s,
            bandwidth_hz=bandwidth_hz,
            spoilt_s=spoilt_s,
        )

    for bandwidth_hz, reach in zip(BANDWIDTHS_HZ, (0.3, 0.15, 0.1), strict=True):
        track = _applied(track, [_turn_correction(track, seen(track, bandwidth_hz))], reach=reach)
    return _without_delay(track, seen(track, BANDWIDTHS_HZ[-1]))


def refine_by_swelling(track: SpeedTrack, low: LowBand, *, clock_sigma_s: float | None = None) -> SpeedTrack:
    """Correct the rate by the phase of what the sound does once per turn: its noise swells, its lowest tone.

    Neither a motor's slip nor a resonance bends it, but it is fainter than a motor's tones.

    Parameters
    ----------
    clock_sigma_s : how well the sound's clock is known against that of the vibration which the track rests on; None
        where the track rests on sound
    """
    slope = np.abs(np.gradient(ndimage.gaussian_filter1d(track.rate_hz, 3.0), track.t_s))
    slow, slow_rate_hz = low.slow
    smooth = ndimage.uniform_filter1d(low.level_nats, int(SWELLING_S * low.level_rate_hz))
    passes = list(zip(BANDWIDTHS_HZ, (0.1, 0.06, 0.04), strict=True))
    for bandwidth_hz, reach in passes if clock_sigma_s is None else passes[-1:]:
        corrections = [] if clock_sigma_s is None else [_vibrationless(track)]
        for row, rate_hz in ((low.level_nats - smooth, low.level_rate_hz), (slow, slow_rate_hz)):
            seen = OncePerTurn.of(
                track, row[None], rate_hz=rate_hz, start_s=low.start_s, bandwidth_hz=bandwidth_hz, spoilt_s=()
            )
            found = _turn_correction(track, seen)
            sigma_hz = np.hypot(found.sigma_hz, slope * (clock_sigma_s or 0.0))
            corrections.append(_Correction(error_hz=found.error_hz, sigma_hz=sigma_hz))
        track = _applied(track, corrections, reach=reach)
    return track


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
    # A belt creeps while it pulls, little while the speed is held, and the other way round in the coast-down.
    rising = np.gradient(ndimage.gaussian_filter1d(track.rate_hz, 3.0), track.t_s)
    slope = np.abs(rising)
    regime = np.digitize(rising, (-STEADY_HZ_S, STEADY_HZ_S)) if creeps else np.zeros(track.t_s.size, dtype=int)
    for bandwidth_hz in (12.0, 6.0):
        corrections = [_vibrationless(track)]
        for order in family.orders[:MOST_TONES]:
            found = _tone_correction(track, low, order=float(order), bandwidth_hz=bandwidth_hz)
            creep = CREEP_SHARE * fast * np.minimum(slope / 0.5, 1.0) if creeps else 0.0 * fast
            systematic = np.hypot(creep, slope * clock_sigma_s)
            corrections.append(
                _Correction(
                    error_hz=found.error_hz - _order_error(found, track, regime) * track.rate_hz,
                    sigma_hz=np.hypot(found.sigma_hz, systematic),
                )
            )
        track = _applied(track, corrections, reach=0.03)
    return track


def _order_error(found: _Correction, track: SpeedTrack, regime: IntArray) -> FloatArray:
    """Share by which the order was learnt wrong, in each regime [shape=(frames,)].

    What a line says on average is the track's to know better.
    """
    use = track.known & np.isfinite(found.sigma_hz) & (np.abs(found.error_hz) < 0.03 * track.rate_hz)
    share = np.where(use, found.error_hz / track.rate_hz, 0.0)
    out = np.full(track.t_s.size, float(np.median(share[use])) if use.sum() >= FEWEST_FRAMES else 0.0)
    for which in np.unique(regime):
        inside = use & (regime == which)
        if inside.sum() >= FEWEST_FRAMES:
            out[regime == which] = np.median(share[inside])
    return out


def _vibrationless(track: SpeedTrack) -> _Correction:
    """The track's own say: no error, at the standard error it has already."""
    return _Correction(error_hz=np.zeros(track.t_s.size), sigma_hz=track.sigma_hz)


def _turn_correction(track: SpeedTrack, seen: OncePerTurn) -> _Correction:
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
    window = hann(8)
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


def _without_delay(track: SpeedTrack, seen: OncePerTurn) -> SpeedTrack:
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
