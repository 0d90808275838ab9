"""A top loader in the wash: strokes as they are driven, and what is wrong heard in their beat."""

from __future__ import annotations

import numpy as np
import pytest

from eager_ear.core.simulate import simulate_agitation
from eager_ear.core.simulate.agitation import BURST_S, REST_S, STROKES_HZ, SWING_TURNS, strokes
from eager_ear.core.units import FloatArray


def heard(layout: str, fault: str, *, seed: int = 3) -> FloatArray:
    made = simulate_agitation(layout=layout, faults=[fault], seed=seed, strength=0.9, lasts_s=8.0)
    assert made.sample_rate_hz == 44_100.0
    assert np.abs(made.samples).max() == pytest.approx(0.5, abs=1e-3)
    return np.asarray(made.samples, dtype=float)


def in_band(samples: FloatArray, low_hz: float, high_hz: float) -> FloatArray:
    """Level by tenths of a second."""
    spectrum = np.fft.rfft(samples)
    hz = np.fft.rfftfreq(samples.size, 1 / 44_100.0)
    band = np.fft.irfft(np.where((hz > low_hz) & (hz < high_hz), spectrum, 0.0), samples.size)
    cells = band[: band.size // 4410 * 4410].reshape(-1, 4410)
    return np.asarray(np.sqrt(np.mean(cells**2, axis=1)))


def beat_hz(level: FloatArray) -> float:
    """The strongest beat of a level between one in two seconds and three a second."""
    spectrum = np.abs(np.fft.rfft((level - level.mean()) * np.hanning(level.size), 8 * level.size))
    hz = np.fft.rfftfreq(8 * level.size, 0.1)
    inside = (hz > 0.4) & (hz < 3.0)
    return float(hz[inside][spectrum[inside].argmax()])


def test_a_blade_swings_as_far_back_as_it_went_and_a_plate_rests_in_between() -> None:
    swing = np.cumsum(strokes(10.0, swings=True)) / 1000.0
    assert swing.max() == pytest.approx(SWING_TURNS, rel=0.02)
    assert swing.min() == pytest.approx(-SWING_TURNS, rel=0.02)
    plate = strokes(2 * (BURST_S + REST_S), swings=False)
    turned = np.cumsum(plate) / 1000.0
    assert turned[-1] == pytest.approx(0.0, abs=0.02)
    assert turned.max() > 1.5
    assert np.mean(plate == 0) == pytest.approx(REST_S / (BURST_S + REST_S), abs=0.02)


def test_a_belt_squeals_at_the_beginning_of_every_stroke() -> None:
    squeal = in_band(heard("top_shifter", "belt"), 900.0, 6000.0)
    assert beat_hz(squeal) == pytest.approx(2 * STROKES_HZ, rel=0.1)
    sound = in_band(heard("top_shifter", "none"), 900.0, 6000.0)
    assert np.ptp(squeal) / squeal.mean() > 1.5 * np.ptp(sound) / sound.mean()


def test_stripped_splines_are_heard_while_the_motor_pushes_and_not_while_it_rests() -> None:
    level = in_band(heard("top_splined", "hub_spline"), 400.0, 3000.0)
    assert beat_hz(level) == pytest.approx(1.0 / (BURST_S + REST_S), rel=0.1)
    assert np.percentile(level, 90) > 5 * np.percentile(level, 10)


def test_a_motor_that_hums_moves_no_water() -> None:
    hum = heard("top_pulsator", "run_capacitor")
    spectrum = np.abs(np.fft.rfft(hum * np.hanning(hum.size))) ** 2
    hz = np.fft.rfftfreq(hum.size, 1 / 44_100.0)
    near = np.abs((hz + 50.0) % 100.0 - 50.0) < 2.0
    assert spectrum[near & (hz < 700)].sum() > 0.95 * spectrum.sum()


@pytest.mark.parametrize("layout", ["top_coupler", "top_shifter", "top_splined", "top_pulsator"])
def test_water_is_heard_where_the_plate_works(layout: str) -> None:
    sound, stands = heard(layout, "none"), heard(layout, "run_capacitor")
    assert beat_hz(in_band(sound, 50.0, 400.0)) > 0.5
    assert in_band(sound, 150.0, 190.0).mean() > 3 * in_band(stands, 150.0, 190.0).mean()
