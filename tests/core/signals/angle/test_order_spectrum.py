"""Lines over the drum's angle: how unlikely noise alone shows them, and how faint a modulation they tell."""

from __future__ import annotations

import numpy as np
import pytest

from eager_ear.core.signals.angle.order_spectrum import TurnLines, turn_lines
from eager_ear.core.signals.angle.track import SpeedTrack
from eager_ear.core.units import FloatArray
from tests.core.signals.synthetic import track_of

RATE_HZ = 120.0
T_S = np.arange(int(40 * RATE_HZ)) / RATE_HZ
DRUM_HZ = np.interp(T_S, [0, 12, 28, 40], [4.5, 14.0, 14.0, 4.5])
TURNS = np.cumsum(DRUM_HZ) / RATE_HZ


def followed(share: float = 1.0) -> SpeedTrack:
    t_s = np.arange(0.0, 40.0, 0.125)
    return track_of(t_s, share * np.interp(t_s, T_S, DRUM_HZ))


def lines_of(values: FloatArray, *, turns: int = 64, share: float = 1.0) -> TurnLines:
    return turn_lines(values, followed(share), rate_hz=RATE_HZ, start_s=0.0, turns=turns)


def test_noise_alone_is_as_unlikely_as_it_says() -> None:
    rng = np.random.default_rng(3)
    said = np.array([lines_of(rng.standard_normal(T_S.size)).false_alarm_nats(1.0, reach=0.015) for _ in range(300)])
    for chance in (0.1, 0.02):
        assert (said > -np.log(chance)).mean() < 2.0 * chance
    # Nor is it all caution: noise does reach one in ten now and then.
    assert (said > -np.log(0.1)).any()


@pytest.mark.parametrize("order", [1.0, 2.6, 3.04])
def test_a_faint_modulation_adds_up_over_the_turns(order: float) -> None:
    # A tenth of the noise's amplitude: 20 dB below it, and nothing in a frame of two seconds.
    values = np.random.default_rng(4).standard_normal(T_S.size) + 0.15 * np.cos(2 * np.pi * order * TURNS)
    lines = lines_of(values)
    assert lines.false_alarm_nats(order, reach=0.01) > np.log(1e4)
    assert lines.strongest(order, reach=0.05) == pytest.approx(order, abs=0.5 / 64)
    assert lines.false_alarm_nats(1.3 * order, reach=0.01) < np.log(1e3)


def test_a_tone_of_the_room_is_smeared_over_the_orders() -> None:
    values = np.random.default_rng(5).standard_normal(T_S.size)
    before = lines_of(values).false_alarm_nats(1.0, reach=0.015)
    # At 5 Hz it lies beside every speed but one.
    assert lines_of(values + 0.3 * np.cos(2 * np.pi * 5.0 * T_S)).false_alarm_nats(1.0, reach=0.015) < before + 5.0


def test_tracks_too_short_for_a_segment_tell_nothing() -> None:
    lines = lines_of(np.random.default_rng(6).standard_normal(T_S.size), turns=2048)
    assert lines.rate_hz.size == 0
    assert lines.false_alarm_nats(1.0, reach=0.015) == 0.0


def test_the_clearest_line_has_a_finite_chance() -> None:
    lines = lines_of(np.cos(2 * np.pi * TURNS) + 1e-6 * np.random.default_rng(7).standard_normal(T_S.size))
    assert 1e3 < lines.false_alarm_nats(1.0, reach=0.015) < np.inf
