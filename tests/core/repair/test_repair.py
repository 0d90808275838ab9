"""The repairs as they ship fit together, and whatever does not is named."""

from __future__ import annotations

from dataclasses import replace
from types import MappingProxyType

import pytest

from eager_ear.core.machine import LAYOUT_CODES
from eager_ear.core.repair import Fasteners, Need, Repair, Setting, Step, misfits, read_need
from eager_ear.knowledge import load_knowledge

FAULTS = {fault.code: fault.layouts for fault in load_knowledge().faults.values()}
KNOWN = {
    "faults": FAULTS,
    "looks": load_knowledge().looks,
    "checks": load_knowledge().checks,
    "symptoms": load_knowledge().symptoms,
}


def with_step(repair: Repair, step: Step) -> Repair:
    return replace(
        repair, steps=MappingProxyType({**repair.steps, **{(layout, step.id): step for layout in step.layouts}})
    )


def test_what_ships_fits_together() -> None:
    assert misfits(load_knowledge().repair, **KNOWN) == ()


def test_every_fault_of_every_layout_is_mended_by_at_least_one_path() -> None:
    repair = load_knowledge().repair
    for fault, layouts in FAULTS.items():
        for layout in layouts:
            assert repair.paths_of(fault, layout=layout), (fault, layout)


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"needs": (Need(steps=("moon_off",)),)}, "belt_off of front_belt needs moon_off"),
        ({"needs": (Need(steps=("back_off",), when="full_moon"),)}, "unknown condition full_moon"),
        ({"needs": (Need(steps=("motor_out",)),)}, "wait for each other"),
        ({"hazards": ("boredom",)}, "unknown hazard boredom"),
        ({"trouble": "tears"}, "unknown ladder tears"),
        ({"minutes_on": 0.0}, "is opened and has no way back"),
        ({"closes": "moon_off"}, "closes moon_off"),
        ({"fasteners": (Fasteners(group="rear edge", kind="screw", count=(1, 2), drive=""),)}, "which is no code"),
    ],
)
def test_a_step_that_does_not_fit_is_named(change: dict[str, object], says: str) -> None:
    repair = load_knowledge().repair
    belt_off = repair.steps["front_belt", "belt_off"]
    wrong = misfits(with_step(repair, replace(belt_off, **change)), **KNOWN)  # type: ignore[arg-type]
    assert any(says in text for text in wrong), wrong


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"parts": ("moon_rock",)}, "unknown part moon_rock"),
        ({"tools": (Need(steps=("wand",)),)}, "unknown tool wand"),
        ({"proofs": ("p_prayer?",)}, "unknown proof p_prayer"),
        ({"school": "bearings=hope"}, "unknown school bearings=hope"),
        ({"goals": (Need(steps=("agitator_out",)),)}, "opens agitator_out, which front_belt does not have"),
        ({"faults": ("rust",)}, "unknown fault rust"),
        ({"minutes": (50.0, 40.0)}, "impossible minutes"),
    ],
)
def test_a_path_that_does_not_fit_is_named(change: dict[str, object], says: str) -> None:
    repair = load_knowledge().repair
    changed = replace(repair.paths["belt_rigid"], **change)  # type: ignore[arg-type]
    wrong = misfits(replace(repair, paths={**repair.paths, "belt_rigid": changed}), **KNOWN)
    assert any(says in text for text in wrong), wrong


def test_a_fault_that_nothing_mends_is_named() -> None:
    repair = load_knowledge().repair
    paths = {code: path for code, path in repair.paths.items() if "spider" not in path.faults}
    wrong = misfits(replace(repair, paths=paths), **KNOWN)
    assert "no path mends spider of front_direct" in wrong


def test_needs_are_read_as_they_are_written() -> None:
    assert read_need("a/b?") == Need(steps=("a", "b"), optional=True)
    assert read_need("alone:a") == Need(steps=("a",), when="alone")
    for text in ("", "a b", "a//b", "A", "x:y:z"):
        with pytest.raises(ValueError, match="no need"):
            read_need(text)


def test_conditions_hold_by_layout_people_posture_and_variant() -> None:
    alone = Setting(layout="front_belt")
    assert alone.holds("alone")
    assert alone.holds("front_belt")
    assert not alone.holds("top_coupler")
    assert not Setting(layout="front_belt", people=2).holds("alone")
    assert Setting(layout="top_coupler", posture="stacked").holds("stacked")
    # The first of a group is taken unless another is told.
    assert alone.holds("exit_front")
    assert not alone.holds("exit_rear")
    rear = Setting(layout="front_belt", variants=frozenset({"exit_rear"}))
    assert rear.holds("exit_rear")
    assert not rear.holds("exit_front")
    with pytest.raises(ValueError, match="no condition"):
        alone.holds("full_moon")


def test_every_hazard_of_a_step_has_its_caution() -> None:
    repair = load_knowledge().repair
    for layout in LAYOUT_CODES:
        for step in repair.steps_of(layout).values():
            assert all(len(repair.hazards[h].says) > 20 for h in step.hazards)
