"""Motor current: spans, start and running draw of made-up logs, and what they are good for in a whole case."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
import pytest

from eager_ear.core.analysis import analyse
from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.errors import NotMeasurable
from eager_ear.core.figures import figures
from eager_ear.core.signals.drive.motor_current import measure_current
from eager_ear.core.signals.types import CurrentSignal
from eager_ear.core.simulate import SimulatedCase, with_clamp
from eager_ear.core.units import FloatArray


def log(seconds: float, *, rate: float = 10.0, noise: float = 0.02) -> tuple[FloatArray, FloatArray]:
    t_s = np.arange(0.0, seconds, 1.0 / rate)
    return t_s, 0.05 + noise * np.abs(np.random.default_rng(1).standard_normal(t_s.size))


@pytest.mark.parametrize("rate", [2.5, 10.0, 50.0])
def test_spans_start_and_running_draw_are_read(rate: float) -> None:
    t_s, amps = log(30.0, rate=rate)
    amps += np.where((t_s >= 3.0) & (t_s < 7.0), 2.0, 0.0)
    amps += np.where((t_s >= 10.0) & (t_s < 24.0), 3.0 + 6.0 * np.exp(-(t_s - 10.0) / 0.4), 0.0)
    found = measure_current(CurrentSignal(t_s=t_s, current_a=amps), start_s=100.0)
    assert np.ravel(found.spans) == pytest.approx([103.0, 107.0, 110.0, 124.0], abs=1.1 / rate)
    assert found.running_a == pytest.approx(3.07, abs=0.05)
    assert found.starting_a is not None
    assert found.starting_a == pytest.approx(9.05, rel=0.3 if rate < 5 else 0.05)
    assert found.off_s == pytest.approx(124.0, abs=1.1 / rate)


def test_a_motor_that_runs_throughout_has_neither_start_nor_end() -> None:
    t_s, amps = log(12.0)
    found = measure_current(CurrentSignal(t_s=t_s, current_a=amps + 2.5), start_s=0.0)
    assert (found.starting_a, found.off_s) == (None, None)
    assert len(found.spans) == 1


def test_a_flicker_of_the_meter_ends_nothing() -> None:
    t_s, amps = log(12.0)
    amps += 2.5
    amps[60] = 0.0
    assert len(measure_current(CurrentSignal(t_s=t_s, current_a=amps), start_s=0.0).spans) == 1


@pytest.mark.parametrize(("seconds", "rate"), [(20.0, 10.0), (1.0, 10.0), (20.0, 1.0)])
def test_why_a_current_cannot_be_read(seconds: float, rate: float) -> None:
    t_s, amps = log(seconds, rate=rate)
    with pytest.raises(NotMeasurable, match="Motor current"):
        measure_current(CurrentSignal(t_s=t_s, current_a=amps), start_s=0.0)


def test_the_meter_tells_when_the_power_was_cut(simulated: Callable[..., SimulatedCase], knowledge: Knowledge) -> None:
    clamped = with_clamp(simulated("front_direct", "none", 11), seed=3)
    run = analyse(clamped.case, knowledge=knowledge).lead
    assert run is not None
    assert run.phases is not None
    assert run.current is not None
    assert run.phases.power_cut_s == run.current.off_s
    assert run.phases.power_cut_s == pytest.approx(clamped.rotation.power_cut_s, abs=0.15)
    found = figures(run)
    assert found["motor_starting_a"] > 1.5 * found["motor_running_a"] > 1.0


def test_a_motor_that_cuts_out_is_told_from_one_switched_off(
    simulated: Callable[..., SimulatedCase], knowledge: Knowledge
) -> None:
    clamped = with_clamp(simulated("front_direct", "none", 11), seed=3)
    cut_s = clamped.rotation.power_cut_s

    def reading(noted_s: float) -> str:
        recordings = tuple(replace(r, facts=replace(r.facts, power_cut_s=noted_s)) for r in clamped.case.recordings)
        call = analyse(replace(clamped.case, recordings=recordings), knowledge=knowledge).call
        return next(r for r in call.readings if r.finding.code == "cut_out").text

    assert "until it is switched off" in reading(cut_s)
    assert "stops 12 s before" in reading(cut_s + 12.0)
