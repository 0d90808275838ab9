"""Ranks of the level over the turn: weak impacts are found, noise and modulation are not taken for them."""

from __future__ import annotations

import numpy as np
import pytest

from eager_ear.core.signals.dsp.band_envelopes import SoundSections
from eager_ear.core.signals.impacts.angle_ranks import AngleRank, near_chance, rank_angles
from eager_ear.core.signals.impacts.find import find_impacts
from eager_ear.core.signals.impacts.locked_impacts import come_oftener
from eager_ear.core.signals.impacts.transients import Transients
from eager_ear.core.signals.types import AudioSignal
from eager_ear.core.units import FloatArray
from tests.core.signals.synthetic import steady_track

DRUM_HZ = 6.0
SECONDS = 20.0
CELL_S = 0.001


def ranked(extra_power: FloatArray | float, *, seed: int, drift: float = 0.0) -> AngleRank:
    """Exponential band power, as of noise, times one plus what is given per millisecond."""
    power = np.random.default_rng(seed).exponential(size=times().size) * (1.0 + extra_power)
    nothing = np.zeros(0)
    level = 10.0 * np.log10(power)
    impacts = Transients(
        t_s=nothing,
        rise_db=nothing,
        faint_t_s=nothing,
        faint_rise_db=nothing,
        level_db=level,
        start_s=0.0,
        cell_s=CELL_S,
        values=1.0,
    )
    track = steady_track(rate_hz=DRUM_HZ * (1.0 + drift), seconds=SECONDS)
    rank = rank_angles(impacts, track=track, use=track.known)
    assert rank is not None
    return rank


def times() -> FloatArray:
    return np.arange(int(SECONDS / CELL_S)) * CELL_S


def impact(at: float, *, power: float, per_turn: int = 1) -> FloatArray:
    """Power of impacts of five milliseconds at one angle [turns]."""
    angle = np.mod(per_turn * (DRUM_HZ * times() - at), 1.0)
    return np.asarray(np.where(angle < per_turn * DRUM_HZ * 0.005, power, 0.0))


@pytest.mark.parametrize("at", [0.03, 0.4, 0.97])
def test_impacts_three_decibels_above_the_noise_are_found(at: float) -> None:
    rank = ranked(impact(at, power=3.0), seed=1)
    assert rank.false_alarm < 1e-6
    assert near_chance(rank.opposite_near_share, rank.turns, 0.2) > 1e-2
    assert rank.near_share > 0.5
    assert rank.width_turns < 0.15


def test_two_impacts_a_turn_show_on_both_sides() -> None:
    rank = ranked(impact(0.1, power=6.0, per_turn=2), seed=2)
    assert rank.false_alarm < 1e-4
    assert near_chance(rank.opposite_near_share, rank.turns, 0.2) < 1e-4
    assert rank.opposite_near_share > 0.5 * rank.near_share


def test_noise_raises_no_alarm_more_often_than_stated() -> None:
    chances = np.array([ranked(0.0, seed=seed).false_alarm for seed in range(60)])
    assert np.mean(chances < 0.1) <= 0.15
    assert chances.min() > 1e-4


def test_modulation_once_a_turn_is_tied_to_the_drum_but_wide() -> None:
    rank = ranked(1.5 + 1.5 * np.cos(2 * np.pi * DRUM_HZ * times()), seed=3)
    assert rank.false_alarm < 1e-4
    assert rank.width_turns > 0.2


def test_a_track_that_is_a_little_off_loses_no_impacts() -> None:
    assert ranked(impact(0.2, power=4.0), seed=4, drift=0.001).false_alarm < 1e-6


def test_a_impact_that_nobody_could_count_reaches_the_finding() -> None:
    rate, seconds = 24000.0, 30.0
    t_s = np.arange(int(rate * seconds)) / rate
    angle = np.mod(DRUM_HZ * t_s, 1.0)
    ring = np.where(angle < DRUM_HZ * 0.006, 1.0, 0.0) * np.sin(2 * np.pi * 4000.0 * t_s)
    noise = np.random.default_rng(5).standard_normal(t_s.size)
    audio = AudioSignal(samples=(0.02 * (noise + 1.6 * ring)).astype(np.float32), sample_rate_hz=rate)
    track = steady_track(rate_hz=DRUM_HZ, seconds=seconds)
    found = find_impacts(SoundSections(audio, start_s=0.0), track=track)
    assert found["tick"].per_turn == 1.0
    assert found["tick"].irregular is None
    assert found["thump"].per_turn == 0.0


def test_how_often_a_part_is_the_loudest_nearby_has_the_chance_of_a_binomial() -> None:
    assert near_chance(0.0, 40, 0.2) == 1.0
    assert near_chance(0.5, 2, 0.2) == pytest.approx(1.0 - 0.8**2)
    assert near_chance(0.6, 60, 1.0 / 3.0) < 1e-4 < near_chance(0.4, 60, 1.0 / 3.0)


def test_a_tick_that_fills_a_part_of_a_cell_counts_with_all_its_power() -> None:
    # One millisecond in cells of three and a half: twelve decibels there are nine in the cell's power, three in the
    # mean of its decibels.
    angle = np.mod(DRUM_HZ * times() - 0.3, 1.0)
    rank = ranked(np.where(angle < DRUM_HZ * 0.001, 15.0, 0.0), seed=8)
    assert rank.false_alarm < 1e-12
    assert rank.near_share > 0.5


def test_three_impacts_a_turn_are_told_from_one() -> None:
    thrice, once = (ranked(impact(0.2, power=8.0, per_turn=n), seed=9) for n in (3, 1))
    assert come_oftener([once, thrice])
    assert not come_oftener([once])
    assert not come_oftener([ranked(0.0, seed=k) for k in range(20)])
