"""Gravity, gaps and the step of a phone that slid."""

from __future__ import annotations

import numpy as np

from eager_ear.core.signals.dsp.uniform_acceleration import even_acceleration
from eager_ear.core.signals.types import AccelerationSignal

RATE = 100.0
T_S = np.arange(int(40 * RATE)) / RATE


def test_gravity_and_the_step_of_a_slide_are_taken_out() -> None:
    shake = 0.3 * np.cos(2 * np.pi * 0.8 * T_S)
    gravity = np.where(T_S < 20.0, 0.4, 2.9)
    even = even_acceleration(AccelerationSignal(t_s=T_S, axes_m_s2=np.stack([shake + gravity] * 3)), start_s=0.0)
    away = (np.abs(even.t_s - 20.0) > 1.0) & (even.t_s > 1.0) & (even.t_s < 38.0)
    left = even.axes_m_s2[0] - np.interp(even.t_s, T_S, shake)
    assert np.abs(left[away]).max() < 0.15
    assert np.abs(left).max() < 2.0


def test_a_gap_holds_nothing() -> None:
    shake = 2.0 * np.cos(2 * np.pi * 9.0 * T_S)
    kept = (T_S < 15.0) | (T_S > 16.0)
    signal = AccelerationSignal(t_s=T_S[kept], axes_m_s2=np.stack([shake[kept] + 9.81] * 3))
    even = even_acceleration(signal, start_s=0.0)
    inside = (even.t_s > 15.05) & (even.t_s < 15.95)
    assert inside.sum() > 80
    assert np.abs(even.axes_m_s2[:, inside]).max() == 0.0
    assert np.abs(even.axes_m_s2[:, ~inside]).max() > 1.8
