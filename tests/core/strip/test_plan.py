"""Plans: valid whatever is asked, shared where they can be, and refused in words where there is no way."""

from __future__ import annotations

import itertools

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from eager_ear.core.errors import BadField, UnknownCode
from eager_ear.core.machine import LAYOUT_CODES
from eager_ear.core.repair import Setting
from eager_ear.core.strip import NoSuchWay, Plan, find_paths, make_plan, plan_dict, plan_text, read_setting
from eager_ear.core.strip.gates import gates_of
from eager_ear.core.strip.progress import closed_by, gates_ahead
from eager_ear.knowledge import load_knowledge

REPAIR = load_knowledge().repair
ALL_PATHS = {layout: [p.id for p in REPAIR.paths.values() if layout in p.layouts] for layout in LAYOUT_CODES}


def plan(layout: str, *paths: str, people: int = 1, posture: str | None = None, variants: tuple[str, ...] = ()) -> Plan:
    setting = Setting(layout=layout, people=people, posture=posture, variants=frozenset(variants))
    return make_plan(find_paths(paths, layout=layout, repair=REPAIR), setting=setting, repair=REPAIR)


def ids(steps: object) -> list[str]:
    return [p.step.id for p in steps if p.step is not None]  # type: ignore[attr-defined]


@st.composite
def asked(draw: st.DrawFn) -> tuple[str, tuple[str, ...], Setting]:
    layout = draw(st.sampled_from(LAYOUT_CODES))
    paths = draw(st.lists(st.sampled_from(ALL_PATHS[layout]), min_size=1, max_size=3, unique=True))
    return (
        layout,
        tuple(paths),
        Setting(
            layout=layout,
            people=draw(st.integers(1, 2)),
            posture=draw(st.sampled_from([None, "upright", "on_back", "on_side", "leaned", "from_rear"])),
            variants=frozenset(
                (
                    draw(st.sampled_from(["exit_front", "exit_top", "exit_rear"])),
                    draw(st.sampled_from(["screwed", "tabs"])),
                )
            ),
        ),
    )


@settings(max_examples=150)
@given(asked())
def test_every_plan_is_valid(case: tuple[str, tuple[str, ...], Setting]) -> None:
    layout, codes, setting = case
    paths = find_paths(codes, layout=layout, repair=REPAIR)
    made = make_plan(paths, setting=setting, repair=REPAIR)
    off, fit, on = ids(made.off), ids(made.fit), ids(made.on)
    steps = REPAIR.steps_of(layout)
    assert len(set(off)) == len(off)
    assert len(set(on)) == len(on)
    assert not set(on) & set(fit)
    for k, step_id in enumerate(off):
        for need in steps[step_id].needs:
            if need.optional or not setting.holds(need.when):
                continue
            there = [s for s in need.steps if s in steps]
            assert not there or set(there) & {*off[:k], "feet_set"}, f"{step_id} before {there}"
    # Everything opened is closed: by its own way back, or by the step that fits what stood there.
    closed_by_fit = {steps[s].closes for s in fit}
    for step_id in off:
        assert steps[step_id].nothing_back or step_id in {*fit, *on} | closed_by_fit, step_id
    if any(not steps[s].common for s in off):
        assert off.index("make_safe") < min(k for k, s in enumerate(off) if not steps[s].common)
        assert on[-1] == "make_safe"
    singles = [make_plan([p], setting=setting, repair=REPAIR) for p in paths]
    assert made.minutes[0] <= sum(p.minutes[0] for p in singles) + 0.3
    assert made.minutes[1] <= sum(p.minutes[1] for p in singles) + 0.3
    assert made.minutes[0] >= max(p.minutes[0] for p in singles) - 0.3
    assert made.minutes[0] <= made.minutes[1]
    assert set(made.parts) == {part for p in paths for part in p.parts}


@settings(max_examples=100)
@given(asked())
def test_what_stood_behind_something_goes_back_before_it(case: tuple[str, tuple[str, ...], Setting]) -> None:
    layout, codes, setting = case
    made = make_plan(find_paths(codes, layout=layout, repair=REPAIR), setting=setting, repair=REPAIR)
    back = [*ids(made.fit), *ids(made.on)]
    steps = REPAIR.steps_of(layout)
    if any(steps[s].back_rank is not None for s in back):
        return  # these layouts have a closing order of their own
    for later, earlier in itertools.combinations(back, 2):
        first, second = steps[later], steps[earlier]
        if first.fit or second.fit or first.common or second.common:
            continue
        if {later, earlier} <= set(ids(made.fit)):
            continue  # a path says in which order its own things go back
        # `later` goes back first, so it must not be what `earlier` was taken off behind.
        certain = {n.steps[0] for n in second.needs if len(n.steps) == 1 and not n.optional and setting.holds(n.when)}
        assert later not in certain, f"{later} goes back before {earlier}, which sits behind it"


def test_two_repairs_share_their_steps() -> None:
    clutch, seals = plan("top_coupler", "clutch_kit"), plan("top_coupler", "seals_column")
    both = plan("top_coupler", "clutch_kit", "seals_column")
    assert both.minutes[0] < clutch.minutes[0] + seals.minutes[0] - 40.0
    # The agitator stands on what the other repair opened: it cannot go back while that is still out.
    assert "agitator_out" in ids(clutch.fit)
    assert "agitator_out" in ids(both.on)
    assert both.proofs.count("p_column") == 1
    assert "p_column?" not in both.proofs


def test_bearings_of_a_front_loader_alone_take_the_masses_off() -> None:
    alone, helped = plan("front_belt", "bearings_pressed"), plan("front_belt", "bearings_pressed", people=2)
    assert {"top_weight_off", "front_weight_off"} <= set(ids(alone.off))
    assert not {"top_weight_off", "front_weight_off"} & set(ids(helped.off))
    off = ids(alone.off)
    assert off.index("tub_propped") < off.index("dampers_off") < off.index("tub_out") < off.index("halves_apart")
    fit = ids(alone.fit)
    expected = ["front_bearing_in", "shaft_seal_in", "rear_bearing_in", "drum_in", "pulley_off"]
    expected += ["gasket_in", "bead", "halves_joined"]
    assert [s for s in fit if s in expected] == expected
    on = ids(alone.on)
    order = ["tub_out", "dampers_off", "tub_propped", "front_weight_off"]
    order += ["heater_wires_off", "belt_off", "front_off", "back_off"]
    assert [s for s in on if s in order] == order
    low, high = REPAIR.paths["bearings_pressed"].minutes
    assert low <= alone.minutes[0] <= (low + high) / 2 + 10
    assert alone.minutes[1] == high


def test_the_ways_out_of_the_tub_group_differ() -> None:
    rear = plan("front_belt", "bearings_pressed", people=2, variants=("exit_rear",))
    front = plan("front_belt", "bearings_pressed", people=2, variants=("exit_front",))
    assert "front_off" not in ids(rear.off)
    assert "front_off" in ids(front.off)
    top = plan("front_belt", "bearings_pressed", people=2, variants=("exit_top",))
    assert "cross_rail_out" in ids(top.off)
    assert "front_off" not in ids(top.off)


def test_a_direct_drive_has_rotor_and_stator_where_a_belt_machine_has_its_pulley() -> None:
    off = ids(plan("front_direct", "bearings_pressed").off)
    assert {"rotor_off", "stator_off", "stator_plug_off"} <= set(off)
    assert not {"pulley_off", "belt_off", "motor_out"} & set(off)


def test_the_machine_is_tipped_once_and_after_what_wants_it_standing() -> None:
    both = plan("top_coupler", "clutch_kit", "seals_column")
    off = ids(both.off)
    assert both.tippings == 1
    assert off.index("staged_fill") < off.index("on_back") < off.index("gearcase_out")
    shifter = plan("top_shifter", "gearcase_swap")
    assert shifter.tippings == 1
    off = ids(shifter.off)
    assert off.index("basket_out") < off.index("on_side") < off.index("actuator_off")


def test_power_is_cut_once_and_the_pump_drains_before() -> None:
    off = ids(plan("top_coupler", "coupler_kit").off)
    assert off.index("drained") < off.index("make_safe")
    assert off.count("make_safe") == 1


def test_a_column_is_opened_from_its_front() -> None:
    off = ids(plan("top_coupler", "coupler_kit", posture="stacked").off)
    assert "front_panel_off" in off
    assert "cabinet_off" not in off
    assert "top_panel_up" not in off
    bolted = ids(plan("top_coupler", "coupler_kit", posture="stacked", variants=("panel_bolted",)).off)
    assert "top_panel_up" in bolted
    rods = ids(plan("top_shifter", "rods_set", posture="stacked").off)
    assert "top_panel_up" in rods
    assert "lid_up" not in rods


def test_what_tips_a_machine_below_a_dryer_is_refused_in_words() -> None:
    with pytest.raises(NoSuchWay, match="dryer stands on the machine"):
        plan("top_coupler", "clutch_kit", posture="stacked")


def test_a_posture_that_is_asked_for_is_taken_where_the_path_knows_it() -> None:
    assert "on_back" not in ids(plan("top_coupler", "coupler_kit", posture="upright").off)
    assert "on_back" in ids(plan("top_coupler", "coupler_kit", posture="on_back").off)
    assert "on_side" in ids(plan("top_shifter", "actuator_new", posture="on_side").off)
    assert "leaned" in ids(plan("top_shifter", "actuator_new").off)


def test_steps_without_a_way_back_are_gated_only_where_they_have_none() -> None:
    gates = {g.steps[0] for g in plan("front_belt", "seal_only", variants=("tabs",)).gates if g.code == "no_way_back"}
    assert gates == {"halves_apart", "seal_pried"}
    gates = {g.steps[0] for g in plan("front_belt", "seal_only").gates if g.code == "no_way_back"}
    assert gates == {"seal_pried"}


def test_gates_before_power_ask_only_for_what_was_opened() -> None:
    coupler = {g.code: g.steps for g in plan("top_coupler", "coupler_kit").gates}
    assert coupler["plugs"] == ("lid_plug_off", "motor_out")
    assert "holds_gone" not in coupler
    assert "earth_wires" not in coupler
    bearings = {g.code: g.steps for g in plan("front_belt", "bearings_pressed").gates}
    assert set(bearings["earth_wires"]) == {"lid_panel_off", "heater_wires_off", "motor_out"}
    assert bearings["holds_gone"] == ("tub_propped",)
    assert plan("front_belt", "load_talk").gates == ()


def test_rods_count_all_four_corners() -> None:
    made = plan("top_splined", "rods_set")
    rod_out = next(p for p in made.off if p.step and p.step.id == "rod_out")
    assert rod_out.minutes == 4 * 1.0
    assert next(p for p in made.fit if p.step and p.step.id == "rod_out").minutes == 4 * 1.5


def test_a_personal_factor_stretches_the_minutes() -> None:
    paths = find_paths(["belt_rigid"], layout="front_belt", repair=REPAIR)
    setting = Setting(layout="front_belt")
    plain = make_plan(paths, setting=setting, repair=REPAIR)
    learner = make_plan(paths, setting=setting, repair=REPAIR, factor=2.0)
    assert learner.minutes == pytest.approx((2 * plain.minutes[0], 2 * plain.minutes[1]), abs=0.11)


def test_what_is_not_known_is_refused() -> None:
    with pytest.raises(UnknownCode):
        find_paths(["prayer"], layout="front_belt", repair=REPAIR)
    with pytest.raises(BadField, match="no repair of top_coupler"):
        find_paths(["belt_rigid"], layout="top_coupler", repair=REPAIR)
    for wrong in ({"posture": "headstand"}, {"variants": ["exit_cellar"]}):
        with pytest.raises(UnknownCode):
            read_setting(
                **{"layout": "front_belt", "people": 1, "posture": None, "variants": [], **wrong}, repair=REPAIR
            )  # type: ignore[arg-type]


def test_a_written_plan_names_steps_by_their_ids() -> None:
    made = plan("front_belt", "bearings_pressed")
    written = plan_dict(made)
    assert {"off", "fit", "on", "proofs", "minutes", "tools", "van", "gates"} <= set(written)
    assert written["off"][0]["step"] == "baseline_saved"
    assert written["minutes"] == {"low": made.minutes[0], "high": made.minutes[1]}
    assert "bearing_front" in written["van"]
    assert "sealant" in written["van"]
    text = plan_text(made)
    assert "halves_apart" in text
    assert "Every earth wire" in text
    assert "p_empty" in text


@settings(max_examples=40, deadline=None)
@given(asked())
def test_gates_that_a_plan_comes_to_are_those_of_what_was_taken_off(
    drawn: tuple[str, tuple[str, ...], Setting],
) -> None:
    """A device without a signal asks of what it took off, by the list that came with the plan: the same gates."""
    layout, codes, setting = drawn
    try:
        made = make_plan(find_paths(codes, layout=layout, repair=REPAIR), setting=setting, repair=REPAIR)
    except NoSuchWay:
        return
    off = [p.step for p in made.off if p.step is not None]
    ahead = gates_ahead(off, setting=setting)
    closing = closed_by(off, repair=REPAIR, layout=layout)
    assert {step for gate in ahead for step in gate.steps} <= set(closing)
    for upto in range(len(off) + 1):
        opened = {step.id for step in off[:upto]}
        # As long as nothing of the machine itself is open, none is asked: `no_bridge` stands for all that is.
        begun = any(opened & set(gate.steps) for gate in ahead if gate.code == "no_bridge")
        told = {gate.code for gate in ahead if begun and opened & set(gate.steps)}
        asked_of = {gate.code for gate in gates_of(off[:upto], setting=setting)} - {"no_way_back"}
        assert told == asked_of
