"""Mirror images of a slow sensor: told apart by stamps that are not even, left alone where they are."""

from __future__ import annotations

import numpy as np
import pytest

from eager_ear.core.machine import Machine, find_layout
from eager_ear.core.signals.dsp.uniform_acceleration import even_acceleration
from eager_ear.core.signals.speed.find import FoundSpeed, SpeedSources, find_speed
from eager_ear.core.signals.speed.search.aliasing import aliased
from eager_ear.core.signals.types import AccelerationSignal
from eager_ear.core.units import FloatArray
from tests.core.signals.synthetic import profile

RATE_HZ = 25.0
FRAMES_S = np.arange(0.5, 43.0, 0.125)


def sampled(top_hz: float, *, scatter_s: float, noise: float = 0.3, seed: int = 0) -> AccelerationSignal:
    """A drum's once-per-turn shake as a sensor took it whose samples scatter in time, and that says when."""
    rng = np.random.default_rng(seed)
    fine_s, rate_hz = profile(top_hz=top_hz, rate=1000.0)
    t_s = np.arange(0.1, 43.9, 1.0 / RATE_HZ)
    t_s = t_s + np.clip(scatter_s * rng.standard_normal(t_s.size), -0.3 / RATE_HZ, 0.3 / RATE_HZ)
    shake = np.sin(2 * np.pi * np.cumsum(rate_hz) / 1000.0) * (rate_hz / top_hz) ** 2
    still = np.array([[0.0], [0.0], [9.81]]) + noise * rng.standard_normal((3, t_s.size))
    return AccelerationSignal(t_s=t_s, axes_m_s2=still + np.stack([np.interp(t_s, fine_s, shake), 0 * t_s, 0 * t_s]))


def truth(top_hz: float) -> FloatArray:
    return np.interp(FRAMES_S, *profile(top_hz=top_hz))


@pytest.mark.parametrize("top_hz", [9.0, 11.8, 13.1, 17.0])
def test_the_image_is_told_from_the_rate_on_either_side(top_hz: float) -> None:
    signal, rate_hz = sampled(top_hz, scatter_s=0.004), truth(top_hz)
    fast = rate_hz > 0.95 * top_hz
    right = aliased(signal, start_s=0.0, t_s=FRAMES_S, rate_hz=rate_hz, known=fast)
    assert not right.any()
    wrong = aliased(signal, start_s=0.0, t_s=FRAMES_S, rate_hz=RATE_HZ - rate_hz, known=fast)
    assert wrong.sum() > 0.7 * fast.sum()
    moved = aliased(signal, start_s=7.0, t_s=FRAMES_S + 7.0, rate_hz=RATE_HZ - rate_hz, known=fast)
    np.testing.assert_array_equal(moved, wrong)


def test_even_samples_noise_and_what_is_one_tell_nothing() -> None:
    everywhere = np.ones(FRAMES_S.size, dtype=bool)
    even = sampled(9.0, scatter_s=0.0)
    for rate_hz in (truth(9.0), RATE_HZ - truth(9.0)):
        assert not aliased(even, start_s=0.0, t_s=FRAMES_S, rate_hz=rate_hz, known=everywhere).any()
    claims = [
        aliased(
            sampled(9.0, scatter_s=0.006, noise=300.0, seed=seed),
            start_s=0.0,
            t_s=FRAMES_S,
            rate_hz=np.full(FRAMES_S.size, 8.0),
            known=everywhere,
        ).any()
        for seed in range(12)
    ]
    assert sum(claims) <= 1
    middle = np.full(FRAMES_S.size, 0.5 * RATE_HZ - 0.2)
    assert not aliased(
        sampled(12.3, scatter_s=0.006), start_s=0.0, t_s=FRAMES_S, rate_hz=middle, known=everywhere
    ).any()


@pytest.mark.parametrize("top_hz", [8.6, 16.0])
def test_a_plateau_alone_is_not_taken_for_its_image(top_hz: float) -> None:
    signal = sampled(top_hz, scatter_s=0.006)
    inside = (signal.t_s > 17.0) & (signal.t_s < 27.0)
    plateau = AccelerationSignal(t_s=signal.t_s[inside] - 17.0, axes_m_s2=signal.axes_m_s2[:, inside])
    assert _median_hz(_found(plateau, stamped=True)) == pytest.approx(top_hz, rel=0.01)
    # Without the stamps the faster of the two is taken, whichever it was.
    assert _median_hz(_found(plateau, stamped=False)) == pytest.approx(max(top_hz, RATE_HZ - top_hz), rel=0.01)


def _found(signal: AccelerationSignal, *, stamped: bool) -> FoundSpeed:
    sources = SpeedSources(
        acceleration=even_acceleration(signal, start_s=0.0), stamped=(signal, 0.0) if stamped else None
    )
    return find_speed(sources, machine=Machine(layout="front_direct"), layout=find_layout("front_direct"))


def _median_hz(found: FoundSpeed) -> float:
    return float(np.median(found.track.rate_hz[found.track.known]))
