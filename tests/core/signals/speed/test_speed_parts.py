"""The parts of the speed search, each against what is known: lines, path, orders, clocks, smoothing, refinement."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from scipy import signal as sps

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.machine import Machine, find_layout
from eager_ear.core.signals.angle.learnt_orders import learn_orders
from eager_ear.core.signals.angle.track import FRAME_STEP_S, SpeedTrack, smooth_known
from eager_ear.core.signals.dsp.low_band import LowBand
from eager_ear.core.signals.dsp.spectral_lines import quietest, standing_lines, without_mains, without_standing_lines
from eager_ear.core.signals.dsp.uniform_acceleration import EvenAcceleration
from eager_ear.core.signals.speed.find import SpeedSources, find_speed
from eager_ear.core.signals.speed.refine.clock_lag import find_lag
from eager_ear.core.signals.speed.refine.rate_readings import DemodulatedTone
from eager_ear.core.signals.speed.refine.smoother import _inverse_band, smoothed, stated
from eager_ear.core.signals.speed.search.scores import unfolded_to_hz
from eager_ear.core.signals.speed.search.track_search import SpeedSearch
from eager_ear.core.signals.types import AudioSignal
from eager_ear.core.units import FloatArray
from tests.core.signals.synthetic import profile, shaken, steady_track, track_of

RATE = 8000.0
DIRECT = find_layout("front_direct")
MACHINE = Machine(layout="front_direct", max_spin_rpm=1200)


def framed(*, top_hz: float, known_above_hz: float = 2.0) -> SpeedTrack:
    t_s, rate_hz = profile(top_hz=top_hz)
    frames = np.arange(0.0, 43.8, FRAME_STEP_S)
    track = track_of(frames, np.interp(frames, t_s, rate_hz))
    return SpeedTrack(**{**track.__dict__, "known": track.rate_hz > known_above_hz})


def tones(orders: dict[float, float], *, top_hz: float, late_s: float = 0.0, noise: float = 0.1) -> LowBand:
    """Sound with tones at those orders of the drum, begun `late_s` after the track's clock and noted as zero."""
    t_s = np.arange(int(43.0 * RATE)) / RATE
    rate_hz = np.interp(t_s + late_s, *profile(top_hz=top_hz))
    turns = np.cumsum(rate_hz) / RATE
    loud = np.clip(rate_hz / top_hz, 0, 1)
    sound = sum(a * loud * np.sin(2 * np.pi * o * turns) for o, a in orders.items())
    sound = sound + noise * np.random.default_rng(0).standard_normal(t_s.size)
    return LowBand.of(
        AudioSignal(samples=(0.1 * sound).astype(np.float32), sample_rate_hz=RATE), start_s=0.0, mains_hz=50
    )


def test_lines_of_a_neighbour_go_and_the_drums_own_plateau_stays() -> None:
    frames, bins = 100, 60
    lines = np.random.default_rng(1).normal(0.0, 0.3, (frames, bins)).astype(np.float32)
    lines[:, 20] = 4.0  # the neighbour, all the time
    lines[40:80, 45] = 4.0  # the drum at full speed
    level = np.where((np.arange(frames) >= 30) & (np.arange(frames) < 90), 0.0, -20.0)
    quiet = quietest(level)
    assert quiet is not None
    cleaned = without_standing_lines(lines, quiet, bin_hz=1.0)
    assert cleaned[:, 20].max() < 0.5
    assert cleaned[40:80, 45].min() > 3.0
    assert standing_lines(lines, quiet, bin_hz=1.0) == [20.0]
    assert quietest(np.zeros(50)) is None


def test_mains_hum_is_taken_out_at_its_even_multiples_only() -> None:
    lines = np.ones((4, 400), dtype=np.float32)
    cleaned = without_mains(lines, (50,), bin_hz=2.0)
    assert cleaned[0, 50] == cleaned[0, 100] == 0.0
    assert cleaned[0, 25] == cleaned[0, 75] == 1.0


def test_orders_are_learnt_whatever_they_are_and_a_hum_is_not_one() -> None:
    low = tones({7.31: 1.0, 24.6: 0.7}, top_hz=15.0)
    hum = 0.05 * np.sin(2 * np.pi * 310.0 * np.arange(low.samples.size) / low.rate_hz).astype(np.float32)
    low = LowBand(low.samples + hum, low.rate_hz, 0.0, low.level_nats, low.level_rate_hz, (50,))
    family = learn_orders(low, framed(top_hz=15.0))
    assert family is not None
    found = sorted(float(o) for o in family.orders[:2])
    assert found[0] == pytest.approx(7.31, rel=0.01)
    assert found[1] == pytest.approx(24.6, rel=0.01)


def test_lines_too_faint_for_a_single_frame_are_learnt_and_noise_teaches_none() -> None:
    track = framed(top_hz=15.0)
    # 0.004 of power against 0.000006 of noise in a third of a hertz, much less than that in a frame of an eighth.
    faint = learn_orders(tones({3.2: 0.09, 24.6: 0.09}, top_hz=15.0, noise=1.0), track)
    assert faint is not None
    assert sorted(faint.orders) == pytest.approx([3.2, 24.6], rel=0.01)
    for seed in range(5):
        noise = np.random.default_rng(seed).standard_normal(int(43.0 * RATE)).astype(np.float32)
        audio = AudioSignal(samples=0.1 * noise, sample_rate_hz=RATE)
        assert learn_orders(LowBand.of(audio, start_s=0.0, mains_hz=50), track) is None


def test_a_tone_read_along_a_better_track_tells_what_is_left_and_more_finely() -> None:
    low = tones({24.0: 0.5}, top_hz=15.0, noise=0.5)
    true = framed(top_hz=15.0)
    off = replace(true, rate_hz=1.004 * true.rate_hz)
    tone = DemodulatedTone.of(off, low, order=24.0, bandwidth_hz=12.0)
    fast = (true.t_s > 10.0) & (true.t_s < 34.0)
    coarse, fine, none_left = tone.read(off), tone.read(true, narrower=0.25), tone.read(true)
    assert np.median(coarse.error_hz[fast] / true.rate_hz[fast]) == pytest.approx(-0.004, abs=3e-4)
    assert abs(np.median(none_left.error_hz[fast] / true.rate_hz[fast])) < 3e-4
    assert np.median(fine.sigma_hz[fast]) < 0.3 * np.median(coarse.sigma_hz[fast])
    assert np.std(fine.error_hz[fast]) < 0.4 * np.std(none_left.error_hz[fast])


def test_a_tone_on_a_clock_put_right_reads_as_if_turned_back_on_that_clock() -> None:
    low = tones({24.0: 0.5}, top_hz=15.0, noise=0.2)
    track = framed(top_hz=15.0)
    late = low.moved(-0.15)
    once = DemodulatedTone.of(track, late, order=24.0, bandwidth_hz=12.0)
    put_right, again = once.moved(0.15), DemodulatedTone.of(track, late.moved(0.15), order=24.0, bandwidth_hz=12.0)
    ramp = (track.t_s > 8.0) & (track.t_s < 16.0)
    uncorrected = np.median(np.abs(once.read(track).error_hz[ramp]))
    found, expected = put_right.read(track), again.read(track)
    assert np.median(np.abs(found.error_hz - expected.error_hz)[ramp]) < 0.05 * uncorrected
    assert np.median(found.sigma_hz[ramp] / expected.sigma_hz[ramp]) == pytest.approx(1.0, abs=0.1)


def test_the_noise_of_a_tone_is_that_of_its_moment() -> None:
    track = steady_track(rate_hz=10.0, seconds=40.0)
    t_s = np.arange(int(40.0 * RATE)) / RATE
    loud = np.where(t_s < 20.0, 1.0, 0.05)
    sound = 0.05 * np.sin(2 * np.pi * 80.0 * t_s) + loud * 0.3 * np.random.default_rng(2).standard_normal(t_s.size)
    low = LowBand.of(AudioSignal(samples=sound.astype(np.float32), sample_rate_hz=RATE), start_s=0.0, mains_hz=60)
    sigma = DemodulatedTone.of(track, low, order=8.0, bandwidth_hz=4.0).read(track).sigma_hz
    assert np.median(sigma[track.t_s > 24.0]) < 0.3 * np.median(sigma[(track.t_s > 4.0) & (track.t_s < 16.0)])


def test_the_band_of_an_inverse_is_that_of_the_whole_inverse() -> None:
    rng = np.random.default_rng(4)
    lower = np.zeros((3, 30))
    lower[0], lower[1, :-1], lower[2, :-2] = rng.uniform(1, 3, 30), rng.normal(size=29), rng.normal(size=28)
    factor = sum(np.diag(lower[k, : 30 - k], -k) for k in range(3))
    whole = np.linalg.inv(factor @ factor.T)
    band = _inverse_band(lower)
    for k in range(3):
        np.testing.assert_allclose(band[k, : 30 - k], np.diag(whole, -k), rtol=1e-8)


@pytest.mark.parametrize("late_s", [-0.6, 0.0, 0.35, 1.0])
def test_the_lag_between_two_clocks_is_found(late_s: float) -> None:
    track = framed(top_hz=15.0)
    low = tones({8.0: 1.0, 13.3: 1.0, 24.0: 0.7}, top_hz=15.0, late_s=late_s)
    family = learn_orders(low, track, steady=True)
    assert family is not None
    lag = find_lag(low, track, family)
    assert lag.lag_s == pytest.approx(late_s, abs=0.06)
    assert lag.sigma_s < 0.1


def test_a_steady_drum_tells_no_lag() -> None:
    track = track_of(np.arange(0, 40, FRAME_STEP_S), np.full(320, 12.0))
    low = tones({8.0: 1.0, 13.3: 1.0}, top_hz=15.0)
    family = learn_orders(low, framed(top_hz=15.0))
    assert family is not None
    with pytest.raises(NotMeasurable, match="too little"):
        find_lag(low, track, family)


def test_smoothing_bridges_a_bad_stretch_and_keeps_a_knee() -> None:
    t_s = np.arange(0, 40, FRAME_STEP_S)
    true = np.interp(t_s, [0, 20, 40], [2.0, 18.0, 18.0])
    rng = np.random.default_rng(3)
    sigma = np.full(t_s.size, 0.03)
    bad = (t_s > 8) & (t_s < 9.5)
    sigma[bad] = 0.6
    rate = true + sigma * rng.standard_normal(t_s.size)
    out = smoothed(SpeedTrack(t_s=t_s, rate_hz=rate, known=t_s > 1, sigma_hz=sigma, source="acceleration"))
    error = np.abs(out.rate_hz - true)
    assert error[bad].max() < 0.25
    assert np.median(error[~bad & (t_s > 2)]) < 0.02
    assert error[(t_s > 18) & (t_s < 22)].max() < 0.15


def test_what_is_known_badly_is_not_known() -> None:
    t_s = np.arange(0, 20, FRAME_STEP_S)
    rate = np.full(t_s.size, 3.0) + 0.5 * np.random.default_rng(4).standard_normal(t_s.size)
    track = SpeedTrack(
        t_s=t_s, rate_hz=rate, known=np.ones(t_s.size, bool), sigma_hz=np.full(t_s.size, 2.0), source="audio"
    )
    assert not smoothed(track).known.any()


def test_a_drum_faster_than_the_sensor_can_tell_gets_no_credit() -> None:
    t_s, rate_hz = profile(top_hz=18.0, rate=50.0)
    vibration = shaken(t_s, rate_hz, orders={1: 1.0}, noise=0.02)
    assert unfolded_to_hz(vibration.sample_rate_hz, 20.0) == pytest.approx(23.0, abs=0.5)
    slow = EvenAcceleration(
        axes_m_s2=vibration.axes_m_s2[:, ::2],
        axis_names=vibration.axis_names,
        sample_rate_hz=25.0,
        start_s=0.0,
        gaps_s=(),
    )
    assert unfolded_to_hz(slow.sample_rate_hz, 20.0) < 5.0


def test_sound_alone_gives_a_direct_drives_speed() -> None:
    low = tones({1.0: 0.3, 2.0: 0.5, 12.0: 1.0, 24.0: 0.8, 36.0: 0.5}, top_hz=15.0, noise=0.05)
    track = find_speed(SpeedSources(low=low), machine=MACHINE, layout=DIRECT).track
    true = np.interp(track.t_s, *profile(top_hz=15.0))
    use = track.known & (true > 3.0)
    assert use.sum() > 150
    assert np.median(np.abs(track.rate_hz[use] / true[use] - 1.0)) < 0.007


def through_resonance(*, f0: float, damping: float) -> tuple[EvenAcceleration, FloatArray, FloatArray]:
    """Once-per-turn vibration of a ramp seen through one resonance, in closed filter form."""
    from scipy import signal as sps

    t_s, rate_hz = profile(top_hz=18.0, rate=400.0)
    turns = np.cumsum(rate_hz) / 400.0
    force = rate_hz**2 * np.cos(2 * np.pi * turns)
    w = 2 * np.pi * f0
    b, a = sps.bilinear([1.0, 0.0, 0.0], [1.0, 2 * damping * w, w * w], fs=400.0)
    moved = sps.lfilter(b, a, force) * 1e-2
    rng = np.random.default_rng(5)
    axes = np.stack([moved, np.zeros_like(moved)]) + 1e-3 * rng.standard_normal((2, moved.size))
    return (
        EvenAcceleration(axes_m_s2=axes, axis_names=("x", "z"), sample_rate_hz=400.0, start_s=0.0, gaps_s=()),
        t_s,
        rate_hz,
    )


def test_a_resonance_between_drum_and_sensor_does_not_bend_the_speed() -> None:
    vibration, t_s, rate_hz = through_resonance(f0=9.0, damping=0.12)
    track = find_speed(SpeedSources(acceleration=vibration), machine=MACHINE, layout=DIRECT).track
    true = np.interp(track.t_s, t_s, rate_hz)
    near = track.known & (true > 6.0) & (true < 14.0) & (track.t_s < 16.0)
    # The group delay at the resonance, 1/(2·pi·f0·zeta) = 0.15 s, times 1.3 Hz/s is 2 % of the rate.
    assert np.median(np.abs(track.rate_hz[near] / true[near] - 1.0)) < 0.007


def test_what_is_followed_loosely_is_not_known_but_still_turns() -> None:
    t_s = np.arange(0, 20, FRAME_STEP_S)
    true = np.interp(t_s, [0, 8, 20], [5.0, 5.0, 16.0])
    # A stretch that is read badly: its error lies between what is called known and what is followed at all.
    sigma = np.where(t_s < 6.0, 0.3, 0.02)
    everywhere = np.ones(t_s.size, bool)
    out = smoothed(SpeedTrack(t_s=t_s, rate_hz=true, known=everywhere, sigma_hz=sigma, source="acceleration"))
    slow = (t_s > 0.5) & (t_s < 4.0)
    assert not out.known[slow].any()
    assert out.followed[slow].all()
    assert out.known[t_s > 7.0].all()
    assert np.ptp(out.turns_at(np.array([0.0, 4.0]))) == pytest.approx(20.0, rel=0.03)
    assert np.isnan(out.at(np.array([2.0]))).all()


def test_a_faint_test_states_what_a_clear_one_leaves_unknown() -> None:
    t_s = np.arange(0, 20, FRAME_STEP_S)
    everywhere = np.ones(t_s.size, bool)
    told = {}
    for name, faint_until_s in (("clear", 6.0), ("faint", 14.0)):
        share = np.where(t_s < faint_until_s, 0.018, 0.002)
        share[t_s < 2.0] = 0.04
        track = SpeedTrack(
            t_s=t_s,
            rate_hz=np.full(t_s.size, 8.0),
            known=share < 0.015,
            sigma_hz=8.0 * share,
            source="acceleration",
            loosely=everywhere,
        )
        told[name] = stated(track)
        # What is stated or not, nothing that was followed is forgotten, and no rate or error changes.
        assert told[name].followed.all()
        assert np.array_equal(told[name].sigma_hz, track.sigma_hz)
    middle = (t_s >= 2.0) & (t_s < 6.0)
    assert not told["clear"].known[middle].any()
    assert told["faint"].known[middle].all()
    assert not told["faint"].known[t_s < 2.0].any()


def test_smoothing_averages_a_held_speed_and_says_how_well() -> None:
    t_s = np.arange(0, 60, FRAME_STEP_S)
    true = np.interp(t_s, [0, 20, 40, 60], [4.0, 16.0, 16.0, 2.0])
    # Readings of overlapping windows: five neighbours share one error.
    errors: list[float] = []
    stated: list[float] = []
    for seed in range(8):
        rng = np.random.default_rng(seed)
        shared = np.repeat(rng.standard_normal(t_s.size // 5 + 1), 5)[: t_s.size]
        track = SpeedTrack(
            t_s=t_s,
            rate_hz=true + 0.08 * shared,
            known=np.ones(t_s.size, bool),
            sigma_hz=np.full(t_s.size, 0.08),
            source="audio",
        )
        out = smoothed(track)
        held = (t_s > 24) & (t_s < 36)
        errors.extend(np.abs(out.rate_hz - true)[held])
        stated.extend(out.sigma_hz[held])
    assert np.median(errors) < 0.035
    assert 0.3 < np.median(np.array(errors) / np.array(stated)) < 1.5


def test_a_long_run_is_smoothed_without_seams() -> None:
    t_s = np.arange(0, 400, FRAME_STEP_S)
    true = 12.0 + 3.0 * np.sin(2 * np.pi * t_s / 130.0)
    rng = np.random.default_rng(8)
    track = SpeedTrack(
        t_s=t_s,
        rate_hz=true + 0.05 * rng.standard_normal(t_s.size),
        known=np.ones(t_s.size, bool),
        sigma_hz=np.full(t_s.size, 0.05),
        source="acceleration",
    )
    out = smoothed(track)
    assert np.abs(out.rate_hz - true).max() < 0.12
    steps = np.diff(out.rate_hz - true)
    assert np.abs(steps).max() < 0.02


def test_stretches_marked_as_spoilt_say_nothing_and_move_with_the_clock() -> None:
    low = tones({1.0: 0.3, 12.0: 1.0}, top_hz=15.0).without(((10.0, 12.0),))
    for part in low.spectra:
        spoilt = (part.t_s >= 10.0) & (part.t_s <= 12.0)
        assert spoilt.any()
        assert np.abs(part.lines[spoilt]).max() == 0.0
        assert np.abs(part.lines[~spoilt]).max() > 1.0
    moved = low.moved(0.5)
    assert moved.spoilt_s == ((10.5, 12.5),)
    assert moved.spectra[0].t_s[0] == pytest.approx(low.spectra[0].t_s[0] + 0.5)


def test_local_parabolas_are_those_of_a_savitzky_golay_filter() -> None:
    rate_hz = np.random.default_rng(21).normal(10.0, 1.0, 60)
    frames = np.arange(60) * FRAME_STEP_S
    gap = np.arange(60) != 25
    track = SpeedTrack(t_s=frames, rate_hz=rate_hz, known=gap, sigma_hz=np.ones(60), source="audio")
    smooth = smooth_known(rate_hz, track)
    for part in (slice(0, 25), slice(26, 60)):
        np.testing.assert_allclose(smooth[part], sps.savgol_filter(rate_hz[part], 7, 2, mode="interp"), rtol=1e-12)
    assert smooth[25] == rate_hz[25]


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_a_faint_drum_is_carried_on_from_where_it_was_seen(seed: int) -> None:
    t_s = np.arange(0.0, 50.0, 0.01)
    rate_hz = np.interp(t_s, [0.0, 6.0, 20.0, 26.0, 46.0, 50.0], [0.0, 0.0, 11.0, 11.0, 0.0, 0.0])
    faint = shaken(t_s, rate_hz, orders={1.0: 0.1}, noise=0.1, seed=seed)
    machine, layout = Machine(layout="top_splined"), find_layout("top_splined")
    search = SpeedSearch.of(None, faint, machine=machine, layout=layout)
    further, seen = search.track(), search.track(carries=False)
    assert further.known.mean() > 1.4 * seen.known.mean()
    assert further.known[seen.known].all()
    added = further.known & ~seen.known
    error = np.abs(further.rate_hz / np.maximum(np.interp(further.t_s, t_s, rate_hz), 0.1) - 1.0)
    assert np.median(error[added]) < 0.03
