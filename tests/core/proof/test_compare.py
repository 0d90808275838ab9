"""Before and after: what went, what stayed, what is new, and when two spins cannot be compared."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from eager_ear.core.diagnosis.evidence.shown import Observation, Shown
from eager_ear.core.proof import BeforeAfter, compare_before_after
from eager_ear.core.signals.sound.spin_profile import SpinProfile
from eager_ear.knowledge import load_knowledge

FINDINGS = load_knowledge().findings
CENTRES = 250.0 * 2.0 ** (np.arange(18) / 3.0)


def seen(finding: str, value: float, sigma: float) -> Observation:
    return Observation(finding=finding, value=value, sigma=sigma, text=f"{finding} {value:g}")


def spin(*observations: Observation, **more: object) -> Shown:
    facts = {"test": "spin", "key": "spin", "position": "rear_panel", "load": "empty", "turning": True, **more}
    return Shown(observations=observations, **facts)  # type: ignore[arg-type]


def profile(*, from_hz: float = 1e9, to_hz: float = 2e9, lower_by_db: float = 0.0) -> SpinProfile:
    """A flat spectrum over eight steps of speed, lower in one range."""
    levels = np.full((8, CENTRES.size), -40.0)
    levels[:, (from_hz <= CENTRES) & (to_hz >= CENTRES)] -= lower_by_db
    return SpinProfile(
        step=np.arange(8, 16), centre_hz=CENTRES, level_db=levels, shake_db=np.full(8, np.nan), calibrated=True
    )


def compared(before: Shown, after: Shown, *, lower_by_db: float = 0.0) -> BeforeAfter:
    later = profile(from_hz=2000.0, to_hz=6000.0, lower_by_db=lower_by_db)
    return compare_before_after(before, after, findings=FINDINGS, profiles=(profile(), later))


def test_what_is_gone_is_said_with_its_bands() -> None:
    before = spin(seen("race_lines", 9.0, 0.5), seen("damping", 0.04, 0.004))
    after = spin(seen("race_lines", 0.1, 0.3), seen("damping", 0.041, 0.004))
    found = compared(before, after, lower_by_db=18.0)
    assert found.verdict == "better"
    assert found.says.startswith("Envelope lines at a bearing race: gone")
    assert "18\u00a0dB less between" in found.says
    # One fault found is not the end: what was wrong besides is still wrong.
    assert "Not healthy, as before: damping in the run-up. Look at that before you leave." in found.says
    [band] = found.bands
    assert band.db == pytest.approx(-18.0, abs=0.5)
    assert (band.low_hz, band.high_hz) == (pytest.approx(1782, rel=0.02), pytest.approx(5657, rel=0.15))
    race = found.changes[0]
    assert (race.finding, race.mended, race.clear) == ("race_lines", True, True)


def test_what_was_healthy_and_is_not_is_worse() -> None:
    found = compared(spin(seen("damping", 0.12, 0.01)), spin(seen("damping", 0.02, 0.003)))
    assert found.verdict == "worse"
    assert "new since the repair" in found.says


def test_a_change_within_its_errors_is_none() -> None:
    found = compared(spin(seen("damping", 0.05, 0.02)), spin(seen("damping", 0.07, 0.02)))
    assert not found.changes[0].clear
    assert found.verdict == "alike"


def test_healthy_before_and_after_is_said() -> None:
    found = compared(spin(seen("damping", 0.12, 0.01)), spin(seen("damping", 0.13, 0.01)))
    assert found.says == "Healthy before and after, as far as these spins tell."


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"position": "top_centre"}, "record it there"),
        ({"load": "full"}, "spin it so again"),
        ({"turning": False}, "from rest to rest"),
    ],
)
def test_what_does_not_compare_is_said_with_what_to_do(change: dict[str, object], says: str) -> None:
    first = spin(seen("damping", 0.1, 0.01))
    found = compared(first, replace(first, **change))  # type: ignore[arg-type]
    assert found.verdict == "not_compared"
    assert any(says in problem for problem in found.problems)


def test_spins_without_shared_speeds_do_not_compare() -> None:
    slow = replace(profile(), step=np.arange(0, 8))
    both = spin(seen("damping", 0.1, 0.01))
    found = compare_before_after(both, both, findings=FINDINGS, profiles=(profile(), slow))
    assert found.verdict == "not_compared"
    assert "share too little" in found.problems[0]


def test_findings_that_the_knowledge_no_longer_asks_for_are_left_out() -> None:
    both = spin(seen("moonshine", 1.0, 0.1))
    assert compared(both, both).changes == ()
