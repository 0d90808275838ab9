"""Critical speed and damping ratio from the way up through the critical speed and the way down again.

Run-up and coast-down pass the same resonance, one driven and quick, the other slow and with the motor off: both are
fitted at once. Where they do not agree neither is believed alone; where one is missing the other may be. What spring
and damper hold (swept_response) is compared with what the sensor saw through the cabinet (response_match).

Rattles and the edge of a track make humps. A peak counts only where the same model with its critical speed below all
that was seen fits so much worse that chance does not explain it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import scipy

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.machine import Layout
from eager_ear.core.signals.angle import TACHO, WINDOW_S, OrderCurves, SpeedTrack, order_curves
from eager_ear.core.signals.dsp import EvenAcceleration
from eager_ear.core.signals.mechanics.resonance.carried_speed import carried_through
from eager_ear.core.signals.mechanics.resonance.response_match import Comparison
from eager_ear.core.signals.mechanics.resonance.swept_oscillator import Passage
from eager_ear.core.signals.speed import Phases
from eager_ear.core.units import BoolArray

# The first round looks for the peak along a speed that it may have spoilt.
CARRIED_ROUNDS = 3
# A peak that moves less than this from round to round is found.
SETTLED_SHARE = 0.015
# The lag passes within so many turns that its rate is seen only where a group is damped more lightly than this.
LIGHT_DAMPING = 0.08
# What is found to be damped better than this would not have spoilt the speed: then carrying it found something else.
SPOILS_BELOW = 0.12
# The window of the demodulation holds a turn and a half: with less a speed that is not seen makes peaks of its own.
CARRIED_ABOVE_HZ = 1.5 / WINDOW_S
# Fast enough that the bilinear rule bends frequencies by less than 2 % up to the highest critical speed.
MODEL_STEPS_A_TURN = 26.0
# Where the fit looks first.
DAMPINGS_TRIED = (0.05, 0.12, 0.28)
# Beyond this the peak is so flat that its place says nothing.
LARGEST_DAMPING = 0.45
# Up to this multiple of the highest critical speed the suspended group and one cabinet mode are all there is.
TOP_OF_RANGE = 2.2
# A peak is one when its far side has been seen as well.
FALL_SEEN_TO = 1.4
# The model without a peak in what was seen: critical speeds as shares of the lowest speed seen.
BELOW_ALL_SEEN = (0.4, 0.97)
# Chance at which the peak may explain what was seen so much better (F test with two parameters): where both passages
# show it, and where one has to be believed alone.
FALSE_ALARM = 1e-2
FALSE_ALARM_ALONE = 1e-4
FEWEST_FRAMES = 16
# Frames that must lie within so much of the peak, in log speed.
PEAK_REACH = 0.35
FEWEST_AT_PEAK = 4
# The window of the demodulation must hold a whole turn.
SLOWEST_HZ = 1.0 / WINDOW_S
# A peak less than this many times the level beside it could be anything's.
LEAST_SIGNAL_TO_NOISE = 3.0
LARGEST_SIGMA = (0.1, 0.5)
# The logarithm of an amplitude that is noise alone scatters by pi/sqrt(24), 5.6 dB (Rayleigh): half of it at most.
LARGEST_SPREAD = 0.32
# Friction taken for viscosity: the damping that acts at one travel does not act at the next.
FRICTION_SHARE = 0.15


@dataclass(frozen=True, kw_only=True)
class SuspensionFit:
    """One resonance passed in the run-up; sigmas are standard errors of the whole model, cabinet and scale included.

    passages : through how many passages, run-up and coast-down, it was followed at once
    """

    axis: str
    critical_hz: float
    critical_sigma_hz: float
    damping_ratio: float
    damping_sigma: float
    peak_mm: float
    residual_db: float
    passages: int


@dataclass(frozen=True, kw_only=True)
class RunUp:
    """Resonances, surest first, and the speed through them where it had to be carried; None where it was followed."""

    fits: tuple[SuspensionFit, ...]
    carried: SpeedTrack | None


@dataclass(frozen=True, kw_only=True)
class _Tried:
    """What fits one axis best: critical speed, mean square of what is left, and the fit where it is believed."""

    critical_hz: float
    left: float
    fit: SuspensionFit | None


def fit_run_up(
    acceleration: EvenAcceleration, curves: OrderCurves, *, track: SpeedTrack, phases: Phases, layout: Layout
) -> RunUp:
    """Fit the resonance in each radial axis.

    Where a group is lightly damped its own lag and ringing have spoilt the speed that is read off it: with the speed
    carried through about where the peak is, the curves are made anew, and what fits them better counts.

    Raises
    ------
    NotMeasurable
        No ramp through the range where this layout's critical speed lies, or 1x too weak there.
    """
    tried = _try_axes(curves, track=track, phases=phases, layout=layout)
    cut_s = phases.power_cut_s if phases.power_cut_s is not None else np.inf
    best, along = tried, None
    carried_at_hz: list[float] = []
    # Pulses of a tacho are no vibration: nothing spoils them.
    while tried and track.source != TACHO and len(carried_at_hz) < CARRIED_ROUNDS:
        likeliest = min(tried, key=lambda one: one.left)
        is_settled = any(abs(likeliest.critical_hz / hz - 1.0) < SETTLED_SHARE for hz in carried_at_hz)
        if is_settled or _is_well_damped(likeliest):
            break
        carried_at_hz.append(likeliest.critical_hz)
        carried = carried_through(track, critical_hz=likeliest.critical_hz, power_cut_s=cut_s)
        if carried is None:
            break
        again = order_curves(acceleration, track=carried)
        try:
            tried = _try_axes(again, track=carried, phases=phases, layout=layout)
        except NotMeasurable:
            break
        if _is_better(tried, best):
            best, along = tried, carried
    fits = [one.fit for one in best if one.fit is not None]
    if not fits:
        raise NotMeasurable(
            quantity="critical speed and damping", reason="no resonance peak stands out in run-up or coast-down."
        )
    return RunUp(fits=tuple(sorted(fits, key=lambda f: f.critical_sigma_hz / f.critical_hz)), carried=along)


def _is_well_damped(tried: _Tried) -> bool:
    fit = tried.fit
    return fit is not None and fit.damping_ratio - 2.0 * fit.damping_sigma > LIGHT_DAMPING


def _is_better(carried: Sequence[_Tried], before: Sequence[_Tried]) -> bool:
    """Whether along a carried speed a lightly damped peak is believed that was not before, or leaves less."""
    light = [
        one.left
        for one in carried
        if one.fit is not None and one.fit.damping_ratio < SPOILS_BELOW and one.critical_hz > CARRIED_ABOVE_HZ
    ]
    return min(light, default=np.inf) < min((one.left for one in before if one.fit is not None), default=np.inf)


def _try_axes(curves: OrderCurves, *, track: SpeedTrack, phases: Phases, layout: Layout) -> list[_Tried]:
    range_hz = (layout.critical_rpm[0] / 60.0, layout.critical_rpm[1] / 60.0)
    top_hz = TOP_OF_RANGE * range_hz[1]
    passages = [
        Passage.along(track, curves, use, steps_hz=MODEL_STEPS_A_TURN * range_hz[1])
        for use in (_run_up_frames(curves, phases, top_hz=top_hz), _coast_frames(curves, phases, top_hz=top_hz))
        if use.sum() >= FEWEST_FRAMES and curves.rate_hz[use].min() < 0.8 * range_hz[1]
    ]
    if not passages:
        raise NotMeasurable(
            quantity="critical speed and damping",
            reason="the speed is not known through the range where the suspended group resonates.",
        )
    radial = ("x", "z") if layout.drum == "front" else ("x", "y")
    tried: list[_Tried] = []
    for row, name in enumerate(curves.axis_names):
        clear = [p for p in passages if name in radial and _stands_out(curves, row, p)]
        one = _fit_axis(curves, row, clear, range_hz=range_hz) if clear else None
        tried.extend([one] if one is not None else [])
    return tried


def _seen(curves: OrderCurves, top_hz: float) -> BoolArray:
    """Frames in the range of speeds that the model covers and the demodulation window resolves.

    Ringing at the critical speed makes the rate unsure just there; followed loosely, it still finds 1x.
    """
    return np.asarray(curves.followed & (curves.rate_hz < top_hz) & (curves.rate_hz > SLOWEST_HZ))


def _run_up_frames(curves: OrderCurves, phases: Phases, *, top_hz: float) -> BoolArray:
    cut = phases.power_cut_s if phases.power_cut_s is not None else np.inf
    rising = _seen(curves, top_hz) & (curves.t_s < cut)
    if not rising.any():
        return rising
    # Only the last approach counts: an earlier one may have turned back below the critical speed.
    reached = np.flatnonzero(rising)
    breaks = np.flatnonzero(np.diff(reached) > 12)
    start = reached[breaks[-1] + 1] if breaks.size and reached.size - breaks[-1] > 24 else reached[0]
    return np.asarray(rising & (np.arange(rising.size) >= start))


def _coast_frames(curves: OrderCurves, phases: Phases, *, top_hz: float) -> BoolArray:
    """The same passage backwards, with the motor off: slower and undisturbed by the drive."""
    cut = phases.power_cut_s if phases.power_cut_s is not None else np.inf
    return np.asarray(_seen(curves, top_hz) & (curves.t_s > cut))


def _stands_out(curves: OrderCurves, row: int, passage: Passage) -> bool:
    measured = np.abs(curves.amplitude_m_s2[row, 0, passage.frames])
    return float(np.percentile(measured, 90)) >= LEAST_SIGNAL_TO_NOISE * float(curves.noise_m_s2[row])


def _fit_axis(
    curves: OrderCurves, row: int, passages: Sequence[Passage], *, range_hz: tuple[float, float]
) -> _Tried | None:
    problem = Comparison(passages, curves, row)
    rate = problem.rate_hz
    low_hz, high_hz = range_hz
    if rate.max() < FALL_SEEN_TO * low_hz:
        return None
    reached = problem.fit(
        critical_hz=np.geomspace(max(low_hz, rate.min()), min(high_hz, rate.max() / 1.1), 8),
        dampings=DAMPINGS_TRIED,
        within_hz=(0.8 * low_hz, 1.2 * high_hz),
    )
    f0, damping = (float(value) for value in np.exp(reached.parameters[:2]))
    doubted = _Tried(critical_hz=f0, left=reached.cost / problem.freedom, fit=None)
    covered = rate.min() < f0 < rate.max() / FALL_SEEN_TO and 0.85 * low_hz < f0 < 1.15 * high_hz
    near = np.abs(np.log(rate / f0)) < PEAK_REACH
    if not covered or damping > LARGEST_DAMPING or near.sum() < FEWEST_AT_PEAK:
        return doubted
    without = problem.fit(
        critical_hz=rate.min() * np.linspace(*BELOW_ALL_SEEN, 3),
        dampings=DAMPINGS_TRIED,
        within_hz=(0.75 * BELOW_ALL_SEEN[0] * rate.min(), rate.min()),
    )
    gained = (without.cost - reached.cost) / 2.0 / max(reached.cost / problem.freedom, 1e-12)
    chance = float(scipy.special.fdtrc(2.0, problem.freedom, max(gained, 0.0)))
    if chance > (FALSE_ALARM if len(passages) > 1 else FALSE_ALARM_ALONE):
        return doubted
    sigma = problem.standard_errors(reached)
    spread = float(np.sqrt(np.sum(reached.residual**2) / problem.observations))
    if sigma[0] > LARGEST_SIGMA[0] or sigma[1] > LARGEST_SIGMA[1] or spread > LARGEST_SPREAD:
        return doubted
    frames = np.concatenate([p.frames for p in passages])
    fit = SuspensionFit(
        axis=curves.axis_names[row],
        critical_hz=f0,
        # Whether friction or viscosity damps it, the same peak stands at f0 or at f0/sqrt(1 - 2·damping²).
        critical_sigma_hz=f0 * float(np.hypot(sigma[0], damping**2)),
        damping_ratio=damping,
        damping_sigma=damping * float(np.hypot(sigma[1], FRICTION_SHARE)),
        peak_mm=float(curves.displacement_mm(1)[row, frames][near].max()),
        residual_db=float(20.0 / np.log(10.0) * spread),
        passages=len(passages),
    )
    return replace(doubted, fit=fit)
