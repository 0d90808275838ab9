"""Tracks that are not a drum's: a steady neighbour, a alias; and a drum that only its modulation shows."""

from __future__ import annotations

import numpy as np
import pytest

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.angle.track import FRAME_STEP_S
from eager_ear.core.signals.speed.search.grid import ScoreGrid
from eager_ear.core.signals.speed.search.track_search import SpeedSearch
from eager_ear.core.signals.speed.search.validity_gates import calm_at_its_fastest, unchanging
from eager_ear.core.signals.speed.search.viterbi import best_path
from eager_ear.core.units import FloatArray
from tests.core.signals.synthetic import noise_score, ridge

GRID = ScoreGrid(t_s=np.arange(0.0, 40.0, FRAME_STEP_S), candidates_hz=np.arange(0.5, 14.0, 0.1))


def test_the_drum_is_found_behind_a_louder_machine_beside_it() -> None:
    rate_hz = np.interp(GRID.t_s, [4, 14, 26, 36], [0.5, 12.0, 12.0, 0.5])
    score = np.maximum(
        ridge(0.3 * noise_score(GRID, 7), GRID, rate_hz, height=3.0),
        ridge(0.3 * noise_score(GRID, 8), GRID, 6.0, height=7.0),
    )
    track = SpeedSearch(grid=GRID, low=None, acceleration=None, score=score, turning=()).track()
    fast = track.known & (rate_hz > 8.0)
    assert fast.sum() > 100
    assert np.median(np.abs(track.rate_hz[fast] - rate_hz[fast])) < 0.1


def modulation_alone(modulated: FloatArray) -> SpeedSearch:
    score = (0.3 * noise_score(GRID, 11)).astype(np.float32)
    return SpeedSearch(grid=GRID, low=None, acceleration=None, score=score, turning=(), modulated=modulated)


def test_the_modulation_alone_may_show_a_spin_that_all_together_does_not() -> None:
    rate_hz = np.interp(GRID.t_s, [4, 14, 26, 36], [0.5, 12.0, 12.0, 0.5])
    search = modulation_alone(ridge(0.3 * noise_score(GRID, 9), GRID, rate_hz, height=3.0))
    with pytest.raises(NotMeasurable, match="no rotation"):
        search.track()
    track = search.first_track()
    fast = track.known & (rate_hz > 6.0)
    assert fast.sum() > 100
    assert np.median(np.abs(track.rate_hz[fast] - rate_hz[fast])) < 0.1


def test_a_modulation_that_hardly_changes_its_rate_is_no_spin() -> None:
    # A pump that hammers comes and goes, but does not run through the speeds.
    rate_hz = np.interp(GRID.t_s, [4, 5, 16, 17], [0.0, 8.0, 9.0, 0.0])
    search = modulation_alone(ridge(0.3 * noise_score(GRID, 10), GRID, rate_hz, height=4.0))
    with pytest.raises(NotMeasurable, match="no rotation"):
        search.first_track()


@pytest.mark.parametrize("comes_and_goes", [True, False])
def test_a_steady_line_is_the_drums_when_it_comes_and_goes(comes_and_goes: bool) -> None:
    known = (GRID.t_s > 14.0) & (GRID.t_s < 26.0)
    shown = np.where(known | (not comes_and_goes), 8.0, -5.0)
    path = np.full(GRID.t_s.size, int(np.argmin(np.abs(GRID.candidates_hz - 8.0))))
    score = ridge(0.3 * noise_score(GRID, 3), GRID, shown, height=4.0)
    assert unchanging(score, path, known, GRID) == (None if comes_and_goes else path[0])


@pytest.mark.parametrize(("later_db", "calm"), [(3.0, False), (12.0, True)])
def test_a_machine_is_loudest_where_it_is_fastest(later_db: float, calm: bool) -> None:
    # A squeal that beats at four a second while the drum speeds up, and a plateau that is not followed.
    known = (GRID.t_s > 8.0) & (GRID.t_s < 18.0)
    level_db = np.interp(GRID.t_s, [0, 4, 18, 26, 40], [-60.0, -30.0, -30.0, -30.0 + later_db, -30.0 + later_db])
    rate_hz = np.where(known, 4.0, 0.0)
    silent = np.zeros(known.size, dtype=bool)
    assert calm_at_its_fastest(known, rate_hz, level_db, spoilt=silent) == calm
    # What is louder because somebody talks says nothing.
    assert not calm_at_its_fastest(known, rate_hz, level_db, spoilt=GRID.t_s > 18.0)


@pytest.mark.parametrize("seen", [True, False])
def test_a_belt_that_squeals_on_the_way_up_does_not_hide_its_drum(seen: bool) -> None:
    # The squeal is 15 dB louder than full speed, whether the ramp under it is followed or not.
    rate_hz = np.interp(GRID.t_s, [4, 18, 30, 38], [0.5, 12.0, 12.0, 0.5])
    level_db = np.interp(GRID.t_s, [0, 4, 5, 17, 18, 30, 38], [-60.0, -50.0, -15.0, -15.0, -30.0, -30.0, -60.0])
    known = (GRID.t_s > (6.0 if seen else 18.5)) & (GRID.t_s < 36.0)
    assert not calm_at_its_fastest(known, rate_hz, level_db, spoilt=np.zeros(known.size, dtype=bool))


def test_a_mirror_image_beyond_the_range_does_not_hide_the_drum() -> None:
    rate_hz = np.interp(GRID.t_s, [4, 15, 25, 36], [0.5, 11.4, 11.4, 0.5])
    score = ridge(0.3 * noise_score(GRID, 4), GRID, rate_hz, height=4.0)
    score = np.maximum(score, ridge(np.zeros_like(score), GRID, 25.0 - rate_hz, height=5.5))
    found = {}
    for folds in (True, False):
        even = (lambda _, known: np.zeros_like(known)) if folds else None
        path, known = best_path(score, GRID, unknown=1.0, least_end=1.3, felt=folds, images=even)
        follows = known & (np.abs(GRID.candidates_hz[path] - rate_hz) < 0.3)
        aliased = known & ~follows & (np.abs(25.0 - rate_hz - GRID.candidates_hz[path]) < 0.3)
        assert not aliased.any()
        found[folds] = int((follows & (rate_hz > 2.0)).sum())
    # Without the second look the stretch at full speed is given up with its alias.
    assert found[True] > 70
    assert found[False] < 20
