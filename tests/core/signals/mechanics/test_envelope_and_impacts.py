"""Bearing lines and impacts on signals built from closed forms."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import signal as sps

from eager_ear.core.diagnosis.evidence.sound_findings import irregular_taps
from eager_ear.core.errors import NotMeasurable
from eager_ear.core.machine import BEARINGS, find_bearing, race_orders
from eager_ear.core.signals.dsp.band_envelopes import SectionSpectrum, SoundSections
from eager_ear.core.signals.impacts.find import find_impacts, require_no_impacts
from eager_ear.core.signals.mechanics.envelope_spectrum import (
    SEGMENT_TURNS,
    EnvelopeSpectrum,
    _fit_shape,
    envelope_spectra,
)
from eager_ear.core.signals.mechanics.race_lines import find_race_lines
from eager_ear.core.signals.run_measurement import RunMeasurement
from eager_ear.core.signals.types import AudioSignal
from eager_ear.core.units import FloatArray
from eager_ear.knowledge import load_knowledge
from tests.core.signals.synthetic import steady_track, track_of

RATE = 24000.0
SECONDS = 16.0
DRUM_HZ = 15.0
SIZE = find_bearing("6206")


def rung(
    times_s: FloatArray,
    *,
    noise: float,
    band_hz: float,
    seed: int,
    gain: FloatArray | float = 1.0,
    seconds: float = SECONDS,
) -> AudioSignal:
    """Impulses at those times through one resonance, in white noise."""
    rng = np.random.default_rng(seed)
    train = np.zeros(int(RATE * seconds))
    index = (times_s * RATE).astype(int)
    inside = index < train.size
    train[index[inside]] = (np.ones(times_s.size) * gain)[inside]
    t = np.arange(int(0.004 * RATE)) / RATE
    ring = np.exp(-1500.0 * t) * np.sin(2 * np.pi * band_hz * t)
    samples = 0.3 * sps.oaconvolve(train, ring)[: train.size] + noise * rng.standard_normal(train.size)
    return AudioSignal(samples=(0.1 * samples).astype(np.float32), sample_rate_hz=RATE)


def sections(audio: AudioSignal) -> SoundSections:
    return SoundSections(audio, start_s=0.0)


@pytest.mark.parametrize("race", ["outer_race", "inner_race"])
def test_lines_are_found_at_the_race_they_belong_to(race: str) -> None:
    order = getattr(race_orders(SIZE), race) * 0.99
    rng = np.random.default_rng(3)
    passages = np.arange(1, int(order * DRUM_HZ * SECONDS)) + np.cumsum(
        0.003 * rng.standard_normal(int(order * DRUM_HZ * SECONDS) - 1)
    )
    gain = 1.0 + 0.8 * np.cos(2 * np.pi * passages / order) if race == "inner_race" else 1.0
    audio = rung(passages / (order * DRUM_HZ), noise=0.05, band_hz=3000.0, seed=4, gain=gain)
    spectra = envelope_spectra(sections(audio), track=steady_track(rate_hz=DRUM_HZ, seconds=SECONDS))
    best = find_race_lines(spectra, bearings=[("rear", SIZE)])[0]
    assert f"{best.race}_race" == race
    assert best.order == pytest.approx(order, rel=0.004)
    assert best.false_alarm < 1e-6


def test_noise_raises_no_alarm_more_often_than_stated() -> None:
    track = steady_track(rate_hz=DRUM_HZ, seconds=SECONDS)
    alarms = 0
    for seed in range(12):
        spectra = envelope_spectra(sections(rung(np.zeros(0), noise=1.0, band_hz=3000.0, seed=seed)), track=track)
        lines = find_race_lines(spectra, bearings=[("", size) for size in BEARINGS])
        alarms += bool(lines and lines[0].false_alarm < 0.01)
    assert alarms <= 1


def test_talk_in_a_few_turns_and_hunting_about_whole_turns_are_no_race() -> None:
    order, seconds = race_orders(SIZE).inner_race, 48.0
    track = steady_track(rate_hz=DRUM_HZ, seconds=seconds)
    # Loud glottal pulses, by chance at the race's own rate, for a second and a half.
    talk = np.arange(6.0, 7.5, 1.0 / (order * DRUM_HZ))
    # Two knocks a turn, whose angle sways with a speed that the track does not follow.
    turns = np.arange(0.0, DRUM_HZ * seconds, 0.5)
    swaying = (turns + 0.08 * np.sin(2 * np.pi * 0.11 * turns)) / DRUM_HZ
    for times, gain in ((talk, 3.0), (swaying, 1.0)):
        audio = rung(times, noise=0.05, band_hz=3000.0, seed=6, gain=gain, seconds=seconds)
        spectra = envelope_spectra(sections(audio), track=track)
        best = find_race_lines(spectra, bearings=[("rear", SIZE), ("front", SIZE)])
        assert not best or best[0].false_alarm > 0.01


def test_a_race_close_to_a_whole_order_needs_many_turns() -> None:
    """6203's outer race with a little slip passes 3.02 balls a turn: two bins of a short segment off three knocks."""
    size = find_bearing("6203")
    order = 3.02
    knocks = np.arange(0.0, 40.0 * DRUM_HZ, 1.0 / 3.0) / DRUM_HZ
    for seconds, outcome in ((40.0, True), (12.0, False)):
        track = steady_track(rate_hz=DRUM_HZ, seconds=seconds)
        damaged = rung(
            np.arange(1, order * DRUM_HZ * seconds) / (order * DRUM_HZ),
            noise=0.1,
            band_hz=3000.0,
            seed=8,
            seconds=seconds,
        )
        drum = rung(knocks, noise=0.1, band_hz=3000.0, seed=8, seconds=seconds)
        for audio, present in ((damaged, True), (drum, False)):
            best = find_race_lines(envelope_spectra(sections(audio), track=track), bearings=[("rear", size)])
            assert bool(best and best[0].false_alarm < 0.01) == (present and outcome)


def test_a_tick_that_wanders_round_the_drum_is_no_race_beside_a_whole_order() -> None:
    """What lies loose in an emptied drum ticks once a turn at an angle that drifts: skirts, but no race at 2.985."""
    size = find_bearing("6203")
    seconds = 48.0
    track = steady_track(rate_hz=DRUM_HZ, seconds=seconds)
    claims = 0
    for seed in range(8):
        rng = np.random.default_rng(seed)
        turns = np.arange(int(DRUM_HZ * seconds))
        drift = np.cumsum(0.012 * rng.standard_normal(turns.size))
        audio = rung(
            np.sort(turns + 0.3 + drift) / DRUM_HZ, noise=0.1, band_hz=3000.0, seed=seed, gain=2.0, seconds=seconds
        )
        best = find_race_lines(envelope_spectra(sections(audio), track=track), bearings=[("rear", size)])
        claims += bool(best and best[0].false_alarm < 0.01)
    assert claims == 0


def spectrum_of(power: FloatArray, *, averages: float) -> EnvelopeSpectrum:
    order = np.arange(power.size) / SEGMENT_TURNS
    return EnvelopeSpectrum(
        band_hz=(2000.0, 4000.0),
        order=order,
        ratio=power,
        averages=averages,
        turns=900,
        segment_turns=SEGMENT_TURNS,
    )


def test_what_is_stronger_nearer_to_a_whole_order_hides_a_line() -> None:
    rng = np.random.default_rng(1)
    size = find_bearing("6203")
    order = race_orders(size).outer_race
    lines = np.rint(SEGMENT_TURNS * order * np.array([1, 2, 3])).astype(int)
    beside = 2 * SEGMENT_TURNS * np.rint(lines / SEGMENT_TURNS).astype(int) - lines
    found = []
    for hidden in (False, True):
        power = rng.gamma(12.0, 1.0 / 12.0, 24 * SEGMENT_TURNS + 1)
        power[lines] = 5.0
        if hidden:
            power[beside] = 6.0
        best = find_race_lines([spectrum_of(power, averages=12.0)], bearings=[("rear", size)])
        found.append(bool(best and best[0].race == "outer" and best[0].false_alarm < 0.01))
    assert found == [True, False]
    most, _ = spectrum_of(power, averages=12.0).beside_turn
    assert most[lines] == pytest.approx(6.0)
    assert most[: SEGMENT_TURNS // 2].max() == 0.0


def test_one_line_between_its_sidebands_is_a_race_and_alone_it_is_not() -> None:
    """A damaged inner race passes the load once a turn: its line stands between two that are a turn away."""
    rng = np.random.default_rng(4)
    order = race_orders(SIZE).inner_race
    found = []
    for shape in ((0,), (0, -1), (0, -1, 1), "aliased"):
        power = rng.gamma(12.0, 1.0 / 12.0, 24 * SEGMENT_TURNS + 1)
        middle = round(SEGMENT_TURNS * order)
        for turn in (0, -1, 1) if shape == "aliased" else shape:
            power[middle + turn * SEGMENT_TURNS] = 4.0
            if shape == "aliased":
                # The drum's own, hunting: as much on the other side of every whole order.
                power[2 * SEGMENT_TURNS * round(order + turn) - middle - turn * SEGMENT_TURNS] = 4.0
        best = find_race_lines([spectrum_of(power, averages=12.0)], bearings=[("rear", SIZE)])
        found.append(bool(best and best[0].race == "inner" and best[0].false_alarm < 0.01))
    assert found == [False, False, True, False]


def test_a_floor_with_heavy_tails_buys_no_significance() -> None:
    """A few segments of talk lift single orders far and leave the middle of all values as it was."""
    rng = np.random.default_rng(2)
    even = rng.gamma(5.0, 1.0 / 5.0, 20000)
    lifted = np.where(rng.random(even.size) < 0.04, 3.0 * even, even)
    assert _fit_shape(even, 9.0) == pytest.approx(5.0, rel=0.1)
    assert _fit_shape(even, 3.0) == 3.0
    assert _fit_shape(lifted, 9.0) < 3.5
    alarms = {"by its own scatter": 0, "by its middle": 0}
    for _ in range(120):
        power = rng.gamma(5.0, 1.0 / 5.0, 24 * SEGMENT_TURNS + 1)
        power[rng.random(power.size) < 0.04] *= 3.0
        for name, averages in (("by its own scatter", _fit_shape(power, 9.0)), ("by its middle", 5.0)):
            best = find_race_lines([spectrum_of(power, averages=averages)], bearings=[("rear", SIZE), ("front", SIZE)])
            alarms[name] += bool(best and best[0].false_alarm < 0.01)
    assert alarms["by its own scatter"] < 0.5 * alarms["by its middle"]


def test_a_silent_recording_or_no_bearing_shows_no_line() -> None:
    track = steady_track(rate_hz=DRUM_HZ, seconds=SECONDS)
    silent = AudioSignal(samples=np.zeros(int(RATE * SECONDS), dtype=np.float32), sample_rate_hz=RATE)
    assert find_race_lines(envelope_spectra(sections(silent), track=track), bearings=[("rear", SIZE)]) == ()
    noise = rung(np.zeros(0), noise=1.0, band_hz=3000.0, seed=1)
    assert find_race_lines(envelope_spectra(sections(noise), track=track), bearings=[]) == ()


def test_envelope_does_not_care_about_level() -> None:
    order = race_orders(SIZE).outer_race
    times = np.arange(1, order * DRUM_HZ * SECONDS) / (order * DRUM_HZ)
    quiet = rung(times, noise=0.2, band_hz=3000.0, seed=5)
    loud = AudioSignal(samples=quiet.samples * np.float32(7.0), sample_rate_hz=RATE)
    track = steady_track(rate_hz=DRUM_HZ, seconds=SECONDS)
    found = [
        find_race_lines(envelope_spectra(sections(a), track=track), bearings=[("", SIZE)])[0] for a in (quiet, loud)
    ]
    assert found[0].order == found[1].order
    assert found[0].ratio_db == pytest.approx(found[1].ratio_db, abs=0.05)


@pytest.mark.parametrize("per_turn", [1, 2])
def test_ticks_are_counted_per_turn(per_turn: int) -> None:
    angles = np.arange(0, DRUM_HZ * SECONDS, 1.0 / per_turn)
    if per_turn == 2:
        angles = angles + 0.07 * (np.arange(angles.size) % 2)
    audio = rung(angles / DRUM_HZ + 0.01, noise=0.02, band_hz=5000.0, seed=6)
    found = find_impacts(sections(audio), track=steady_track(rate_hz=DRUM_HZ, seconds=SECONDS))["tick"]
    assert found.per_turn == per_turn
    assert found.rayleigh_z > 4.0 or per_turn == 2
    assert found.speed_rpm is not None
    assert found.speed_rpm[0] == pytest.approx(60 * DRUM_HZ, rel=0.02)


def test_a_sound_without_impacts_has_none_that_come_every_turn_and_one_with_impacts_needs_the_speed() -> None:
    rng = np.random.default_rng(15)
    hiss = rung(np.zeros(0), noise=1.0, band_hz=700.0, seed=16)
    require_no_impacts(sections(hiss))
    with pytest.raises(NotMeasurable, match="without the speed"):
        require_no_impacts(sections(rung(np.sort(rng.uniform(0, SECONDS, 12)), noise=0.02, band_hz=700.0, seed=17)))


def creaking(*, pitch_hz: float, noise: FloatArray, seconds: float = SECONDS) -> AudioSignal:
    """One short creak a turn beside noise of any colour."""
    turns = np.arange(1.0, DRUM_HZ * seconds - 1.0)
    clean = rung(turns / DRUM_HZ, noise=0.0, band_hz=pitch_hz, seed=0, seconds=seconds).samples
    return AudioSignal(samples=(clean + noise).astype(np.float32), sample_rate_hz=RATE)


def test_a_creak_is_counted_beside_a_louder_rumble() -> None:
    count = int(RATE * SECONDS)
    # Brown noise: 6 dB an octave stronger towards low frequencies.
    rumble = sps.lfilter([1.0], [1.0, -0.999], np.random.default_rng(4).standard_normal(count))
    audio = creaking(pitch_hz=1300.0, noise=0.006 * rumble)
    found = find_impacts(sections(audio), track=steady_track(rate_hz=DRUM_HZ, seconds=SECONDS))
    assert found["knock"].per_turn == 1.0
    alone = AudioSignal(samples=(0.006 * rumble).astype(np.float32), sample_rate_hz=RATE)
    nothing = find_impacts(sections(alone), track=steady_track(rate_hz=DRUM_HZ, seconds=SECONDS))
    assert all(band.per_turn == 0.0 for band in nothing.values())


def test_ticks_are_counted_where_the_upper_part_of_the_band_is_empty() -> None:
    count = int(RATE * SECONDS)
    low_pass = sps.butter(10, 4000.0, fs=RATE, output="sos")
    noise = sps.sosfilt(low_pass, np.random.default_rng(5).standard_normal(count))
    audio = creaking(pitch_hz=2800.0, noise=0.006 * noise)
    found = find_impacts(sections(audio), track=steady_track(rate_hz=DRUM_HZ, seconds=SECONDS))
    assert found["tick"].per_turn == 1.0


def test_whitened_noise_is_as_strong_in_every_part_of_a_band() -> None:
    count = int(RATE * SECONDS)
    brown = sps.lfilter([1.0], [1.0, -0.99], np.random.default_rng(6).standard_normal(count)).astype(np.float32)
    section = SectionSpectrum.of(brown, sample_rate_hz=RATE)

    def halves(colour: FloatArray | None) -> float:
        base, rate = section.baseband(500.0, 2000.0, colour=colour)
        power = np.square(np.abs(np.fft.fft(base)))
        lower, upper = (
            power[int(a * base.size / rate) : int(b * base.size / rate)] for a, b in ((200, 700), (800, 1300))
        )
        return float(10.0 * np.log10(lower.mean() / upper.mean()))

    assert halves(None) > 4.0
    assert abs(halves(section.colour(up_to_hz=2000.0))) < 0.5


def test_untied_clicks_and_smooth_modulation_are_no_impacts() -> None:
    rng = np.random.default_rng(7)
    track = steady_track(rate_hz=DRUM_HZ, seconds=SECONDS)
    random = rung(np.sort(rng.uniform(0, SECONDS, 240)), noise=0.05, band_hz=5000.0, seed=8)
    t_s = np.arange(int(RATE * SECONDS)) / RATE
    modulation = 1.0 + 0.3 * np.cos(2 * np.pi * DRUM_HZ * t_s)
    smooth = AudioSignal(
        samples=(0.05 * modulation * rng.standard_normal(t_s.size)).astype(np.float32), sample_rate_hz=RATE
    )
    for audio in (random, smooth):
        assert {f.per_turn for f in find_impacts(sections(audio), track=track).values()} == {0.0}


def test_irregular_taps_are_counted_at_speed_only() -> None:
    rng = np.random.default_rng(9)
    t_s = np.arange(0.0, SECONDS, 0.125)
    # Slow for the first half, fast for the second; the taps come all the time.
    track = track_of(t_s, np.where(t_s < 8.0, 3.0, DRUM_HZ))
    taps = np.sort(rng.uniform(0.0, SECONDS, 32))
    audio = rung(taps, noise=0.02, band_hz=700.0, seed=10, gain=3.0)
    knock = find_impacts(sections(audio), track=track)["knock"]
    fast = int((taps > 8.0).sum())
    assert knock.per_turn == 0.0
    assert knock.irregular is not None
    assert knock.irregular.per_s == pytest.approx(fast / 8.0, rel=0.25)
    assert knock.irregular.sigma_per_s == pytest.approx(np.sqrt(fast) / 8.0, rel=0.3)
    assert knock.irregular.from_rpm == pytest.approx(60 * DRUM_HZ, rel=0.02)
    calm = find_impacts(sections(rung(np.zeros(0), noise=1.0, band_hz=700.0, seed=11)), track=track)
    assert {f.irregular.per_s for f in calm.values() if f.irregular is not None} == {0.0}
    # Less than three seconds at speed tell nothing, not even that all is calm.
    short = find_impacts(sections(audio), track=track_of(t_s, np.where(t_s < 14.0, 3.0, DRUM_HZ)))
    assert {f.irregular for f in short.values()} == {None}


def test_irregular_taps_speak_for_something_loose_and_not_beside_a_tick() -> None:
    finding = load_knowledge().findings["irregular_taps"]
    track = steady_track(rate_hz=DRUM_HZ, seconds=SECONDS)
    taps = np.sort(np.random.default_rng(12).uniform(0.0, SECONDS, 24))
    loose = RunMeasurement(key="1", load="empty", track=track)
    loose.impacts = find_impacts(sections(rung(taps, noise=0.02, band_hz=700.0, seed=13, gain=3.0)), track=track)
    reading = irregular_taps(finding, loose)
    assert reading is not None
    assert reading.level == "many"
    assert "a second from" in reading.text
    ticking = RunMeasurement(key="2", load="empty", track=track)
    turns = np.arange(0, DRUM_HZ * SECONDS) / DRUM_HZ + 0.01
    ticking.impacts = find_impacts(sections(rung(turns, noise=0.02, band_hz=5000.0, seed=14)), track=track)
    assert irregular_taps(finding, ticking) is None


def test_a_long_recording_in_sections_shows_the_same_lines() -> None:
    order = race_orders(SIZE).outer_race
    seconds = 75.0
    passages = np.arange(1, int(order * DRUM_HZ * seconds)) / (order * DRUM_HZ)
    audio = rung(passages, noise=0.1, band_hz=3000.0, seed=4, seconds=seconds)
    parts = SoundSections(audio, start_s=2.0)
    assert parts.count == 2
    assert parts.span_s(0) == pytest.approx((2.0, 62.5))
    assert parts.span_s(1) == pytest.approx((62.0, 77.0))
    assert parts.spectrum(1) is parts.spectrum(1)
    spectra = envelope_spectra(parts, track=steady_track(rate_hz=DRUM_HZ, seconds=80.0))
    best = find_race_lines(spectra, bearings=[("rear", SIZE)])[0]
    assert best.race == "outer"
    assert best.false_alarm < 1e-12


def test_envelope_of_a_band_runs_on_across_blocks() -> None:
    # Two tones inside the band beat; one outside must not be seen, wherever a block ends.
    t_s = np.arange(int(7.3 * 48000)) / 48000.0
    tones = [(3000.0, 1.0), (3010.0, 0.5), (9000.0, 3.0)]
    samples = sum(a * np.cos(2 * np.pi * f * t_s) for f, a in tones).astype(np.float32)
    base, rate = SectionSpectrum.of(samples, sample_rate_hz=48000.0).baseband(2000.0, 4000.0)
    assert base.size == int(7.3 * rate)
    times = np.arange(base.size) / rate
    expected = np.abs(1.0 + 0.5 * np.exp(2j * np.pi * 10.0 * times))
    inside = (times > 0.1) & (times < 7.2)
    np.testing.assert_allclose(np.abs(base)[inside], expected[inside], atol=0.02)
