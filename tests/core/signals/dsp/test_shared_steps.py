"""What many measurements do alike: bring a line down, find a peak's centre, give every range of speed an equal say."""

from __future__ import annotations

import numpy as np
import pytest

from eager_ear.core.signals.dsp import block_means, by_bin, line_over_speed, peak_centre, speed_bins, tone_carrier


def test_a_tone_comes_down_to_its_amplitude_and_phase() -> None:
    t = np.arange(20_000) / 8000.0
    tone = 3.0 * np.cos(2 * np.pi * 437.0 * t + 0.4)
    down = block_means(tone * tone_carrier(437.0, count=tone.size, rate_hz=8000.0), 4000)
    assert down.shape == (5,)
    np.testing.assert_allclose(2.0 * down, 3.0 * np.exp(0.4j), atol=2e-2)


def test_rows_are_averaged_alike_and_what_is_left_over_is_dropped() -> None:
    rows = np.arange(14.0).reshape(2, 7)
    np.testing.assert_allclose(block_means(rows, 3), [[1.0, 4.0], [8.0, 11.0]])
    np.testing.assert_allclose(block_means(rows, 1), rows)


@pytest.mark.parametrize("at", [3.0, 3.25, 3.5, 3.9])
def test_a_peak_between_values_is_found_there(at: float) -> None:
    places = np.arange(8.0)
    line = np.maximum(0.0, 1.0 - np.abs(places - at) / 2.5)
    assert float(peak_centre(line, places)) == pytest.approx(at, abs=0.05)
    assert float(peak_centre(line, 10.0 * places, above=0.3)) == pytest.approx(10.0 * at, abs=1.5)


def test_rows_have_a_centre_each_and_none_where_nothing_stands_out() -> None:
    rows = np.array([[0.0, 1.0, 0.0], [1.0, 1.0, 1.0]])
    found = peak_centre(rows, np.arange(3), above=rows.min(axis=1, keepdims=True))
    assert found[0] == 1.0
    assert np.isnan(found[1])


def test_every_range_of_speed_has_one_say() -> None:
    rng = np.random.default_rng(3)
    ramp = np.geomspace(2.0, 16.0, 60)
    speed = np.concatenate([ramp, np.full(2000, 16.0)])
    values = np.concatenate([2.0 * np.log(ramp), np.full(2000, 2.0 * np.log(16.0) + 1.0)])
    values += 0.02 * rng.standard_normal(values.size)
    line = line_over_speed(speed, values, bins=12)
    assert line is not None
    slope, sigma = line
    # The plateau is off by one, and has one say of twelve.
    assert slope == pytest.approx(2.0, abs=3.0 * sigma)
    assert 0.05 < sigma < 0.3
    assert line_over_speed(np.array([1.0, 1.01, 8.0, 8.01]), np.zeros(4), bins=10) is None


def test_bins_with_too_few_are_left_out() -> None:
    which = speed_bins(np.array([1.0, 1.1, 1.2, 9.0]), 4)
    assert which.tolist() == [0, 0, 0, 3]
    bins, medians = by_bin(np.array([[1.0], [5.0], [3.0], [7.0]]), which, of=np.median, fewest=2)
    assert bins.tolist() == [0]
    np.testing.assert_allclose(medians, [[3.0]])
    assert speed_bins(np.full(3, 5.0), 4).tolist() == [0, 0, 0]
