"""Findings from sound: each entry of the knowledge is read by something, and slow knocks speak for what they are."""

from __future__ import annotations

import tomllib
from dataclasses import replace
from importlib import resources

import numpy as np
import pytest

from eager_ear.core.diagnosis.evidence.sound_findings import (
    SOUND_READERS,
    creak_at_tumble,
    knock_at_tumble,
    run_up_bang,
)
from eager_ear.core.signals.impacts.find import ImpactFinding
from eager_ear.core.signals.mechanics.stop_hits import StopHits
from eager_ear.core.signals.run_measurement import RunMeasurement
from eager_ear.knowledge import load_knowledge
from tests.core.signals.synthetic import steady_track

# Several runs make it: the corners are compared, not read from one.
ACROSS_RUNS = {"uneven_corners"}


def run_with(*, per_turn: float, known: bool, false_alarm: float = 1e-9) -> RunMeasurement:
    """A minute at 54 rpm with knocks so often a turn, the speed known or not."""
    track = steady_track(rate_hz=0.9, seconds=60.0)
    track = replace(track, known=track.known & known)
    run = RunMeasurement(key="1", load="empty", track=track)
    run.impacts = {
        "knock": ImpactFinding(
            band="knock",
            per_turn=per_turn,
            share=0.5 if per_turn else 0.0,
            rayleigh_z=8.0,
            peak_db=15.0,
            speed_rpm=(50.0, 58.0) if per_turn else None,
            profile_db=np.zeros(48),
            turns=54,
            false_alarm=false_alarm,
            irregular=None,
        )
    }
    return run


def test_every_finding_from_sound_has_its_reader() -> None:
    text = resources.files("eager_ear.knowledge").joinpath("sound_findings.toml").read_text()
    assert set(tomllib.loads(text)["finding"]) == set(SOUND_READERS) | ACROSS_RUNS


@pytest.mark.parametrize("known", [True, False])
def test_two_a_turn_is_a_creak_and_one_a_knock(known: bool) -> None:
    findings = load_knowledge().findings
    for per_turn, speaks, silent in (
        (2.0, (creak_at_tumble, "creak_at_tumble"), (knock_at_tumble, "knock_at_tumble")),
        (1.0, (knock_at_tumble, "knock_at_tumble"), (creak_at_tumble, "creak_at_tumble")),
    ):
        run = run_with(per_turn=per_turn, known=known)
        reading = speaks[0](findings[speaks[1]], run)
        assert reading is not None
        assert reading.level == "clear"
        assert f"{per_turn:.0f} per turn" in reading.text
        other = silent[0](findings[silent[1]], run)
        assert (other.level if other is not None else None) == ("no" if known else None)


def test_silence_at_unknown_slow_turning_says_nothing() -> None:
    finding = load_knowledge().findings["creak_at_tumble"]
    assert creak_at_tumble(finding, run_with(per_turn=0.0, known=False, false_alarm=1.0)) is None
    quiet = creak_at_tumble(finding, run_with(per_turn=0.0, known=True, false_alarm=1.0))
    assert quiet is not None
    assert quiet.level == "no"


def test_impacts_that_were_felt_at_the_critical_speed_are_bangs_and_none_felt_are_none() -> None:
    finding = load_knowledge().findings["run_up_bang"]
    run = run_with(per_turn=0.0, known=True)
    assert run_up_bang(finding, run) is None
    run.stop_hits = StopHits(count=6, turns=20.0, rise_db=14.0, speed_rpm=(140.0, 190.0))
    felt = run_up_bang(finding, run)
    run.stop_hits = StopHits(count=0, turns=20.0, rise_db=0.0, speed_rpm=None)
    calm = run_up_bang(finding, run)
    assert felt is not None
    assert calm is not None
    assert int(np.argmax(felt.level_likelihood)) == 2
    assert int(np.argmax(calm.level_likelihood)) == 0
    assert "6 impacts" in felt.text
    assert "no impacts" in calm.text
