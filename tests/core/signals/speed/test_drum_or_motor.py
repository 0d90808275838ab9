"""A motor that turns without its drum is not taken for one, and a drum is believed that shows itself faintly."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.machine import Machine, find_layout
from eager_ear.core.signals.angle.track import FRAME_STEP_S, SpeedTrack
from eager_ear.core.signals.dsp.low_band import LowBand
from eager_ear.core.signals.speed.find import SpeedSources, find_speed
from eager_ear.core.signals.speed.search.drum_or_motor import require_turning
from eager_ear.core.signals.speed.search.grid import ScoreGrid
from eager_ear.core.signals.types import AudioSignal
from tests.core.signals.synthetic import noise_score, profile, ridge, steady_track, track_of

RATE = 8000.0
SECONDS = 43.0
GRID = ScoreGrid(t_s=np.arange(0.0, 40.0, FRAME_STEP_S), candidates_hz=np.arange(0.5, 14.0, 0.1))


def heard(*, modulation: dict[float, float], tone: float, seed: int = 0) -> LowBand:
    """A motor that turns at the drum's rate, and noise that swells by so much at multiples of it."""
    t_s = np.arange(int(SECONDS * RATE)) / RATE
    rate_hz = np.interp(t_s, *profile(top_hz=12.0))
    turns = np.cumsum(rate_hz) / RATE
    loud = np.clip(rate_hz / 12.0, 0.0, 1.0)
    rng = np.random.default_rng(seed)
    swells = 1.0 + sum(share * np.sin(2 * np.pi * order * turns) for order, share in modulation.items())
    noise = rng.standard_normal(t_s.size) * loud * swells
    motor = tone * loud * sum(np.sin(2 * np.pi * order * turns) for order in (1.0, 2.0, 12.0, 24.0))
    sound = 0.1 * (noise + motor) + 0.002 * rng.standard_normal(t_s.size)
    return LowBand.of(AudioSignal(samples=sound.astype(np.float32), sample_rate_hz=RATE), start_s=0.0, mains_hz=50)


def followed() -> SpeedTrack:
    t_s = np.arange(0.0, SECONDS, FRAME_STEP_S)
    return track_of(t_s, np.interp(t_s, *profile(top_hz=12.0)))


def ask(low: LowBand) -> None:
    grid = ScoreGrid(t_s=np.arange(0.0, SECONDS, FRAME_STEP_S), candidates_hz=GRID.candidates_hz)
    require_turning([], followed(), grid, modulated=grid.empty(), low=low)


@pytest.mark.parametrize("seed", range(4))
def test_a_motor_that_turns_without_its_drum_is_not_the_drums_speed(seed: int) -> None:
    layout, machine = find_layout("top_splined"), Machine(layout="top_splined", max_spin_rpm=800)
    with pytest.raises(NotMeasurable, match=r"once per turn|no rotation|too faint"):
        find_speed(SpeedSources(low=heard(modulation={}, tone=0.4, seed=seed)), machine=machine, layout=layout)


@pytest.mark.parametrize("tone", [0.0, 0.4])
def test_noise_that_swells_once_per_turn_tells_the_drums_speed(tone: float) -> None:
    layout, machine = find_layout("top_splined"), Machine(layout="top_splined", max_spin_rpm=800)
    track = find_speed(SpeedSources(low=heard(modulation={1.0: 0.12}, tone=tone)), machine=machine, layout=layout).track
    true = np.interp(track.t_s, *profile(top_hz=12.0))
    use = track.known & (true > 3.0)
    assert use.mean() > 0.45
    error = np.abs(track.rate_hz[use] / true[use] - 1.0)
    # Swelling of 12 % alone stands 15 dB above the noise of its window: the bound is some 0.5 % a reading.
    assert np.median(error) < (0.012 if tone == 0.0 else 0.004)
    assert np.percentile(error, 95) < (0.08 if tone == 0.0 else 0.02)


@pytest.mark.parametrize("seed", range(4))
def test_a_modulation_too_faint_for_frames_is_told_over_the_turns(seed: int) -> None:
    ask(heard(modulation={1.0: 0.02}, tone=0.2, seed=seed))
    with pytest.raises(NotMeasurable, match="seems to stand"):
        ask(heard(modulation={}, tone=0.2, seed=seed))


@pytest.mark.parametrize("multiple", [1.5, 2.0, 3.0])
def test_what_comes_clearer_at_a_multiple_is_not_the_drum(multiple: float) -> None:
    # Prongs that jump in a broken coupler, a motor at twice the rate.
    with pytest.raises(NotMeasurable, match="seems to stand"):
        ask(heard(modulation={1.0: 0.02, multiple: 0.2}, tone=0.2))


def test_a_bearings_line_beside_a_multiple_is_none() -> None:
    ask(heard(modulation={1.0: 0.02, 3.06: 0.2}, tone=0.2))


@pytest.mark.parametrize(("height", "stands"), [(0.0, False), (0.6, False), (1.2, True), (3.0, True)])
def test_what_comes_once_per_turn_must_beat_the_paths_beside(height: float, stands: bool) -> None:
    track = steady_track(rate_hz=9.0, seconds=40.0)
    scores = [noise_score(GRID, 1), ridge(noise_score(GRID, 2), GRID, 9.0, height=height)]
    if stands:
        require_turning(scores, track, GRID)
    else:
        with pytest.raises(NotMeasurable, match="seems to stand"):
            require_turning(scores, track, GRID)


def test_half_the_speed_is_refused_where_the_whole_shows_more() -> None:
    half = steady_track(rate_hz=5.0, seconds=40.0)
    score = ridge(ridge(0.3 * noise_score(GRID, 5), GRID, 5.0, height=0.9), GRID, 10.0, height=1.8)
    with pytest.raises(NotMeasurable, match="seems to stand"):
        require_turning([score], half, GRID)
    require_turning([score], steady_track(rate_hz=10.0, seconds=40.0), GRID)


def test_a_moment_of_slow_turning_is_no_rotation() -> None:
    score = ridge(0.3 * noise_score(GRID, 6), GRID, 1.5, height=4.0)
    moment = steady_track(rate_hz=1.5, seconds=40.0)
    moment = replace(moment, known=(moment.t_s > 10.0) & (moment.t_s < 13.0))
    with pytest.raises(NotMeasurable, match="moment of slow turning"):
        require_turning([score], moment, GRID)
    require_turning([score], replace(moment, known=(moment.t_s > 10.0) & (moment.t_s < 16.0)), GRID)


def test_what_is_known_only_where_drums_pass_is_no_rotation() -> None:
    rate_hz = np.interp(GRID.t_s, [10.0, 20.0], [2.6, 3.6])
    passed = track_of(GRID.t_s, rate_hz)
    passed = replace(passed, known=(passed.t_s > 10.0) & (passed.t_s < 20.0))
    score = ridge(0.3 * noise_score(GRID, 7), GRID, rate_hz, height=4.0)
    with pytest.raises(NotMeasurable, match="moment of slow turning"):
        require_turning([score], passed, GRID)


def test_a_rate_that_is_known_to_be_a_neighbours_proves_nothing() -> None:
    track = steady_track(rate_hz=9.0, seconds=40.0)
    score = ridge(0.3 * noise_score(GRID, 9), GRID, 9.0, height=4.0)
    require_turning([score], track, GRID, beside_hz=(6.0,))
    with pytest.raises(NotMeasurable, match="seems to stand"):
        require_turning([score], track, GRID, beside_hz=(6.0, 9.1))
