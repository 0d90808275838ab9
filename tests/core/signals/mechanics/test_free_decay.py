"""A recorded push against decays in closed form."""

from __future__ import annotations

import numpy as np
import pytest

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.dsp.uniform_acceleration import EvenAcceleration
from eager_ear.core.signals.mechanics.free_decay import measure_bounce

RATE = 100.0


def pushed(*, rate_hz: float, damping: float, friction: float = 0.0, noise: float = 0.0) -> EvenAcceleration:
    """Free decay of a mass with viscous and Coulomb damping, marched finely; friction as static sag over push."""
    dt = 0.0005
    w = 2 * np.pi * rate_hz
    x, v = 1.0, 0.0
    count = int(8.0 / dt)
    moved = np.zeros(count)
    for i in range(count):
        v -= dt * (w * w * x + 2 * damping * w * v + friction * w * w * np.tanh(v / (0.002 * w)))
        x += dt * v
        moved[i] = x
    accelerated = 0.02 * np.gradient(np.gradient(moved, dt), dt)[:: int(1 / RATE / dt)]
    still = np.zeros(150)
    z = np.concatenate([still, accelerated])
    axes = np.stack([0 * z, z]) + noise * np.random.default_rng(0).standard_normal((2, z.size))
    return EvenAcceleration(axes_m_s2=axes, axis_names=("x", "z"), sample_rate_hz=RATE, start_s=0.0, gaps_s=())


@pytest.mark.parametrize(("rate_hz", "damping"), [(2.0, 0.04), (3.5, 0.1), (1.5, 0.07), (4.0, 0.02)])
def test_frequency_and_damping_ratio_of_a_viscous_decay(rate_hz: float, damping: float) -> None:
    found = measure_bounce(pushed(rate_hz=rate_hz, damping=damping, noise=0.005))
    assert found.axis == "z"
    assert found.rate_hz == pytest.approx(rate_hz, rel=0.03)
    assert found.damping_ratio == pytest.approx(damping, rel=0.2)
    assert abs(found.damping_ratio - damping) < 5.0 * max(found.damping_sigma, 0.003)


def test_friction_is_told_from_viscous_damping() -> None:
    smooth = measure_bounce(pushed(rate_hz=2.0, damping=0.03))
    rubbed = measure_bounce(pushed(rate_hz=2.0, damping=0.03, friction=0.03))
    assert rubbed.friction_share > smooth.friction_share + 0.08
    assert rubbed.damping_ratio < 0.075


def test_the_push_may_come_upside_down_and_louder() -> None:
    first = pushed(rate_hz=2.5, damping=0.06)
    turned = EvenAcceleration(
        axes_m_s2=-4.0 * first.axes_m_s2, axis_names=("x", "z"), sample_rate_hz=RATE, start_s=5.0, gaps_s=()
    )
    assert measure_bounce(turned).damping_ratio == pytest.approx(measure_bounce(first).damping_ratio, rel=1e-6)


def test_nothing_is_read_from_noise_or_from_a_stub() -> None:
    noise = np.random.default_rng(1).standard_normal((2, 900)) * 0.02
    with pytest.raises(NotMeasurable):
        measure_bounce(
            EvenAcceleration(axes_m_s2=noise, axis_names=("x", "z"), sample_rate_hz=RATE, start_s=0.0, gaps_s=())
        )
    stub = pushed(rate_hz=2.0, damping=0.05)
    with pytest.raises(NotMeasurable, match="two seconds"):
        measure_bounce(
            EvenAcceleration(
                axes_m_s2=stub.axes_m_s2[:, :250], axis_names=("x", "z"), sample_rate_hz=RATE, start_s=0.0, gaps_s=()
            )
        )
