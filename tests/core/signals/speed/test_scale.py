"""A track that is off as a whole is put right by what the drum does once per turn, and says how well."""

from __future__ import annotations

import numpy as np
import pytest

from eager_ear.core.signals.angle.learnt_orders import OrderFamily
from eager_ear.core.signals.angle.track import FRAME_STEP_S, SpeedTrack
from eager_ear.core.signals.dsp.low_band import LowBand
from eager_ear.core.signals.speed.refine.scale import (
    PRIOR_SIGMA,
    TrackScale,
    find_scale,
    rescaled,
    rescaled_family,
)
from eager_ear.core.signals.types import AudioSignal
from eager_ear.core.units import FloatArray

RATE = 8000.0
T_S = np.arange(int(50 * RATE)) / RATE
DRUM_HZ = np.interp(T_S, [0, 20, 40, 50], [4.0, 18.0, 18.0, 5.0])
TURNS = np.cumsum(DRUM_HZ) / RATE


def heard(sound: FloatArray) -> LowBand:
    samples = (0.05 * sound).astype(np.float32)
    return LowBand.of(AudioSignal(samples=samples, sample_rate_hz=RATE), start_s=0.0, mains_hz=50)


def noise(seed: int) -> FloatArray:
    return np.random.default_rng(seed).standard_normal(T_S.size)


def off_by(share: float) -> SpeedTrack:
    t_s = np.arange(0.0, 50.0, FRAME_STEP_S)
    rate = np.interp(t_s, T_S, DRUM_HZ) * (1.0 + share)
    known = np.ones(t_s.size, dtype=bool)
    return SpeedTrack(t_s=t_s, rate_hz=rate, known=known, sigma_hz=0.002 * rate, source="audio")


@pytest.mark.parametrize("share", [-0.015, -0.004, 0.0, 0.007, 0.015])
def test_a_tone_once_per_turn_tells_the_scale(share: float) -> None:
    low = heard(noise(1) + 0.4 * np.cos(2 * np.pi * TURNS) + 0.2 * np.cos(2 * np.pi * 2 * TURNS))
    scale = find_scale(low, off_by(share))
    assert scale.sigma < 0.002
    assert scale.factor * (1.0 + share) == pytest.approx(1.0, abs=4 * scale.sigma)


@pytest.mark.parametrize("share", [-0.01, 0.01])
def test_noise_that_swells_once_per_turn_tells_the_scale(share: float) -> None:
    low = heard(noise(2) * (1.0 + 0.4 * np.cos(2 * np.pi * TURNS)))
    scale = find_scale(low, off_by(share))
    assert scale.factor * (1.0 + share) == pytest.approx(1.0, abs=0.002)


@pytest.mark.parametrize("seed", range(6))
def test_noise_alone_tells_no_scale(seed: int) -> None:
    scale = find_scale(heard(noise(seed)), off_by(0.01))
    assert scale.sigma > 0.4 * PRIOR_SIGMA
    assert abs(scale.factor - 1.0) < 2.5 * PRIOR_SIGMA


def test_a_room_tone_on_the_plateau_does_not_outvote_the_drum() -> None:
    # 18.2 Hz stands 1 % beside the drum for as long as the plateau lasts.
    low = heard(noise(3) + 0.4 * np.cos(2 * np.pi * TURNS) + 0.2 * np.cos(2 * np.pi * 18.2 * T_S))
    assert find_scale(low, off_by(0.0)).factor == pytest.approx(1.0, abs=0.004)


def test_a_direct_drive_has_its_motor_at_whole_orders() -> None:
    off = off_by(-0.008)
    learnt = np.array([24.0, 48.0, 36.0]) / 0.992
    scale = find_scale(heard(noise(4)), off, whole_orders=learnt)
    assert scale.factor == pytest.approx(1.0 / 0.992, abs=0.001)


def test_without_turning_at_speed_the_scale_stays_as_it_was() -> None:
    track = off_by(0.0)
    slow = SpeedTrack(
        t_s=track.t_s, rate_hz=0.1 * track.rate_hz, known=track.known, sigma_hz=track.sigma_hz, source="audio"
    )
    scale = find_scale(heard(noise(5)), slow)
    assert scale.factor == pytest.approx(1.0)
    assert scale.sigma == pytest.approx(PRIOR_SIGMA, rel=0.02)


def test_the_scale_moves_rates_and_orders_against_each_other() -> None:
    scale = TrackScale(factor=1.01, sigma=0.003)
    track = rescaled(off_by(0.0), scale)
    family = rescaled_family(OrderFamily(orders=np.array([24.24]), strengths=np.array([3.0])), scale)
    np.testing.assert_allclose(track.rate_hz, 1.01 * off_by(0.0).rate_hz)
    np.testing.assert_allclose(track.sigma_hz / track.rate_hz, np.hypot(0.002, 0.003))
    assert family.orders[0] == pytest.approx(24.0)
