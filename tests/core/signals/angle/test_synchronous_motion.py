"""Motion over one turn: known amplitudes and phases come back, whatever the track's angle drifts by."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.angle.order_amplitudes import order_curves
from eager_ear.core.signals.angle.synchronous_motion import TurnMotion, turn_motion
from eager_ear.core.signals.dsp.uniform_acceleration import EvenAcceleration, even_acceleration
from eager_ear.core.signals.types import AccelerationSignal
from tests.core.signals.synthetic import steady_track

RATE_HZ = 12.0


def shaking(*, second: float, noise: float = 0.01, seconds: float = 20.0) -> EvenAcceleration:
    """x moves 1 mm once per turn and `second` mm twice, a quarter turn later; z follows x by a third of a turn."""
    t_s = np.arange(0.0, seconds, 0.005)
    angle = 2 * np.pi * RATE_HZ * t_s
    omega = 2 * np.pi * RATE_HZ
    x = -(omega**2) * 1e-3 * (np.cos(angle + 0.6) + 4.0 * second * np.sin(2.0 * (angle + 0.6)))
    z = -(omega**2) * 0.5e-3 * np.cos(angle + 0.6 - 2 * np.pi / 3)
    axes = np.stack([x, np.zeros_like(x), z + 9.81]) + noise * np.random.default_rng(4).standard_normal((3, t_s.size))
    return even_acceleration(AccelerationSignal(t_s=t_s, axes_m_s2=axes), start_s=0.0)


def measured(acceleration: EvenAcceleration, *, off: float = 0.0) -> TurnMotion:
    track = steady_track(rate_hz=RATE_HZ * (1.0 + off), seconds=20.0)
    return turn_motion(order_curves(acceleration, track=track), track=track)


@pytest.mark.parametrize("off", [0.0, 0.001, -0.003])
def test_amplitudes_and_angles_come_back(off: float) -> None:
    found = measured(shaking(second=0.2), off=off)
    assert (found.main_axis, found.axis_names) == (0, ("x", "y", "z"))
    assert found.speed_rpm == pytest.approx(720.0 * (1.0 + off))
    x, y, z = found.amplitude_mm
    assert x[0] == pytest.approx(1.0, rel=0.02)
    assert x[1] == pytest.approx(-0.2j, abs=0.012)
    assert z[0] == pytest.approx(0.5 * np.exp(-2j * np.pi / 3), abs=0.02)
    assert abs(y[0]) < 0.01
    over = found.displacement_mm(48)
    angle = 2 * np.pi * np.arange(48) / 48
    np.testing.assert_allclose(over[0], np.cos(angle) + 0.2 * np.sin(2 * angle), atol=0.04)


def test_what_is_not_clear_is_left_out_of_the_shape() -> None:
    found = measured(shaking(second=0.0, noise=0.5))
    assert (found.clear[0, 1:] == 0.0).all()
    assert found.clear[0, 0] == pytest.approx(1.0, rel=0.05)
    assert (found.sigma_mm > 0.0).all()


def test_no_full_speed_and_no_motion_are_said() -> None:
    track = steady_track(rate_hz=RATE_HZ, seconds=20.0)
    curves = order_curves(shaking(second=0.1), track=track)
    short = replace(curves, known=curves.known & (curves.t_s < 2.0))
    with pytest.raises(NotMeasurable, match="3 s"):
        turn_motion(short, track=track)
    t_s = np.arange(0.0, 20.0, 0.005)
    still = np.random.default_rng(1).standard_normal((3, t_s.size)) * 0.02 + np.array([[0.0], [0.0], [9.81]])
    quiet = even_acceleration(AccelerationSignal(t_s=t_s, axes_m_s2=still), start_s=0.0)
    with pytest.raises(NotMeasurable, match="hardly moves"):
        turn_motion(order_curves(quiet, track=track), track=track)
