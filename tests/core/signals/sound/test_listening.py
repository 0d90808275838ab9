"""Sound for the ear: what is asked for stays, what is not goes, and nothing clicks."""

from __future__ import annotations

import numpy as np
import pytest

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.sound.listening import (
    CARRIER_HZ,
    PEAK,
    alternated,
    at_rate,
    band_passed,
    beat_on_a_tone,
    cut,
    envelope_on_a_tone,
    for_the_ear,
    one_turn_again,
    orders_alone,
)
from eager_ear.core.signals.sound.time_stretch import slowed_down
from eager_ear.core.signals.types import AudioSignal
from eager_ear.core.units import FloatArray

RATE = 16000.0
T_S = np.arange(int(6.0 * RATE)) / RATE
# A drum that speeds up from 10 to 12 turns a second.
TURNS = 10.0 * T_S + T_S**2 / 6.0
INSIDE = slice(int(1.0 * RATE), int(5.0 * RATE))


def rms(samples: FloatArray) -> float:
    return float(np.sqrt(np.mean(np.square(samples))))


def strongest_hz(samples: FloatArray) -> float:
    spectrum = np.abs(np.fft.rfft(samples * np.hanning(samples.size)))
    return float(spectrum.argmax() * RATE / samples.size)


def test_a_stretch_is_cut_on_the_runs_clock_and_faded() -> None:
    audio = AudioSignal(samples=np.full(int(4 * RATE), 0.5, dtype=np.float32), sample_rate_hz=RATE)
    piece = cut(audio, start_s=2.0, begin_s=3.0, end_s=4.5)
    assert piece.size == pytest.approx(1.5 * RATE, abs=2)
    assert abs(piece[0]) < 0.01
    assert abs(piece[-1]) < 0.01
    assert piece[piece.size // 2] == pytest.approx(0.5)
    assert cut(audio, start_s=2.0, begin_s=0.0, end_s=2.5).size == pytest.approx(0.5 * RATE, abs=2)
    with pytest.raises(NotMeasurable):
        cut(audio, start_s=2.0, begin_s=6.5, end_s=8.0)


def test_a_band_keeps_its_own_and_names_what_it_cannot_hold() -> None:
    both = np.sin(2 * np.pi * 120.0 * T_S) + np.sin(2 * np.pi * 3100.0 * T_S)
    high = band_passed(both, sample_rate_hz=RATE, low_hz=2000.0, high_hz=5000.0)
    assert rms(high[INSIDE] - np.sin(2 * np.pi * 3100.0 * T_S)[INSIDE]) < 0.02
    with pytest.raises(NotMeasurable, match="8 kHz"):
        band_passed(both, sample_rate_hz=8000.0, low_hz=6000.0, high_hz=9000.0)


@pytest.mark.parametrize("order", [1.0, 3.0, 11.37])
def test_an_order_is_taken_out_whole_and_nothing_else_is(order: float) -> None:
    noise = 0.2 * np.random.default_rng(3).standard_normal(T_S.size)
    tone = 0.5 * np.cos(2 * np.pi * order * TURNS + 0.4)
    other = 0.3 * np.cos(2 * np.pi * (order + 2.5) * TURNS)
    alone = orders_alone(noise + tone + other, sample_rate_hz=RATE, turns=TURNS, orders=[order])
    assert rms((alone - tone)[INSIDE]) < 0.03 * rms(tone)
    left = noise + tone + other - alone
    assert rms((left - noise - other)[INSIDE]) < 0.03 * rms(tone)
    np.testing.assert_allclose(orders_alone(noise, sample_rate_hz=RATE, turns=TURNS, orders=[]), 0.0)


def test_orders_above_what_is_heard_are_left_alone() -> None:
    tone = np.cos(2 * np.pi * 20.0 * TURNS)
    out = orders_alone(tone, sample_rate_hz=RATE, turns=TURNS, orders=[2000.0])
    np.testing.assert_allclose(out, 0.0)


def test_an_envelope_becomes_the_loudness_of_a_tone() -> None:
    rng = np.random.default_rng(1)
    rattle = (1.0 + 0.9 * np.sin(2 * np.pi * 37.0 * T_S)) * rng.standard_normal(T_S.size)
    heard = envelope_on_a_tone(rattle, sample_rate_hz=RATE, low_hz=2000.0, high_hz=6000.0)
    assert strongest_hz(heard) == pytest.approx(CARRIER_HZ, abs=1.0)
    spectrum = np.abs(np.fft.rfft(heard * np.hanning(heard.size)))
    frequency = np.fft.rfftfreq(heard.size, 1 / RATE)
    side = spectrum[np.abs(frequency - CARRIER_HZ - 37.0) < 1.0].max()
    beside = np.median(spectrum[np.abs(frequency - CARRIER_HZ - 60.0) < 15.0])
    assert side > 20.0 * beside


def test_an_order_too_low_to_hear_beats_a_tone() -> None:
    low = 0.01 * np.sin(2 * np.pi * 11.0 * T_S)
    heard = beat_on_a_tone(low, sample_rate_hz=RATE)
    spectrum = np.abs(np.fft.rfft(heard * np.hanning(heard.size)))
    frequency = np.fft.rfftfreq(heard.size, 1 / RATE)
    near = [spectrum[np.abs(frequency - CARRIER_HZ - shift) < 0.5].max() for shift in (0.0, 11.0, -11.0)]
    np.testing.assert_allclose(np.array(near) / near[0], [1.0, 0.5, 0.5], rtol=0.05)


def test_one_turn_comes_again_at_the_drums_rate_without_a_click() -> None:
    wave = np.sin(2 * np.pi * TURNS) + 0.5 * np.sin(2 * np.pi * 3.0 * TURNS)
    loop = one_turn_again(wave, sample_rate_hz=RATE, turns=TURNS, seconds=3.0)
    period = int(np.searchsorted(TURNS, 1.0))
    middle = loop[period : 2 * period]
    np.testing.assert_array_equal(middle, loop[10 * period : 11 * period])
    assert np.abs(np.diff(loop)).max() < 1.5 * np.abs(np.diff(wave)).max()
    with pytest.raises(NotMeasurable):
        one_turn_again(wave[:900], sample_rate_hz=RATE, turns=TURNS[:900], seconds=3.0)


def test_two_spins_are_heard_in_turns_at_one_loudness() -> None:
    quiet, loud = 0.01 * np.sin(2 * np.pi * 200.0 * T_S), 0.8 * np.sin(2 * np.pi * 330.0 * T_S)
    both = alternated(quiet, loud, sample_rate_hz=RATE, piece_s=1.0)
    piece, pause = int(RATE), int(0.15 * RATE)
    parts = [both[k * (piece + pause) : k * (piece + pause) + piece] for k in range(4)]
    assert [round(strongest_hz(p)) for p in parts] == [200, 330, 200, 330]
    assert rms(parts[1]) == pytest.approx(rms(parts[0]), rel=0.02)


def test_another_sample_rate_sounds_the_same() -> None:
    tone = np.sin(2 * np.pi * 440.0 * np.arange(22050) / 22050.0)
    assert strongest_hz(at_rate(tone, from_hz=22050.0, to_hz=RATE)) == pytest.approx(440.0, abs=1.0)


@pytest.mark.parametrize(("peak", "raised_db"), [(0.07, 20.0), (1.4, -6.0), (1e-5, 40.0)])
def test_faint_sound_is_raised_and_how_far_is_told(peak: float, raised_db: float) -> None:
    heard = for_the_ear(peak * np.sin(2 * np.pi * 300.0 * T_S), sample_rate_hz=RATE)
    assert heard.raised_db == pytest.approx(raised_db, abs=0.1)
    assert np.abs(heard.samples).max() <= PEAK * 1.001


@pytest.mark.parametrize("times", [1.0, 2.0, 4.0, 7.5])
def test_slower_at_the_same_pitch(times: float) -> None:
    tone = np.sin(2 * np.pi * 437.0 * T_S[: int(2 * RATE)]).astype(np.float32)
    slow = slowed_down(tone, sample_rate_hz=RATE, times=times)
    assert slow.size == round(times * tone.size)
    assert strongest_hz(slow[int(0.2 * RATE) : -int(0.2 * RATE)]) == pytest.approx(437.0, abs=1.5)
    assert rms(slow[int(0.2 * RATE) : -int(0.2 * RATE)]) == pytest.approx(rms(tone), rel=0.05)


def test_ticks_stay_ticks_and_move_apart() -> None:
    ticks = 0.001 * np.random.default_rng(2).standard_normal(int(2 * RATE))
    for at in np.arange(0.2, 1.9, 0.25):
        ticks[int(at * RATE) : int(at * RATE) + 24] += np.sin(2 * np.pi * 3000.0 * np.arange(24) / RATE)
    slow = slowed_down(ticks.astype(np.float32), sample_rate_hz=RATE, times=3.0)
    loud = np.flatnonzero(np.abs(slow) > 0.3) / RATE
    begins = loud[np.diff(loud, prepend=-1.0) > 0.1]
    assert begins.size == 7
    np.testing.assert_allclose(np.diff(begins), 0.75, atol=0.06)
    with pytest.raises(NotMeasurable):
        slowed_down(ticks[:800].astype(np.float32), sample_rate_hz=RATE, times=2.0)
