"""Hand checks: every one validated and read, arithmetic against closed forms."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from eager_ear.core.case import HandCheck
from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.diagnosis.evidence.hand_findings import HAND_READERS, hand_readings
from eager_ear.core.diagnosis.knowledge import ValueSpec
from eager_ear.core.errors import BadField, UnknownCode
from eager_ear.core.hands import damping_from_swings, fit_gap_round, swings_from_peaks, validate_values


def sample(spec: ValueSpec) -> Any:
    if spec.kind == "flag":
        return True
    if spec.kind == "choice":
        return spec.choices[-1]
    if spec.kind == "choices":
        return [spec.choices[0]]
    if spec.kind == "ohms":
        return "open"
    value = max(1.0, spec.low)
    return [value] * spec.count[1] if spec.kind == "numbers" else value


def test_every_check_of_the_format_is_validated_and_read(knowledge: Knowledge) -> None:
    assert set(HAND_READERS) <= set(knowledge.checks)
    for code, check in knowledge.checks.items():
        values = validate_values(code, {v.name: sample(v) for v in check.values}, knowledge=knowledge)
        readings = hand_readings((HandCheck(check=code, values=values),), findings=knowledge.findings)
        assert {r.finding.code for r in readings} == set(check.findings), code
        assert hand_readings((HandCheck(check=code, values={}),), findings=knowledge.findings) == []


def test_a_repeated_check_counts_once_by_its_last_values(knowledge: Knowledge) -> None:
    checks = tuple(HandCheck(check="hand_turn", values={"feel": f}) for f in ("grinding", "smooth"))
    assert [r.level for r in hand_readings(checks, findings=knowledge.findings)] == ["smooth"]


@pytest.mark.parametrize(
    ("check", "values", "error"),
    [
        ("hand_turn", {"feel": "odd"}, UnknownCode),
        ("no_such_check", {}, UnknownCode),
        ("drum_lift_play", {"play_mm": "much"}, BadField),
        ("drum_lift_play", {"play_mm": -1}, BadField),
        ("drum_lift_play", {"play_mm": float("nan")}, BadField),
        ("drum_lift_play", {"play_mm": True}, BadField),
        ("drum_gap_round", {"gaps_mm": [1, 2, 3]}, BadField),
        ("drum_gap_round", {"gaps_mm": 5}, BadField),
        ("counterweight", {"loose": "yes"}, BadField),
    ],
)
def test_bad_values_are_refused_by_field(
    check: str, values: dict[str, Any], error: type[Exception], knowledge: Knowledge
) -> None:
    with pytest.raises(error):
        validate_values(check, values, knowledge=knowledge)


def test_unknown_values_are_left_out(knowledge: Knowledge) -> None:
    assert validate_values("bounce", {"corner": None, "swings": 3, "more": 1}, knowledge=knowledge) == {"swings": 3.0}


@given(st.floats(0.5, 8.0), st.floats(0.0, 359.0), st.integers(6, 16))
def test_run_out_and_its_direction_are_recovered(runout: float, widest: float, count: int) -> None:
    angle = 2 * np.pi * np.arange(count) / count
    gaps = 12.0 + runout * np.cos(angle - np.radians(widest)) + 0.4 * np.cos(2 * angle)
    fit = fit_gap_round(gaps.tolist())
    assert fit.runout_mm == pytest.approx(runout, abs=1e-6)
    assert abs((fit.widest_deg - widest + 180) % 360 - 180) < 1e-3
    assert fit.oval_mm == pytest.approx(0.4, abs=1e-6)


def test_run_out_error_grows_with_scatter() -> None:
    angle = 2 * np.pi * np.arange(8) / 8
    smooth = fit_gap_round([10.0] * 8)
    rough = fit_gap_round((10.0 + 2.0 * np.cos(3 * angle)).tolist())
    assert rough.runout_sigma_mm > 2 * smooth.runout_sigma_mm


@given(st.floats(0.02, 0.4))
def test_swings_and_damping_agree(damping: float) -> None:
    decrement = 2 * np.pi * damping / np.sqrt(1 - damping**2)
    peaks = [30.0 * np.exp(-decrement * k) for k in range(4)]
    assert damping_from_swings(swings_from_peaks(peaks)) == pytest.approx(damping, rel=1e-6)


def test_the_weakest_corner_counts_in_whichever_order_they_were_pushed(knowledge: Knowledge) -> None:
    corners = [("front_left", 2.0), ("rear_left", 7.0), ("rear_right", 3.0)]
    made = [HandCheck(check="bounce", values={"corner": corner, "swings": swings}) for corner, swings in corners]
    for order in (made, made[::-1]):
        [reading] = hand_readings(tuple(order), findings=knowledge.findings)
        assert (reading.value, reading.level) == (7.0, "swings on")
    mended = HandCheck(check="bounce", values={"corner": "rear_left", "swings": 2.5})
    [reading] = hand_readings((*made, mended), findings=knowledge.findings)
    assert reading.value == 3.0
