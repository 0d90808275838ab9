"""Order amplitudes, growth, run-up fit and coast-down against closed forms."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.machine import find_layout
from eager_ear.core.signals.angle.order_amplitudes import growth_above, order_curves
from eager_ear.core.signals.angle.track import FRAME_STEP_S, TACHO, SpeedTrack
from eager_ear.core.signals.dsp.uniform_acceleration import EvenAcceleration, even_acceleration
from eager_ear.core.signals.mechanics.coast_down import fit_coast_down
from eager_ear.core.signals.mechanics.resonance.carried_speed import with_carried
from eager_ear.core.signals.mechanics.resonance.run_up_fit import SuspensionFit, fit_run_up
from eager_ear.core.signals.speed.spin_phases import Phases, cut_phases
from eager_ear.core.signals.types import AccelerationSignal
from eager_ear.core.units import FloatArray
from tests.core.signals.synthetic import profile, shaken, steady_track, track_of

RATE = 200.0
LAYOUT = find_layout("front_belt")


def framed(t_s: FloatArray, rate_hz: FloatArray) -> SpeedTrack:
    frames = np.arange(t_s[0], t_s[-1], FRAME_STEP_S)
    return track_of(frames, np.interp(frames, t_s, rate_hz))


def test_amplitude_and_displacement_of_a_steady_order() -> None:
    t_s = np.arange(0.0, 20.0, 1.0 / RATE)
    vibration = shaken(t_s, np.full(t_s.size, 10.0), orders={1: 2.0, 2: 0.5}, noise=0.0)
    curves = order_curves(vibration, track=steady_track(rate_hz=10.0, seconds=19.5))
    middle = slice(20, -20)
    np.testing.assert_allclose(np.abs(curves.amplitude_m_s2[0, 0, middle]), 2.0, rtol=0.02)
    np.testing.assert_allclose(np.abs(curves.amplitude_m_s2[0, 1, middle]), 0.5, rtol=0.05)
    expected_mm = 1000.0 * 2.0 / (2 * np.pi * 10.0) ** 2
    np.testing.assert_allclose(curves.displacement_mm(1)[0, middle], expected_mm, rtol=0.02)


@pytest.mark.parametrize("exponent", [0.0, 2.0])
def test_growth_exponent_is_recovered(exponent: float) -> None:
    t_s, rate_hz = profile(top_hz=18.0)
    turns = np.cumsum(rate_hz) / RATE
    acceleration = 1e-4 * rate_hz**exponent * (2 * np.pi * rate_hz) ** 2 * np.cos(2 * np.pi * turns)
    axes = np.stack([acceleration, 0 * acceleration, 0 * acceleration])
    axes = axes + 1e-4 * np.random.default_rng(1).standard_normal(axes.shape)
    vibration = even_acceleration(AccelerationSignal(t_s=t_s, axes_m_s2=axes), start_s=0.0)
    fit = growth_above(order_curves(vibration, track=framed(t_s, rate_hz)), from_hz=5.0)
    assert fit is not None
    assert fit.exponent == pytest.approx(exponent, abs=0.15)


def oscillator(t_s: FloatArray, rate_hz: FloatArray, *, f0: float, damping: float) -> FloatArray:
    """Force on the cabinet over stiffness, rotating unbalance, marched finely without the model's filter."""
    dt = (t_s[1] - t_s[0]) / 20
    fine = np.arange(t_s[0], t_s[-1], dt)
    w = 2 * np.pi * np.interp(fine, t_s, rate_hz)
    theta = np.cumsum(w) * dt
    force = w**2 * np.cos(theta) + np.gradient(w, dt) * np.sin(theta)
    w0 = 2 * np.pi * f0
    x = v = 0.0
    out = np.empty(fine.size)
    for i, f in enumerate(force.tolist()):
        v += dt * (f - 2 * damping * w0 * v - w0 * w0 * x)
        x += dt * v
        out[i] = x + 2 * damping / w0 * v
    return np.interp(t_s, fine, out)


def moved(t_s: FloatArray, displacement: FloatArray, *, noise: float, seed: int = 2) -> EvenAcceleration:
    acceleration = np.gradient(np.gradient(displacement, t_s), t_s)
    axes = np.stack([acceleration, 0 * acceleration, 0 * acceleration])
    axes = axes + noise * np.random.default_rng(seed).standard_normal(axes.shape)
    return even_acceleration(AccelerationSignal(t_s=t_s, axes_m_s2=axes), start_s=0.0)


def fitted(vibration: EvenAcceleration, track: SpeedTrack, phases: Phases) -> tuple[SuspensionFit, ...]:
    curves = order_curves(vibration, track=track)
    return fit_run_up(vibration, curves, track=track, phases=phases, layout=LAYOUT).fits


@pytest.mark.parametrize(("f0", "damping"), [(3.5, 0.05), (4.2, 0.12), (3.0, 0.2)])
def test_run_up_gives_critical_speed_and_damping_despite_the_sweep(f0: float, damping: float) -> None:
    t_s, rate_hz = profile(top_hz=14.0)
    vibration = moved(t_s, 1e-3 * oscillator(t_s, rate_hz, f0=f0, damping=damping), noise=1e-3)
    track = framed(t_s, rate_hz)
    phases = cut_phases(track, rests=(), noted_power_cut_s=28.0)
    fits = fitted(vibration, track, phases)
    best = next(fit for fit in fits if fit.axis == "x")
    assert best.critical_hz == pytest.approx(f0, rel=0.05)
    assert best.damping_ratio == pytest.approx(damping, rel=0.15)
    assert best.damping_sigma < 0.5 * best.damping_ratio
    assert best.passages == 2


@pytest.mark.parametrize(("f0", "damping"), [(3.4, 0.03), (4.0, 0.03), (3.7, 0.045)])
def test_worn_dampers_are_measured_along_a_speed_that_their_own_ringing_spoils(f0: float, damping: float) -> None:
    t_s, rate_hz = profile(top_hz=14.0)
    vibration = moved(t_s, 1e-3 * oscillator(t_s, rate_hz, f0=f0, damping=damping), noise=1e-3)
    whole = framed(t_s, rate_hz)
    # Behind on the way up, held at the critical speed on the way down.
    lag = 0.4 * np.exp(-0.5 * ((whole.rate_hz - 1.1 * f0) / 0.35) ** 2)
    spoilt = np.where(whole.t_s < 28.0, whole.rate_hz - lag, np.maximum(whole.rate_hz, 1.05 * f0))
    track = replace(whole, rate_hz=spoilt)
    phases = cut_phases(track, rests=(), noted_power_cut_s=28.0)
    run_up = fit_run_up(vibration, order_curves(vibration, track=track), track=track, phases=phases, layout=LAYOUT)
    best = next(fit for fit in run_up.fits if fit.axis == "x")
    assert best.critical_hz == pytest.approx(f0, rel=0.03)
    assert best.damping_ratio == pytest.approx(damping, rel=0.3)
    assert abs(best.damping_ratio - damping) < 3.0 * best.damping_sigma
    assert run_up.carried is not None
    told = with_carried(track, run_up.carried, critical_hz=best.critical_hz)
    near = told.known & (whole.rate_hz < 1.5 * f0) & (whole.rate_hz > 0.7 * f0)
    np.testing.assert_allclose(told.rate_hz[near], whole.rate_hz[near], rtol=0.04)


def test_a_tacho_is_not_doubted() -> None:
    t_s, rate_hz = profile(top_hz=14.0)
    vibration = moved(t_s, 1e-3 * oscillator(t_s, rate_hz, f0=3.7, damping=0.05), noise=1e-3)
    track = framed(t_s, rate_hz)
    phases = cut_phases(track, rests=(), noted_power_cut_s=28.0)
    pulses = replace(track, source=TACHO)
    run_up = fit_run_up(vibration, order_curves(vibration, track=pulses), track=pulses, phases=phases, layout=LAYOUT)
    assert run_up.carried is None


def through_cabinet(t_s: FloatArray, force: FloatArray, *, cabinet_hz: float, damping: float) -> FloatArray:
    """Displacement of a cabinet on its feet under a force over its stiffness, by its transfer function."""
    spectrum = np.fft.rfft(force, 2 * force.size)
    ratio = np.fft.rfftfreq(2 * force.size, t_s[1] - t_s[0]) / cabinet_hz
    return np.fft.irfft(spectrum / (1 - ratio**2 + 2j * damping * ratio))[: force.size]


@pytest.mark.parametrize("damping", [0.07, 0.17, 0.21])
@pytest.mark.parametrize("cabinet_hz", [9.3, 16.0])
def test_no_cabinet_holds_the_damping_where_the_fit_began(damping: float, cabinet_hz: float) -> None:
    t_s, rate_hz = profile(top_hz=14.0)
    force = oscillator(t_s, rate_hz, f0=3.7, damping=damping)
    moves = through_cabinet(t_s, 1e-3 * force, cabinet_hz=cabinet_hz, damping=0.17)
    track = framed(t_s, rate_hz)
    phases = cut_phases(track, rests=(), noted_power_cut_s=28.0)
    fits = fitted(moved(t_s, moves, noise=1e-3), track, phases)
    best = next(fit for fit in fits if fit.axis == "x")
    assert best.critical_hz == pytest.approx(3.7, rel=0.03)
    assert best.damping_ratio == pytest.approx(damping, rel=0.12)


def test_a_peak_below_all_that_was_seen_is_found_only_where_the_ramp_leads_to_it() -> None:
    t_s, rate_hz = profile(top_hz=14.0)
    vibration = moved(t_s, 1e-3 * oscillator(t_s, rate_hz, f0=2.0, damping=0.1), noise=1e-3)
    whole = framed(t_s, rate_hz)
    seen = replace(whole, known=whole.rate_hz > 3.2)
    phases = cut_phases(seen, rests=(), noted_power_cut_s=28.0)
    best = next(fit for fit in fitted(vibration, seen, phases) if fit.axis == "x")
    assert best.critical_hz == pytest.approx(2.0, rel=0.04)
    assert best.damping_ratio == pytest.approx(0.1, rel=0.2)
    pulses = replace(seen, source=TACHO)
    with pytest.raises(NotMeasurable, match="no resonance peak"):
        fitted(vibration, pulses, phases)


@pytest.mark.parametrize("seed", range(12))
def test_noise_shows_no_peak(seed: int) -> None:
    t_s, rate_hz = profile(top_hz=14.0)
    axes = np.random.default_rng(seed).standard_normal((3, t_s.size)) * (0.1 + rate_hz / 14.0)
    vibration = even_acceleration(AccelerationSignal(t_s=t_s, axes_m_s2=axes), start_s=0.0)
    track = framed(t_s, rate_hz)
    phases = cut_phases(track, rests=(), noted_power_cut_s=28.0)
    with pytest.raises(NotMeasurable, match="no resonance peak"):
        fitted(vibration, track, phases)


def test_standard_errors_cover_what_noise_does() -> None:
    t_s, rate_hz = profile(top_hz=14.0)
    clean = 1e-3 * oscillator(t_s, rate_hz, f0=3.6, damping=0.1)
    track = framed(t_s, rate_hz)
    phases = cut_phases(track, rests=(), noted_power_cut_s=28.0)
    found = []
    for seed in range(6):
        vibration = moved(t_s, clean, noise=0.05, seed=seed)
        fits = fitted(vibration, track, phases)
        found.append(next(fit for fit in fits if fit.axis == "x"))
    for fit in found:
        assert abs(fit.critical_hz - 3.6) < 4.0 * fit.critical_sigma_hz
        assert abs(fit.damping_ratio - 0.1) < 4.0 * fit.damping_sigma
    assert np.std([fit.damping_ratio for fit in found]) < 2.0 * np.mean([fit.damping_sigma for fit in found])


def test_no_ramp_through_the_critical_speed_is_said() -> None:
    t_s = np.arange(0.0, 20.0, 1.0 / RATE)
    vibration = shaken(t_s, np.full(t_s.size, 15.0), orders={1: 1.0}, noise=0.01)
    track = steady_track(rate_hz=15.0, seconds=19.5)
    phases = cut_phases(track, rests=(), noted_power_cut_s=None)
    with pytest.raises(NotMeasurable, match="not known through the range"):
        fitted(vibration, track, phases)


def coasting(c0: float, c1: float, c2: float) -> tuple[SpeedTrack, float]:
    dt = 0.005
    w = 2 * np.pi * 18.0
    rates = [18.0] * int(10 / dt)
    while w > 0:
        rates.append(w / (2 * np.pi))
        w -= dt * (c0 + c1 * w + c2 * w * w)
    t_s = np.arange(len(rates)) * dt
    frames = np.arange(0.0, t_s[-1], FRAME_STEP_S)
    rate = np.interp(frames, t_s, np.asarray(rates))
    # The last seconds are too slow to be seen, as on a real machine.
    track = SpeedTrack(
        t_s=frames, rate_hz=rate, known=rate > 3.0, sigma_hz=np.full(frames.size, 0.01), source="acceleration"
    )
    return track, float(t_s[-1] - 10.0)


@pytest.mark.parametrize("drag", [(5.0, 0.0, 0.0), (3.0, 0.05, 0.0), (2.0, 0.02, 0.0004)])
def test_coast_down_time_is_extrapolated_to_rest(drag: tuple[float, float, float]) -> None:
    track, true_s = coasting(*drag)
    fit = fit_coast_down(track, phases=cut_phases(track, rests=(), noted_power_cut_s=None))
    assert fit.time_to_rest_s == pytest.approx(true_s, rel=0.06)
    assert fit.extrapolated


def test_the_error_of_the_coast_down_covers_what_it_misses() -> None:
    track, true_s = coasting(3.0, 0.05, 0.0)
    rng = np.random.default_rng(5)
    pulls = []
    for _ in range(20):
        noisy = replace(track, rate_hz=track.rate_hz + rng.normal(0.0, 0.02, track.rate_hz.size))
        fit = fit_coast_down(noisy, phases=cut_phases(noisy, rests=(), noted_power_cut_s=None))
        pulls.append((fit.time_to_rest_s - true_s) / fit.time_sigma_s)
        assert 0.0 < fit.turns_sigma < 0.1 * fit.turns_to_rest
    assert np.sqrt(np.mean(np.square(pulls))) < 1.5


def test_the_less_of_the_fall_is_seen_the_less_is_known_of_its_end() -> None:
    track, _ = coasting(3.0, 0.05, 0.0)
    errors = []
    for slowest_hz in (3.0, 7.0, 11.0):
        seen = replace(track, known=track.rate_hz > slowest_hz)
        errors.append(fit_coast_down(seen, phases=cut_phases(seen, rests=(), noted_power_cut_s=None)).time_sigma_s)
    assert errors == sorted(errors)
    assert errors[-1] > 2.0 * errors[0]


def test_no_fall_no_coast_down() -> None:
    track = steady_track(rate_hz=10.0, seconds=20.0)
    with pytest.raises(NotMeasurable, match="no fall"):
        fit_coast_down(track, phases=Phases(parts=(), power_cut_s=None))


def test_phases_are_named_in_order() -> None:
    t_s, rate_hz = profile(top_hz=18.0)
    phases = cut_phases(framed(t_s, rate_hz), rests=((0.0, 1.5),), noted_power_cut_s=None)
    names = [p.name for p in phases.parts]
    assert names[0] == "rest"
    assert [n for n in names if n in ("ramp", "plateau", "coast_down")] == ["ramp", "plateau", "coast_down"]
    assert phases.power_cut_s == pytest.approx(28.0, abs=0.4)
