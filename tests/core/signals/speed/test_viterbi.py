"""The path through the scores: what a drum can do is followed, what it cannot do is not."""

from __future__ import annotations

import numpy as np
import pytest

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.machine import LAYOUT_CODES, Machine, find_layout
from eager_ear.core.signals.angle.track import FRAME_STEP_S
from eager_ear.core.signals.dsp.low_band import LowBand
from eager_ear.core.signals.dsp.transform import floor_of_frames
from eager_ear.core.signals.speed.find import SpeedSources, find_speed
from eager_ear.core.signals.speed.search.grid import ScoreGrid
from eager_ear.core.signals.speed.search.plausible_spans import carried_on
from eager_ear.core.signals.speed.search.viterbi import best_path
from eager_ear.core.signals.types import AudioSignal
from eager_ear.core.units import FloatArray
from tests.core.signals.synthetic import profile, shaken

GRID = ScoreGrid(t_s=np.arange(0, 40, FRAME_STEP_S), candidates_hz=np.arange(0.5, 20.0, 0.1))
RATE = 8000.0


def scored(*lines: tuple[list[float], list[float], float], noise: float = 0.5) -> FloatArray:
    """Scores with lines of (times, rates, strength), seen between their first and last time."""
    score = np.random.default_rng(2).normal(0.0, noise, (GRID.t_s.size, GRID.candidates_hz.size)).astype(np.float32)
    for times, rates, strength in lines:
        seen = np.flatnonzero((GRID.t_s >= times[0]) & (GRID.t_s <= times[-1]))
        nearest = np.rint((np.interp(GRID.t_s[seen], times, rates) - 0.5) / 0.1).astype(int)
        inside = (nearest >= 0) & (nearest < GRID.candidates_hz.size)
        score[seen[inside], nearest[inside]] += strength
    return score


def recorded(sound: FloatArray) -> LowBand:
    samples = (0.05 * sound / max(float(np.std(sound)), 1e-9)).astype(np.float32)
    return LowBand.of(AudioSignal(samples=samples, sample_rate_hz=RATE), start_s=0.0, mains_hz=50)


def test_the_path_follows_a_ramp_and_says_unknown_where_nothing_is() -> None:
    grid = ScoreGrid(t_s=np.arange(0, 30, FRAME_STEP_S), candidates_hz=np.arange(0.5, 20.0, 0.1))
    rate = np.interp(grid.t_s, [5, 20], [2.0, 18.0])
    score = np.random.default_rng(2).normal(0.0, 0.5, (grid.t_s.size, grid.candidates_hz.size)).astype(np.float32)
    seen = (grid.t_s > 6) & (grid.t_s < 25)
    nearest = np.rint((rate - 0.5) / 0.1).astype(int)
    score[seen, nearest[seen]] += 6.0
    path, known = best_path(score, grid, unknown=1.6, least_end=1.3)
    np.testing.assert_allclose(grid.candidates_hz[path[seen & known]], rate[seen & known], atol=0.16)
    assert known[seen].mean() > 0.95
    assert known[~seen].mean() < 0.25


def test_a_drum_let_go_falls_to_rest_and_is_followed() -> None:
    score = scored(([2, 14, 24, 28], [2.0, 15.0, 15.0, 1.0], 6.0))
    path, known = best_path(score, GRID, unknown=1.3, least_end=1.3)
    falling = (GRID.t_s > 24.2) & (GRID.t_s < 27.5)
    true = np.interp(GRID.t_s, [2, 14, 24, 28], [2.0, 15.0, 15.0, 1.0])
    assert known[falling].all()
    np.testing.assert_allclose(GRID.candidates_hz[path[falling]], true[falling], atol=0.4)


def test_a_path_does_not_brake_from_a_false_line_onto_the_drums() -> None:
    # Before the drum's own line becomes clear another one rises higher: no drum comes down from there and drives on.
    false_line = ([2, 8, 12], [4.0, 14.0, 15.0], 4.0)
    drum = ([12, 30], [6.0, 14.0], 6.0)
    path, known = best_path(scored(false_line, drum), GRID, unknown=1.3, least_end=1.3)
    rate = GRID.candidates_hz[path]
    on_drum = (GRID.t_s > 13) & (GRID.t_s < 29)
    assert known[on_drum].mean() > 0.95
    np.testing.assert_allclose(rate[on_drum & known], np.interp(GRID.t_s, *drum[:2])[on_drum & known], atol=0.3)
    assert not known[(GRID.t_s > 4) & (GRID.t_s < 11)].any()


def test_a_line_that_rises_beyond_every_drum_is_not_one() -> None:
    motor = ([4, 20, 30], [2.0, 30.0, 30.0], 5.0)
    _, known = best_path(scored(motor), GRID, unknown=1.3, least_end=1.3)
    assert known.mean() < 0.02


@pytest.mark.parametrize(("shaken_more", "felt"), [(True, True), (True, False), (False, True)])
def test_what_shakes_more_at_the_top_for_a_while_does_not_hide_the_drum(shaken_more: bool, felt: bool) -> None:
    rate = ([4.0, 14.0, 26.0, 36.0], [1.0, 16.0, 16.0, 1.0])
    beside = ([13.0, 27.0], [19.6, 19.6], 9.0 if shaken_more else 0.0)
    path, known = best_path(scored((*rate, 5.0), beside), GRID, unknown=1.0, least_end=1.3, felt=felt)
    follows = known & (np.abs(GRID.candidates_hz[path] - np.interp(GRID.t_s, *rate)) < 0.3)
    assert not (known & ~follows & (GRID.t_s > 5.0) & (GRID.t_s < 35.0)).any()
    plateau = (GRID.t_s > 15.0) & (GRID.t_s < 25.0)
    # In the sound such a line is a motor's: the whole way to it is given up.
    assert follows[plateau].mean() == (0.0 if shaken_more and not felt else 1.0)


@pytest.mark.parametrize("felt", [True, False])
def test_a_line_that_leaves_at_the_top_is_no_drums_on_the_way_there(felt: bool) -> None:
    score = scored(([4.0, 14.0], [6.0, 22.0], 6.0))
    _, known = best_path(score, GRID, unknown=1.0, least_end=1.3, felt=felt)
    assert not known.any()


def test_noise_at_the_top_after_the_drum_has_stopped_gives_nothing_up() -> None:
    score = scored(([4.0, 15.0, 38.6], [1.0, 18.2, 18.2], 6.0), noise=0.1)
    score += scored(([38.7, 39.9], [18.5, 19.8], 0.7), noise=0.0)
    path, known = best_path(score, GRID, unknown=1.0, least_end=1.3)
    plateau = (GRID.t_s > 16.0) & (GRID.t_s < 38.0)
    assert known[plateau].all()
    np.testing.assert_allclose(GRID.candidates_hz[path[plateau]], 18.2, atol=0.16)
    assert not known[GRID.t_s > 39.2].any()


@pytest.mark.parametrize("top_hz", [15.0, 18.0])
def test_a_drum_beyond_half_the_sensors_rate_is_found_where_it_folds(top_hz: float) -> None:
    acceleration = shaken(*profile(top_hz=top_hz, rate=25.0), orders={1.0: 3.0}, noise=0.05)
    machine = Machine(layout="front_direct", max_spin_rpm=1.05 * 60.0 * top_hz)
    track = find_speed(
        SpeedSources(acceleration=acceleration), machine=machine, layout=find_layout("front_direct")
    ).track
    t_s, rate_hz = profile(top_hz=top_hz)
    plateau = (track.t_s > 17) & (track.t_s < 27)
    assert track.known[plateau].all()
    np.testing.assert_allclose(track.rate_hz[plateau], top_hz, rtol=2e-3)
    ramp = track.known & (track.t_s > 6) & (track.t_s < 15)
    assert np.median(np.abs(track.rate_hz[ramp] / np.interp(track.t_s[ramp], t_s, rate_hz) - 1.0)) < 0.01


@pytest.mark.parametrize("seed", range(6))
def test_noise_of_any_colour_turns_no_drum(seed: int) -> None:
    rng = np.random.default_rng(seed)
    layout = LAYOUT_CODES[seed]
    sound = rng.standard_normal(int(40 * RATE))
    if seed % 2:
        sound = np.convolve(sound, np.exp(-np.arange(60) / 12.0))[: sound.size]
    t_s = np.arange(0.0, 40.0, 1.0 / (50.0, 100.0, 200.0)[seed % 3])
    still = shaken(t_s, np.full(t_s.size, 1e-3), orders={}, noise=0.3, seed=seed)
    machine = Machine(layout=layout, pulley_ratio=3.0 if seed % 2 else None)
    for sources in (
        SpeedSources(low=recorded(sound)),
        SpeedSources(acceleration=still),
        SpeedSources(low=recorded(sound), acceleration=still),
    ):
        with pytest.raises(NotMeasurable):
            find_speed(sources, machine=machine, layout=find_layout(layout))


def test_a_neighbours_steady_tremble_is_not_this_drum() -> None:
    t_s = np.arange(0.0, 40.0, 0.01)
    tremble = shaken(t_s, np.full(t_s.size, 13.3), orders={1.0: 0.04}, noise=0.005)
    machine = Machine(layout="front_direct", max_spin_rpm=1200)
    with pytest.raises(NotMeasurable, match="one and the same rate"):
        find_speed(SpeedSources(acceleration=tremble), machine=machine, layout=find_layout("front_direct"))


def test_the_floor_follows_a_microphones_steep_fall_and_leaves_a_line_standing() -> None:
    rng = np.random.default_rng(4)
    frequency = np.arange(400) * 1.0
    slope = (frequency / 40.0) ** 4 / (1.0 + (frequency / 40.0) ** 4)
    power = (slope + 1e-9) * rng.exponential(1.0, (200, 400))
    power[:, 12] += 200.0 * slope[12]
    floor = floor_of_frames(power, width=20, line_bins=4)
    beside = [k for k in range(8, 60) if abs(k - 12) > 3]
    np.testing.assert_allclose(np.median(floor[:, beside], axis=0), slope[beside], rtol=0.45)
    assert np.median(power[:, 12] / floor[:, 12]) > 80.0


@pytest.mark.parametrize(("beside", "carried"), [(0, True), (2, True), (12, False)])
def test_a_path_is_carried_on_along_one_that_goes_through_it(beside: int, carried: bool) -> None:
    frames = np.arange(100)
    known, goes_on = (frames >= 40) & (frames < 70), (frames >= 20) & (frames < 80)
    path, further = np.where(known, 60, 0), np.where(goes_on, 61, 0)
    # Where it began the path lay beside the drum.
    path[40 : 40 + beside] -= 9
    joined, where = carried_on(path, known, further, goes_on)
    np.testing.assert_array_equal(where, goes_on if carried else known)
    np.testing.assert_array_equal(joined[where], (further if carried else path)[where])


def test_a_stretch_that_touches_nothing_known_is_not_carried_on_to() -> None:
    frames = np.arange(100)
    known, goes_on = frames < 30, frames > 50
    _, where = carried_on(np.zeros(100, dtype=int), known, np.zeros(100, dtype=int), goes_on)
    np.testing.assert_array_equal(where, known)
