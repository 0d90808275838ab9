"""Hum at twice the mains, on lines and noise of known strength."""

from __future__ import annotations

import numpy as np
import pytest

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.drive.mains_hum import Hum, find_hum, room_hum_db
from eager_ear.core.signals.dsp.low_band import LowBand
from eager_ear.core.signals.types import AudioSignal

RATE_HZ = 16_000.0


def sound(*, lasts_s: float, on_s: tuple[float, float] | None, noise: float, mains_hz: int) -> LowBand:
    """A hum of amplitude 0.1 with two more multiples between two moments, in white noise."""
    t_s = np.arange(int(lasts_s * RATE_HZ)) / RATE_HZ
    out = noise * np.random.default_rng(3).standard_normal(t_s.size)
    if on_s is not None:
        on = (t_s >= on_s[0]) & (t_s < on_s[1])
        phase = 2 * np.pi * 2 * mains_hz * t_s
        out += 0.1 * on * (np.sin(phase) + 0.4 * np.sin(2 * phase) + 0.2 * np.sin(3 * phase))
    return LowBand.of(AudioSignal(samples=out.astype(np.float32), sample_rate_hz=RATE_HZ), start_s=0.0, mains_hz=None)


@pytest.mark.parametrize("mains_hz", [50, 60])
@pytest.mark.parametrize(("on_s", "lasts_s"), [((3.0, 8.0), 12.0), ((0.0, 5.0), 9.0), ((4.0, 9.0), 9.0)])
def test_a_hum_that_is_switched_is_timed(mains_hz: int, on_s: tuple[float, float], lasts_s: float) -> None:
    hum = find_hum(sound(lasts_s=lasts_s, on_s=on_s, noise=0.003, mains_hz=mains_hz))
    assert hum.frequency_hz == 2.0 * mains_hz
    assert hum.seconds == pytest.approx(5.0, abs=0.6)
    assert not hum.steady


@pytest.mark.parametrize("lasts_s", [4.0, 20.0])
def test_a_hum_that_stays_is_told_from_one_that_is_switched(lasts_s: float) -> None:
    hum = find_hum(sound(lasts_s=lasts_s, on_s=(0.0, lasts_s), noise=0.003, mains_hz=50))
    assert hum.steady
    assert hum.seconds == pytest.approx(lasts_s, abs=0.6)
    # Amplitude 0.1 is 23 dB below a full-scale square, as RMS.
    assert hum.level_db == pytest.approx(-23.0, abs=0.5)


def test_noise_alone_does_not_hum() -> None:
    hum = find_hum(sound(lasts_s=12.0, on_s=None, noise=0.05, mains_hz=50))
    assert hum.seconds == 0.0
    assert not hum.steady


@pytest.mark.parametrize("on_s", [(0.0, 10.0), (4.0, 7.0)])
@pytest.mark.parametrize("noise", [0.01, 0.08])
def test_how_much_of_all_sound_the_hum_is(on_s: tuple[float, float], noise: float) -> None:
    hum = find_hum(sound(lasts_s=10.0, on_s=on_s, noise=noise, mains_hz=50))
    # Three multiples of a sine against that part of the white noise which lies below 3 kHz.
    power = 0.5 * 0.1**2 * (1.0 + 0.4**2 + 0.2**2)
    below = noise**2 * 3000.0 / (RATE_HZ / 2)
    assert hum.share == pytest.approx(power / (power + below), abs=0.08)


def test_a_room_is_asked_at_both_mains() -> None:
    room = room_hum_db(sound(lasts_s=5.0, on_s=(0.0, 5.0), noise=0.001, mains_hz=60))
    assert room[120.0] == pytest.approx(-23.0, abs=0.5)
    assert room[100.0] < room[120.0] - 25.0


@pytest.mark.parametrize("samples", [8, 7_000])
def test_less_than_half_a_second_is_not_measurable(samples: int) -> None:
    empty = LowBand.of(
        AudioSignal(samples=np.zeros(samples, dtype=np.float32), sample_rate_hz=RATE_HZ), start_s=0.0, mains_hz=50
    )
    with pytest.raises(NotMeasurable):
        find_hum(empty)


def test_a_silent_recording_gives_no_hum() -> None:
    silent = AudioSignal(samples=np.zeros(48_000, dtype=np.float32), sample_rate_hz=RATE_HZ)
    hum = find_hum(LowBand.of(silent, start_s=0.0, mains_hz=50))
    assert isinstance(hum, Hum)
    assert hum.seconds == 0.0
