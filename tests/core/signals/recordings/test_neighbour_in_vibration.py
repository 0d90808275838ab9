"""What shakes the sensor all the time is taken out; what the drum does is left as it was."""

from __future__ import annotations

import numpy as np
import pytest

from eager_ear.core.signals.dsp.uniform_acceleration import EvenAcceleration, even_acceleration
from eager_ear.core.signals.recordings.neighbour_in_vibration import steady_frequencies_hz, without_steady_tones
from eager_ear.core.signals.types import AccelerationSignal
from eager_ear.core.units import FloatArray
from tests.core.signals.synthetic import profile, shaken


def drum(*, top_hz: float = 15.0, noise: float = 0.02, seed: int = 0) -> EvenAcceleration:
    return shaken(*profile(top_hz=top_hz), orders={1.0: 0.5, 2.0: 0.2}, noise=noise, seed=seed)


def beside(acceleration: EvenAcceleration, frequency_hz: float, amplitude: float) -> FloatArray:
    """A neighbour's tone, weaker in the second axis."""
    tone = np.sin(2 * np.pi * frequency_hz * acceleration.t_s + 0.7)
    return amplitude * np.array([[1.0], [0.4], [0.9]]) * tone


@pytest.mark.parametrize(("frequency_hz", "amplitude"), [(9.31, 0.05), (21.4, 0.03), (6.2, 0.1)])
def test_the_tone_is_found_and_taken_out(frequency_hz: float, amplitude: float) -> None:
    alone = drum()
    together = drum()
    together.axes_m_s2[:] += beside(together, frequency_hz, amplitude)
    cleaned, tones = without_steady_tones(together, changes_heard=False)
    assert [tone.frequency_hz for tone in tones] == [pytest.approx(frequency_hz, abs=0.02)]
    np.testing.assert_allclose(tones[0].amplitude_m_s2, amplitude * np.array([1.0, 0.4, 0.9]), rtol=0.25, atol=0.004)
    inside = (alone.t_s > 4.0) & (alone.t_s < 40.0)
    left = (cleaned.axes_m_s2 - alone.axes_m_s2)[:, inside]
    added = (together.axes_m_s2 - alone.axes_m_s2)[:, inside]
    assert np.sqrt(np.mean(left**2)) < 0.35 * np.sqrt(np.mean(added**2))


@pytest.mark.parametrize("seed", range(4))
def test_a_drum_alone_is_left_as_it_is(seed: int) -> None:
    acceleration = drum(seed=seed, top_hz=8.0 + 3.0 * seed)
    cleaned, tones = without_steady_tones(acceleration, changes_heard=False)
    assert tones == ()
    assert cleaned is acceleration


def test_a_plateau_alone_is_the_drums() -> None:
    t_s = np.arange(0.0, 30.0, 0.005)
    acceleration = shaken(t_s, np.full(t_s.size, 12.0), orders={1.0: 0.5, 2.0: 0.1}, noise=0.02)
    assert steady_frequencies_hz(acceleration, changes_heard=False) == []


def test_little_of_a_drum_that_stays_at_the_neighbours_rate_is_taken() -> None:
    alone, together = drum(top_hz=10.0), drum(top_hz=10.0)
    together.axes_m_s2[:] += beside(together, 10.02, 0.05)
    cleaned, tones = without_steady_tones(together, changes_heard=False)
    assert len(tones) == 1
    plateau = (alone.t_s > 18.0) & (alone.t_s < 26.0)
    size = [np.sqrt(2.0 * np.mean(a.axes_m_s2[0, plateau] ** 2)) for a in (alone, cleaned)]
    assert size[1] > 0.75 * size[0]


def test_too_short_a_recording_has_none() -> None:
    t_s = np.arange(0.0, 10.0, 0.01)
    axes = np.stack([np.sin(2 * np.pi * 9.0 * t_s), 0 * t_s, 9.81 + 0 * t_s])
    assert (
        steady_frequencies_hz(
            even_acceleration(AccelerationSignal(t_s=t_s, axes_m_s2=axes), start_s=0.0), changes_heard=False
        )
        == []
    )


def test_the_sound_tells_that_a_machine_began_which_the_sensor_hardly_felt() -> None:
    t_s = np.arange(0.0, 30.0, 0.005)
    acceleration = shaken(t_s, np.full(t_s.size, 12.0), orders={1.0: 0.1}, noise=0.05)
    assert steady_frequencies_hz(acceleration, changes_heard=False) == []
    assert steady_frequencies_hz(acceleration, changes_heard=True) == [pytest.approx(12.0, abs=0.25)]
