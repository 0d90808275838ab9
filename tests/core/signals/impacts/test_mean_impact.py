"""The mean of many impacts under noise: its pitch, how it dies, and how alike they are."""

from __future__ import annotations

import numpy as np
import pytest

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.impacts.mean_impact import MeanImpact, mean_impact
from eager_ear.core.signals.types import AudioSignal

RATE = 48000.0
BAND_HZ = (2000.0, 9000.0)
IMPACTS_S = np.arange(1.0, 19.0, 0.31)


def struck(*, hz: float, decay_s: float, noise: float, seed: int = 0, alike: bool = True) -> AudioSignal:
    """Damped tones at the impacts' times, a millisecond early or late and either way up."""
    rng = np.random.default_rng(seed)
    samples = noise * rng.standard_normal(int(20.0 * RATE))
    t_s = np.arange(int(0.03 * RATE)) / RATE
    for at in IMPACTS_S + rng.uniform(-0.001, 0.001, IMPACTS_S.size):
        pitch = hz if alike else rng.uniform(2500.0, 8000.0)
        impact = rng.choice([-1.0, 1.0]) * np.exp(-t_s / decay_s) * np.sin(2 * np.pi * pitch * t_s)
        first = int(at * RATE)
        samples[first : first + t_s.size] += 0.3 * impact
    return AudioSignal(samples=samples.astype(np.float32), sample_rate_hz=RATE)


def measured(audio: AudioSignal) -> MeanImpact:
    return mean_impact(audio, start_s=5.0, impact_s=IMPACTS_S + 5.0, band_hz=BAND_HZ)


@pytest.mark.parametrize(("hz", "decay_s"), [(3100.0, 0.0008), (5200.0, 0.0015)])
def test_pitch_and_decay_come_back(hz: float, decay_s: float) -> None:
    found = measured(struck(hz=hz, decay_s=decay_s, noise=0.02))
    assert found.count == pytest.approx(IMPACTS_S.size, abs=1)
    assert found.frequency_hz == pytest.approx(hz, rel=0.02)
    # A damped tone exp(-t/tau) falls by 10 dB in 1.15 tau.
    assert found.decay_ms == pytest.approx(1000.0 * 1.151 * decay_s, rel=0.25)
    assert found.likeness > 0.85


def test_noise_goes_down_in_the_mean_and_is_not_alike() -> None:
    loud = measured(struck(hz=3100.0, decay_s=0.001, noise=0.1))
    assert loud.frequency_hz == pytest.approx(3100.0, rel=0.05)
    assert 0.2 < loud.likeness < 0.9
    nothing = measured(struck(hz=3100.0, decay_s=1e-6, noise=0.1))
    assert nothing.likeness < 0.35
    assert nothing.decay_ms is None
    different = measured(struck(hz=3100.0, decay_s=0.0012, noise=0.01, alike=False))
    assert different.likeness < 0.6


def test_too_few_impacts_are_said() -> None:
    audio = struck(hz=3100.0, decay_s=0.001, noise=0.02)
    with pytest.raises(NotMeasurable, match="fewer than five"):
        mean_impact(audio, start_s=5.0, impact_s=IMPACTS_S[:4] + 5.0, band_hz=BAND_HZ)
