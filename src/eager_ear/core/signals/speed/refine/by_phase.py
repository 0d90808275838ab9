"""The speed track sharpened by phase: demodulated lines of vibration and sound turn a little too fast or too slow.

How exactly a line's phase tells the rate stands in `phase_readings`; what a resonance does to it in `group_delay`.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from eager_ear.core.signals.angle import STEADY_HZ_S, OncePerTurn, OrderFamily, SpeedTrack, slope_of, smooth_known
from eager_ear.core.signals.dsp import EvenAcceleration, LowBand
from eager_ear.core.signals.speed.refine.group_delay import without_delay
from eager_ear.core.signals.speed.refine.rate_readings import FRAMES_A_READING, DemodulatedTone, RateReading, read_turns
from eager_ear.core.units import FloatArray, IntArray, Span

# From what the search leaves open to what a steady drum keeps: each half again as narrow.
BANDWIDTHS_HZ = (2.0, 1.2, 0.8)
# A tone is read over a band as wide as its own rate may be off, narrower each time.
TONE_BAND_SHARE = 0.05
TONE_BAND_HZ = (1.5, 12.0)
NARROWER = (1.0, 0.5, 0.25)
TONE_REACH = 0.03
# A slow rate is found on a grid first, and off by up to its step.
TONE_REACH_HZ = 0.12
MOST_TONES = 6
LOWEST_TONE_RATE_HZ = 0.5
# A belt's creep follows its load: a motor's line tells the drum's rate only this well while the speed changes.
CREEP_SHARE = 0.002
FEWEST_FRAMES = 8


def refine_by_vibration(
    track: SpeedTrack, acceleration: EvenAcceleration, *, spoilt_s: Sequence[Span] = (), coarsely: bool = False
) -> SpeedTrack:
    """Correct the rate by the phase of the once-per-turn vibration, narrower each time, then take out its delay.

    Parameters
    ----------
    coarsely : once only, as far as it takes to learn the machine's own orders
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

    for bandwidth_hz, reach in list(zip(BANDWIDTHS_HZ, (0.3, 0.15, 0.1), strict=True))[: 1 if coarsely else None]:
        track = _applied(track, [read_turns(track, seen(track, bandwidth_hz))], reach=reach)
    return without_delay(track, seen(track, BANDWIDTHS_HZ[-1]))


def refine_by_modulation(track: SpeedTrack, low: LowBand) -> SpeedTrack:
    """Correct the rate of a track that rests on sound by the phase of what the sound does once per turn.

    Its noise swells, its lowest tone hums. Neither a motor's slip nor a resonance bends that, but it is fainter than a
    motor's tones.
    """
    for bandwidth_hz, reach in zip(BANDWIDTHS_HZ, (0.1, 0.06, 0.04), strict=True):
        track = _applied(track, _read_modulation(track, low, bandwidth_hz=bandwidth_hz), reach=reach)
    return track


def refine_by_tones(track: SpeedTrack, low: LowBand, family: OrderFamily, *, creeps: bool) -> SpeedTrack:
    """Correct the rate of a track that rests on sound by the strongest lines of the sound.

    Parameters
    ----------
    creeps : a belt lies between motor and drum, so that a motor's line follows the drum only within its creep
    """
    demodulated = demodulated_tones(track, low, family)
    for narrower in NARROWER:
        tones = _read_tones(track, demodulated, narrower=narrower, creeps=creeps)
        track = _applied(track, [_as_it_is(track), *tones], reach=TONE_REACH, reach_hz=narrower * TONE_REACH_HZ)
    return track


def refine_by_sound(
    track: SpeedTrack, low: LowBand, tones: Sequence[DemodulatedTone], *, creeps: bool, clock_sigma_s: float
) -> SpeedTrack:
    """Correct the rate of a track that rests on vibration by all that the sound tells.

    Parameters
    ----------
    tones : the strongest lines, on the same clock
    creeps : a belt lies between motor and drum
    clock_sigma_s : how well the sound's clock is known against that of the vibration
    """
    slope_hz_s = np.abs(slope_of(track))
    # A clock that is off bends all readings alike: together they tell no more than one of that error.
    moving = float((track.known & (slope_hz_s > STEADY_HZ_S)).sum())
    for k, narrower in enumerate(NARROWER):
        readings = _read_modulation(track, low, bandwidth_hz=BANDWIDTHS_HZ[-1]) if k == 0 else []
        readings += _read_tones(track, tones, narrower=narrower, creeps=creeps)
        alike = slope_hz_s * clock_sigma_s * np.sqrt(1.0 + moving * len(readings) / FRAMES_A_READING)
        readings = [replace(r, sigma_hz=np.hypot(r.sigma_hz, alike)) for r in readings]
        track = _applied(track, [_as_it_is(track), *readings], reach=TONE_REACH, reach_hz=narrower * TONE_REACH_HZ)
    return track


def read_sound(track: SpeedTrack, low: LowBand, tones: Sequence[DemodulatedTone]) -> list[RateReading]:
    """What all lines of the sound say, each as it is: a motor's within its belt's creep, on the clock as noted."""
    return [
        *_read_modulation(track, low, bandwidth_hz=BANDWIDTHS_HZ[-1]),
        *(tone.read(track) for tone in tones),
    ]


def regimes(track: SpeedTrack, *, creeps: bool) -> IntArray:
    """Falling, steady, rising as 0, 1, 2 [shape=(frames,)]: a belt creeps differently in each; without one all is 0."""
    if not creeps:
        return np.zeros(track.t_s.size, dtype=int)
    return np.asarray(np.digitize(slope_of(track), (-STEADY_HZ_S, STEADY_HZ_S)))


def _read_modulation(track: SpeedTrack, low: LowBand, *, bandwidth_hz: float) -> list[RateReading]:
    slow, slow_rate_hz = low.slow
    return [
        read_turns(
            track,
            OncePerTurn.of(
                track, row[None], rate_hz=rate_hz, start_s=low.start_s, bandwidth_hz=bandwidth_hz, spoilt_s=low.spoilt_s
            ),
        )
        for row, rate_hz in ((low.modulation, low.level_rate_hz), (slow, slow_rate_hz))
    ]


def demodulated_tones(track: SpeedTrack, low: LowBand, family: OrderFamily | None) -> list[DemodulatedTone]:
    """The strongest lines, each over a band as wide as its rate may be off."""
    if family is None or not track.known.any():
        return []
    typical_hz = float(np.median(track.rate_hz[track.known]))
    turns = track.turns_at(low.sample_s)
    return [
        DemodulatedTone.of(
            track,
            low,
            order=float(order),
            bandwidth_hz=float(np.clip(TONE_BAND_SHARE * order * typical_hz, *TONE_BAND_HZ)),
            turns=turns,
        )
        for order in family.orders[:MOST_TONES]
    ]


def _read_tones(
    track: SpeedTrack, demodulated: Sequence[DemodulatedTone], *, narrower: float, creeps: bool
) -> list[RateReading]:
    """What the strongest lines say, their orders put right by the track's own average.

    Parameters
    ----------
    narrower : share of a tone's band that is left, now that the track is known so much better
    """
    regime = regimes(track, creeps=creeps)
    share = CREEP_SHARE * np.minimum(np.abs(slope_of(track)) / 0.5, 1.0) if creeps else 0.0
    creep_hz = share * np.maximum(track.rate_hz, LOWEST_TONE_RATE_HZ)
    found = [tone.read(track, narrower=narrower) for tone in demodulated]
    return [
        RateReading(
            error_hz=tone.error_hz - _order_error(tone, track, regime) * track.rate_hz,
            sigma_hz=np.hypot(tone.sigma_hz, creep_hz),
        )
        for tone in found
    ]


def _order_error(found: RateReading, track: SpeedTrack, regime: IntArray) -> FloatArray:
    """Share by which the order was learnt wrong, in each regime [shape=(frames,)].

    What a line says on average is the track's to know better.
    """
    use = track.known & np.isfinite(found.sigma_hz) & (np.abs(found.error_hz) < TONE_REACH * track.rate_hz)
    share = np.where(use, found.error_hz / track.rate_hz, 0.0)
    out = np.full(track.t_s.size, float(np.median(share[use])) if use.sum() >= FEWEST_FRAMES else 0.0)
    for which in np.unique(regime):
        inside = use & (regime == which)
        if inside.sum() >= FEWEST_FRAMES:
            out[regime == which] = np.median(share[inside])
    return out


def _as_it_is(track: SpeedTrack) -> RateReading:
    """The track's own say: no error, at the standard error it has already."""
    return RateReading(error_hz=np.zeros(track.t_s.size), sigma_hz=track.sigma_hz)


def _applied(track: SpeedTrack, corrections: list[RateReading], *, reach: float, reach_hz: float = 0.0) -> SpeedTrack:
    """Weighted mean of all corrections that lie within `reach` of the rate, or within `reach_hz` of a slow one."""
    weight = np.zeros(track.t_s.size)
    total = np.zeros(track.t_s.size)
    for correction in corrections:
        fits = np.abs(correction.error_hz) < np.maximum(reach * track.rate_hz, reach_hz)
        w = np.where(fits & np.isfinite(correction.sigma_hz), 1.0 / np.maximum(correction.sigma_hz, 1e-6) ** 2, 0.0)
        weight += w
        total += w * correction.error_hz
    told = track.known & (weight > 0)
    rate = np.where(told, track.rate_hz + total / np.maximum(weight, 1e-30), track.rate_hz)
    sigma = np.where(told, 1.0 / np.sqrt(np.maximum(weight, 1e-30)), track.sigma_hz)
    return replace(track, rate_hz=smooth_known(rate, track), sigma_hz=np.minimum(sigma, track.sigma_hz))
