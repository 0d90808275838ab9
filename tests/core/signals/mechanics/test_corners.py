"""Corners compared at equal speed: known ratios come back, whatever speeds each run lingered at."""

from __future__ import annotations

import numpy as np
import pytest

from eager_ear.core.analysis import analyse
from eager_ear.core.case import Case, Recording, RecordingFacts
from eager_ear.core.diagnosis.evidence.shown import Shown
from eager_ear.core.diagnosis.evidence.sound_findings import corner_readings
from eager_ear.core.errors import NotMeasurable
from eager_ear.core.machine import Machine
from eager_ear.core.result import result_dict
from eager_ear.core.signals.angle.order_amplitudes import ORDERS, OrderCurves
from eager_ear.core.signals.mechanics.corners import compare_corners, levels_by_speed
from eager_ear.core.signals.types import AccelerationSignal
from eager_ear.knowledge import load_knowledge

RNG = np.random.default_rng(5)


def corner_run(position: str, *, factor: float, rates: tuple[float, float] = (4.0, 12.0), load: str = "empty") -> Shown:
    """A run whose once-per-turn motion is `factor` times r² in all axes, with a twentieth of noise."""
    t_s = np.arange(0.0, 40.0, 0.125)
    rate = np.linspace(*rates, t_s.size)
    amplitude = np.zeros((3, len(ORDERS), t_s.size), dtype=complex)
    amplitude[:, 0] = 0.01 * factor * rate**2 * (1.0 + 0.05 * RNG.standard_normal((3, t_s.size)))
    curves = OrderCurves(
        t_s=t_s,
        rate_hz=rate,
        known=np.ones(t_s.size, dtype=bool),
        followed=np.ones(t_s.size, dtype=bool),
        amplitude_m_s2=amplitude,
        noise_m_s2=np.full(3, 1e-3),
        axis_names=("x", "y", "z"),
    )
    return Shown(test="spin", key=position, load=load, position=position, corner_levels_db=levels_by_speed(curves))


def test_ratio_of_two_corners_comes_back_at_equal_speed() -> None:
    # The louder corner's run stayed slower: compared without regard to speed it would look calmer.
    found = compare_corners(
        [
            corner_run("top_front_left", factor=1.0, rates=(4.0, 14.0)),
            corner_run("top_rear_right", factor=2.0, rates=(4.0, 9.0)),
        ]
    )
    assert found.corners[0].corner == "rear_right"
    assert found.ahead_db == pytest.approx(6.02, abs=0.2)
    assert 0.9 < found.ahead_sigma_db < 2.0
    assert found.speed_rpm[0] == pytest.approx(240.0, rel=0.1)
    assert found.speed_rpm[1] == pytest.approx(540.0, rel=0.1)


def test_levels_are_relative_to_the_mean_of_all_corners() -> None:
    found = compare_corners(
        [
            corner_run(position, factor=factor)
            for position, factor in (
                ("top_front_left", 1.0),
                ("top_front_right", 1.0),
                ("top_rear_left", 1.0),
                ("top_rear_right", 3.0),
            )
        ]
    )
    assert sum(c.level_db for c in found.corners) == pytest.approx(0.0, abs=1e-6)
    assert found.corners[0].level_db == pytest.approx(0.75 * 20.0 * np.log10(3.0), abs=0.2)


@pytest.mark.parametrize(
    ("runs", "why"),
    [
        ([corner_run("top_front_left", factor=1.0)], "two corners"),
        ([corner_run("top_front_left", factor=1.0), corner_run("rear_panel", factor=1.0)], "two corners"),
        (
            [corner_run("top_front_left", factor=1.0), corner_run("top_rear_left", factor=1.0, load="towels")],
            "differing loads",
        ),
        (
            [
                corner_run("top_front_left", factor=1.0, rates=(3.0, 5.0)),
                corner_run("top_rear_left", factor=1.0, rates=(8.0, 12.0)),
            ],
            "too little of their speeds",
        ),
    ],
)
def test_what_cannot_be_compared_says_why(runs: list[Shown], why: str) -> None:
    with pytest.raises(NotMeasurable, match=why):
        compare_corners(runs)


def test_one_loud_corner_is_a_finding_and_even_ones_are_not() -> None:
    findings = load_knowledge().findings
    positions = ("top_front_left", "top_front_right", "top_rear_left")
    even = compare_corners([corner_run(p, factor=1.0) for p in positions])
    loud = compare_corners([corner_run(p, factor=4.0 if p == positions[1] else 1.0) for p in positions])
    (calm,), (uneven,) = corner_readings(even, findings=findings), corner_readings(loud, findings=findings)
    assert "front right" in uneven.text
    assert calm.level == "even"
    assert uneven.level == "one corner"
    assert corner_readings(None, findings=findings) == []


def test_corners_recorded_in_one_case_reach_the_result() -> None:
    analysis = analyse(
        Case(
            id="corners",
            machine=Machine(layout="top_splined", max_spin_rpm=800),
            recordings=tuple(
                spin_at(position, factor=factor)
                for position, factor in (("top_front_left", 1.0), ("top_rear_right", 2.5))
            ),
        ),
        knowledge=load_knowledge(),
    )
    levels = result_dict(analysis.weighed)["corners"]["levels"]
    assert levels[0]["corner"] == "rear_right"
    assert levels[0]["level_db"] - levels[1]["level_db"] == pytest.approx(20 * np.log10(2.5), abs=0.5)


def spin_at(position: str, *, factor: float) -> Recording:
    t_s = np.arange(0.0, 40.0, 0.01)
    rate = np.interp(t_s, [0, 3, 20, 30, 39, 40], [0.5, 0.8, 12.0, 12.0, 0.5, 0.0])
    turns = np.cumsum(rate) * 0.01
    noise = np.random.default_rng(len(position)).standard_normal((3, t_s.size))
    # The case goes sideways alike everywhere; the corners differ in how far they go up and down.
    ways = [np.cos(2 * np.pi * turns), np.sin(2 * np.pi * turns), factor * np.cos(2 * np.pi * turns)]
    shake = 0.01 * rate**2 * np.stack(ways)
    return Recording(
        facts=RecordingFacts(
            name=f"{position}.csv", kind="acceleration", test="spin", run=position, position=position, load="empty"
        ),
        signal=AccelerationSignal(t_s=t_s, axes_m_s2=shake + 0.02 * noise),
    )
