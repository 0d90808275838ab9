"""Standard bands, weighting and prominence against tones and noise whose levels are known."""

from __future__ import annotations

import numpy as np
import pytest

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.dsp.transform import Spectrogram, short_time_power
from eager_ear.core.signals.sound.loudness import (
    a_weighting_db,
    above_room_db,
    critical_bandwidth_hz,
    most_prominent_tone,
    third_octave_levels,
)
from eager_ear.core.units import FloatArray

RATE = 48000.0
T_S = np.arange(int(3.0 * RATE)) / RATE


def heard(sound: FloatArray) -> Spectrogram:
    return short_time_power(sound.astype(np.float32), sample_rate_hz=RATE, frame_s=0.085, hop_s=0.0213)


def every(spectrum: Spectrogram) -> np.ndarray:
    return np.ones(spectrum.t_s.size, dtype=bool)


@pytest.mark.parametrize(
    ("frequency_hz", "weight_db"), [(31.623, -39.4), (125.89, -16.1), (500.0, -3.2), (1000.0, 0.0), (4000.0, 1.0)]
)
def test_a_weighting_has_the_standards_values(frequency_hz: float, weight_db: float) -> None:
    assert float(a_weighting_db(np.array([frequency_hz]))[0]) == pytest.approx(weight_db, abs=0.1)


@pytest.mark.parametrize("frequency_hz", [250.0, 1000.0, 5000.0])
def test_a_tones_level_lies_in_its_own_band(frequency_hz: float) -> None:
    spectrum = heard(0.1 * np.sqrt(2.0) * np.sin(2 * np.pi * frequency_hz * T_S))
    bands = third_octave_levels(spectrum, frames=every(spectrum), pa_per_fs=None)
    loudest = int(np.argmax(bands.level_db))
    assert bands.centre_hz[loudest] == pytest.approx(frequency_hz, rel=0.02)
    # Hann's main lobe is four bins wide: its noise bandwidth is already divided out of the sum.
    assert bands.level_db[loudest] == pytest.approx(-20.0, abs=0.3)
    assert bands.total_db == pytest.approx(-20.0, abs=0.3)
    assert not bands.calibrated


def test_white_noise_rises_one_decibel_a_third_octave_and_calibration_adds_its_gain() -> None:
    noise = 0.1 * np.random.default_rng(0).standard_normal(T_S.size)
    spectrum = heard(noise)
    bands = third_octave_levels(spectrum, frames=every(spectrum), pa_per_fs=None)
    high = bands.centre_hz > 400
    slope = np.polyfit(np.arange(high.sum()), bands.level_db[high], 1)[0]
    assert slope == pytest.approx(1.0, abs=0.1)
    calibrated = third_octave_levels(spectrum, frames=every(spectrum), pa_per_fs=2.0)
    assert calibrated.total_db - bands.total_db == pytest.approx(100.0, abs=0.01)


def test_a_louder_spin_stands_above_its_room_by_what_it_is_louder() -> None:
    rng = np.random.default_rng(1)
    levels = []
    for gain in (0.1, 0.01):
        spectrum = heard(gain * rng.standard_normal(T_S.size))
        levels.append(third_octave_levels(spectrum, frames=every(spectrum), pa_per_fs=None))
    assert np.median(above_room_db(*levels)) == pytest.approx(20.0, abs=0.5)


def test_a_tone_in_noise_has_the_prominence_that_its_powers_give() -> None:
    frequency_hz, ratio_db = 1000.0, 18.0
    density = 1e-6
    noise = np.sqrt(density * RATE / 2) * np.random.default_rng(2).standard_normal(T_S.size)
    band_power = density * critical_bandwidth_hz(frequency_hz)
    tone_power = band_power * (10 ** (ratio_db / 10) - 1.0)
    spectrum = heard(noise + np.sqrt(2 * tone_power) * np.sin(2 * np.pi * frequency_hz * T_S))
    found = most_prominent_tone(spectrum, frames=every(spectrum))
    assert found.frequency_hz == pytest.approx(frequency_hz, abs=12.0)
    # The spectrogram holds tones at their mean square, noise at 1.5 times a bin's: the band's share of noise is small.
    assert found.ratio_db == pytest.approx(ratio_db, abs=2.0)
    assert found.over_limit_db == pytest.approx(found.ratio_db - 9.0, abs=0.1)


def test_plain_noise_has_no_prominent_tone_and_nothing_is_said_of_nothing() -> None:
    spectrum = heard(np.random.default_rng(3).standard_normal(T_S.size))
    assert most_prominent_tone(spectrum, frames=every(spectrum)).over_limit_db < 0.0
    with pytest.raises(NotMeasurable):
        third_octave_levels(spectrum, frames=np.zeros(spectrum.t_s.size, dtype=bool), pa_per_fs=None)
