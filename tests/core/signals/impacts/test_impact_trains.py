"""Trains of impacts at slow turning of unknown speed: found among others, counted by the turn, not seen in speech."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from eager_ear.core.signals.angle.track import FRAME_STEP_S, SpeedTrack
from eager_ear.core.signals.dsp.band_envelopes import SoundSections
from eager_ear.core.signals.impacts.find import find_impacts
from eager_ear.core.signals.impacts.impact_trains import find_train
from eager_ear.core.signals.impacts.transients import find_transients, sharp_impacts
from eager_ear.core.signals.types import AudioSignal
from eager_ear.core.units import FloatArray
from tests.core.signals.synthetic import track_of

RATE = 24000.0
SECONDS = 40.0
# Tumbling, distributing, and quickly up to a spin that is known from two turns a second on.
Turning = tuple[list[float], list[float]]
TURNING: Turning = ([0, 2, 3, 8, 9, 15, 25, 40], [0, 0, 0.75, 0.75, 1.5, 1.5, 11.0, 11.0])
# Full speed, and let go.
FALLING: Turning = ([0, 18, 29, 40], [11.0, 11.0, 0.0, 0.0])


def slowly_unknown(*, later_s: float = 0.0, above_hz: float = 2.0, turning: Turning = TURNING) -> SpeedTrack:
    frames = np.arange(0.0, SECONDS, FRAME_STEP_S)
    track = track_of(frames, np.interp(frames - later_s, *turning))
    return replace(track, known=track.rate_hz > above_hz)


def impact_times(per_turn: int, *, most_hz: float, seed: int, turning: Turning = TURNING) -> FloatArray:
    """Impacts at one or two angles with a little scatter, one in ten missed, as long as the drum is slower."""
    rng = np.random.default_rng(seed)
    t_s = np.arange(0.0, SECONDS, 0.002)
    turns = np.cumsum(np.interp(t_s, *turning)) * (t_s[1] - t_s[0])
    wanted = np.arange(0.3, turns[-1], 1.0 / per_turn)
    wanted = wanted + 0.012 * rng.standard_normal(wanted.size)
    found = np.interp(wanted[rng.random(wanted.size) < 0.9], turns, t_s)
    return found[np.interp(found, *turning) < most_hz]


def heard(
    at_s: FloatArray, *, seed: int, lasts_s: float = 0.004, floor: float = 0.02, turning: Turning = TURNING
) -> SoundSections:
    """Bursts of noise around 4 kHz over noise that grows with the speed."""
    rng = np.random.default_rng(seed)
    t_s = np.arange(int(RATE * SECONDS)) / RATE
    out = floor * (0.2 + np.interp(t_s, *turning) / 11.0) * rng.standard_normal(t_s.size)
    for at in at_s:
        burst = slice(int(at * RATE), min(int((at + 5 * lasts_s) * RATE), t_s.size))
        since = t_s[burst] - at
        ring = np.minimum(since / (0.2 * lasts_s), 1.0) * np.exp(-since / lasts_s)
        out[burst] += 0.12 * ring * rng.standard_normal(since.size)
    return SoundSections(AudioSignal(samples=out.astype(np.float32), sample_rate_hz=RATE), start_s=0.0)


def test_a_train_is_found_among_impacts_at_random_and_its_rate_told() -> None:
    rng = np.random.default_rng(1)
    train = np.cumsum(np.full(16, 0.8)) + 0.01 * rng.standard_normal(16)
    train = np.delete(train, [4, 9])
    others = rng.uniform(0.0, 14.0, 4)
    found = find_train(np.sort(np.concatenate([train, others])), seconds=14.0)
    assert found is not None
    assert found.evidence > 1e3
    assert np.isin(found.t_s, train).mean() > 0.85
    assert np.median(found.rate_hz) == pytest.approx(1.25, rel=0.02)
    assert found.steps.max() == 2


def test_a_train_is_followed_from_tumbling_to_distributing() -> None:
    at = np.concatenate([np.arange(2.0, 8.0, 1.33), np.arange(8.2, 15.0, 0.67)])
    found = find_train(at, seconds=15.0)
    assert found is not None
    np.testing.assert_array_equal(found.t_s, at)
    assert found.rate_hz[0] == pytest.approx(0.75, rel=0.02)
    assert found.rate_hz[-1] == pytest.approx(1.49, rel=0.02)


def test_a_few_impacts_before_and_after_the_speed_doubles_are_a_train() -> None:
    at = np.array([4.7, 6.3, 7.8, 8.55, 9.2, 9.9, 10.65, 11.2, 11.7])
    found = find_train(at, seconds=15.0)
    assert found is not None
    assert found.evidence > 30.0
    np.testing.assert_array_equal(found.t_s, at)


def test_impacts_at_random_seldom_look_like_a_train() -> None:
    rng = np.random.default_rng(2)
    evidence = []
    for _ in range(400):
        seconds = rng.uniform(5.0, 20.0)
        found = find_train(np.sort(rng.uniform(0.0, seconds, rng.integers(6, 30))), seconds=seconds)
        evidence.append(found.evidence if found is not None else 0.0)
    assert np.mean(np.array(evidence) > 3.0) < 0.01
    assert max(evidence) < 60.0


def test_too_few_and_too_many_are_no_train() -> None:
    assert find_train(np.arange(5.0), seconds=6.0) is None
    assert find_train(np.arange(0.0, 6.0, 0.1), seconds=6.0) is None


@pytest.mark.parametrize("per_turn", [1, 2])
@pytest.mark.parametrize("most_hz", [1.6, 4.0])
def test_impacts_at_slow_turning_are_counted_by_the_turn(per_turn: int, most_hz: float) -> None:
    at_s = impact_times(per_turn, most_hz=most_hz, seed=3)
    found = find_impacts(heard(at_s, seed=4), track=slowly_unknown())["tick"]
    assert found.per_turn == per_turn
    assert found.false_alarm < 1e-2
    assert found.speed_rpm is not None
    assert found.speed_rpm[1] < 60.0 * most_hz


def test_a_turn_keeps_two_impacts_where_the_louder_hides_the_other_at_speed() -> None:
    slow, fast = impact_times(2, most_hz=4.0, seed=11), impact_times(1, most_hz=10.5, seed=11)
    at_s = np.concatenate([slow, fast[np.interp(fast, *TURNING) > 4.0]])
    assert find_impacts(heard(at_s, seed=12), track=slowly_unknown())["tick"].per_turn == 2.0


def test_impacts_that_drown_where_the_track_begins_are_counted_beside_it() -> None:
    at_s = impact_times(1, most_hz=5.0, seed=13)
    known = np.interp(at_s, *TURNING) > 3.2
    at_s = at_s[~known | (np.cumsum(known) % 2 == 0)]
    track = slowly_unknown()
    track = replace(track, known=track.rate_hz > 3.2)
    found = find_impacts(heard(at_s, seed=14), track=track)["tick"]
    assert found.per_turn == 1.0
    assert found.speed_rpm is not None
    assert found.speed_rpm[0] < 120.0


@pytest.mark.parametrize(("per_turn", "counted"), [(1, 1.0), (2, 2.0), (3, 0.0)])
@pytest.mark.parametrize("turning", [TURNING, FALLING])
def test_impacts_seconds_away_from_the_track_are_counted_by_what_a_drum_can_do_between(
    turning: Turning, per_turn: int, counted: float
) -> None:
    # Something heavy knocks from 1.8 turns a second up to 4.5 (of three a turn, 2.6); the speed is known from 7 on.
    at_s = impact_times(per_turn, most_hz=4.5 if per_turn < 3 else 2.6, seed=15, turning=turning)
    at_s = at_s[np.interp(at_s, *turning) > (1.8 if per_turn < 3 else 0.8)]
    found = find_impacts(
        heard(at_s, seed=16, floor=0.01, turning=turning), track=slowly_unknown(above_hz=7.0, turning=turning)
    )
    assert found["tick"].per_turn == counted


def test_what_lasts_like_a_syllable_is_no_impact() -> None:
    at_s = np.arange(3.0, 14.0, 0.4)
    assert find_impacts(heard(at_s, seed=5, lasts_s=0.06), track=slowly_unknown())["tick"].per_turn == 0.0


def test_what_comes_three_times_a_turn_is_not_called_one() -> None:
    found = find_impacts(heard(impact_times(3, most_hz=4.0, seed=6), seed=7), track=slowly_unknown())["tick"]
    assert found.per_turn == 0.0


def test_what_goes_on_with_the_machine_at_rest_is_a_clock_and_not_the_drum() -> None:
    track = slowly_unknown(later_s=6.0)
    sections = heard(np.arange(0.4, 16.0, 0.7), seed=8)
    assert find_impacts(sections, track=track, rests=((0.0, 8.0),))["tick"].per_turn == 0.0
    assert find_impacts(sections, track=track)["tick"].per_turn == 1.0


def test_a_impact_is_sharp_in_a_wide_band_from_seven_decibels_and_a_hum_is_not() -> None:
    rng = np.random.default_rng(9)
    t_s = np.arange(int(RATE * 10.0)) / RATE
    noise = 0.02 * rng.standard_normal(t_s.size)
    for at, lasts_s in ((2.0, 0.003), (4.0, 0.2), (6.0, 0.003)):
        burst = (t_s >= at) & (t_s < at + lasts_s)
        noise[burst] *= 3.5
    sections = SoundSections(AudioSignal(samples=noise.astype(np.float32), sample_rate_hz=RATE), start_s=0.0)
    impacts = find_transients(sections, bands={"tick": (2000.0, 9000.0)})["tick"]
    every, clear = sharp_impacts(impacts, (0.0, 10.0))
    np.testing.assert_allclose(every, [2.0, 6.0], atol=0.01)
    assert clear.size == 0
    later, _ = sharp_impacts(impacts, (5.0, 10.0))
    np.testing.assert_allclose(later, [6.0], atol=0.01)


def test_a_train_in_the_coast_down_is_counted_by_the_track_before_it() -> None:
    frames = np.arange(0.0, SECONDS, FRAME_STEP_S)
    rate_hz = np.interp(frames, [0, 15, 31, 40], [11.0, 11.0, 3.0, 0.0])
    track = replace(track_of(frames, rate_hz), known=rate_hz > 3.4)
    fine = np.arange(0.0, SECONDS, 0.002)
    turns = np.cumsum(np.interp(fine, frames, rate_hz)) * 0.002
    slow = np.interp(np.arange(np.ceil(turns[int(30.0 / 0.002)]), turns[-1] - 1.0), turns, fine)
    rng = np.random.default_rng(10)
    noise = 0.01 * rng.standard_normal(int(RATE * SECONDS))
    for at in slow:
        noise[int(at * RATE) : int((at + 0.004) * RATE)] *= 12.0
    sections = SoundSections(AudioSignal(samples=noise.astype(np.float32), sample_rate_hz=RATE), start_s=0.0)
    assert find_impacts(sections, track=track)["tick"].per_turn == 1.0
