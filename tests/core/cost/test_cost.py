"""Sums by hand: money, the share rule, and options with all their lines."""

from __future__ import annotations

from dataclasses import replace
from datetime import date
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from eager_ear.core.cost import (
    CurrenciesDiffer,
    Money,
    MoneyRange,
    Offer,
    Option,
    Price,
    Question,
    Shop,
    leading_faults,
    make_offer,
    read_shop,
    share_limit,
)
from eager_ear.core.errors import BadField, UnknownCode
from eager_ear.core.machine import LAYOUT_CODES, Machine
from eager_ear.knowledge import load_knowledge

KNOWLEDGE = load_knowledge()
DAY = date(2026, 3, 4)


def euros(amount: float) -> Money:
    return Money.of(amount, "EUR")


def offer(
    layout: str,
    *faults: str,
    chance: float = 0.9,
    stage: str | None = None,
    shop: Shop | None = None,
    prices: dict[str, Price] | None = None,
    **machine: object,
) -> Offer:
    question = Question(
        machine=Machine(layout=layout, **machine),  # type: ignore[arg-type]
        faults=faults,
        chances=dict.fromkeys(faults, chance),
        stage=stage,
        day=DAY,
    )
    return make_offer(question, shop=shop or Shop(), prices=prices or {}, repair=KNOWLEDGE.repair)


def option(made: Offer, code: str) -> Option:
    return next(o for o in made.options if o.code == code)


def sure(amount: float, **more: object) -> Price:
    return Price(amount=MoneyRange.sure(euros(amount)), source="supplier", **more)  # type: ignore[arg-type]


def test_money_is_whole_units_and_rounds_once() -> None:
    assert euros(12.345).minor == 1234  # half to even
    assert Money.of(12.5, "JPY").minor == 12
    assert Money.of(1, "KWD").minor == 1000
    assert (euros(10) * Fraction(1, 3)).minor == 333
    with pytest.raises(CurrenciesDiffer, match="say its price in EUR"):
        euros(1) + Money.of(1, "CHF")
    with pytest.raises(BadField, match="capital letters"):
        Money.of(1, "euro")


@given(st.lists(st.integers(-(10**9), 10**9), max_size=20))
def test_sums_do_not_drift(amounts: list[int]) -> None:
    whole = Money.none("EUR")
    for amount in amounts:
        whole = whole + Money(minor=amount, currency="EUR")
    assert whole.minor == sum(amounts)


def test_the_share_rule_falls_with_age_and_has_a_floor() -> None:
    assert share_limit(age_years=0, life_years=10, share=0.5, least_share=0.2) == 0.5
    assert share_limit(age_years=5, life_years=10, share=0.5, least_share=0.2) == pytest.approx(0.375)
    assert share_limit(age_years=40, life_years=10, share=0.5, least_share=0.2) == 0.2


def test_a_coupler_by_hand() -> None:
    """Part 20, marker 1 to 2, 50.5 to 60.6 min at 60 an hour, way 25: 96.50 to 107.60."""
    made = offer("top_coupler", "motor_coupler", prices={"coupler_kit": sure(20)}, age_years=4.0)
    coupler = option(made, "coupler_kit")
    amounts = {line.code: (line.amount.low.minor, line.amount.high.minor) for line in coupler.lines}
    low, high = coupler.minutes.low, coupler.minutes.high
    assert amounts["coupler_kit"] == (2000, 2000)
    assert amounts["consumables"] == (100, 200)
    assert amounts["travel"] == (2500, 2500)
    assert amounts["labour"] == (round(low * 100), round(high * 100))
    assert coupler.total.low.minor == 2000 + 100 + 2500 + round(low * 100)
    assert coupler.total.high.minor == 2000 + 200 + 2500 + round(high * 100)
    # One in ten wrong: part and work lost; a call-back in 4 of 100 costs another hour and way.
    work = (round(low * 100) + round(high * 100)) / 2
    assert coupler.extra.minor == pytest.approx((2000 + work) * 0.1 + (2500 + 6000) * 0.04, abs=2)
    middle = (coupler.total.low.minor + coupler.total.high.minor) / 2
    assert coupler.a_year is not None
    assert coupler.a_year.minor == pytest.approx((middle + coupler.extra.minor) / ((3 + 8) / 2), abs=2)
    assert made.proposed == "coupler_kit"
    assert coupler.share == pytest.approx(middle / (60000 + 4000 + 2500))


def test_every_number_tells_how_it_came_about() -> None:
    late = sure(20, available_on=date(2026, 3, 10))
    made = offer("top_coupler", "motor_coupler", prices={"coupler_kit": late}, shop=Shop(factor=1.5))
    coupler = option(made, "coupler_kit")
    told = {w.of: w.how for w in coupler.workings}
    assert "times 1.5 for who comes" in told["work"]
    assert f"up to {coupler.minutes.high:.0f} min" in told["work"]
    assert told["on top"].startswith(
        "10\u00a0% that the call is wrong × (EUR 20.00 for parts that do not go back + EUR "
    )
    assert told["on top"].endswith(f"× EUR 85.00 for another hour and way = EUR {coupler.extra.minor / 100:.2f}.")
    assert coupler.a_year is not None
    assert "6 days × EUR 3.00" in told["a year"]
    assert told["a year"].endswith(f"÷ 5.5 years = EUR {coupler.a_year.minor / 100:.2f}.")
    assert "days without it" in told
    replaced = {w.of: w.how for w in option(made, "replace").workings}
    assert replaced["a year"] == "(EUR 665.00 + 4 days × EUR 3.00) ÷ 10 years = EUR 67.70."
    assert option(made, "scrap").workings == ()


def test_a_part_that_goes_back_is_not_lost_with_a_wrong_call() -> None:
    kept = option(offer("top_coupler", "motor_coupler", prices={"coupler_kit": sure(20)}), "coupler_kit")
    goes_back = option(
        offer("top_coupler", "motor_coupler", prices={"coupler_kit": sure(20, returnable=True)}), "coupler_kit"
    )
    assert kept.extra.minor - goes_back.extra.minor == pytest.approx(200, abs=1)


def test_parts_that_come_late_cost_a_second_way_and_days() -> None:
    early = option(offer("top_coupler", "motor_coupler", prices={"coupler_kit": sure(20)}), "coupler_kit")
    late_price = sure(20, available_on=date(2026, 3, 10))
    late = option(offer("top_coupler", "motor_coupler", prices={"coupler_kit": late_price}), "coupler_kit")
    assert (early.visits, early.days_without) == (1, 0)
    assert (late.visits, late.days_without) == (2, 6)
    assert late.total.low.minor - early.total.low.minor == 2500


def test_two_repairs_share_labour_and_way() -> None:
    both = option(offer("top_coupler", "clutch", "tub_seal"), "clutch_kit+seals_column")
    alone = [
        option(offer("top_coupler", "clutch"), "clutch_kit"),
        option(offer("top_coupler", "tub_seal"), "seals_column"),
    ]
    assert both.minutes.low < sum(o.minutes.low for o in alone) - 40
    assert both.total.high < alone[0].total.high + alone[1].total.high


def test_one_path_that_mends_both_faults_is_taken_once() -> None:
    made = offer("front_belt", "drum_bearing", "tub_seal")
    assert option(made, "bearings_pressed").paths == ("bearings_pressed",)


def test_waiting_is_offered_for_a_whine_and_never_for_a_growl() -> None:
    assert any(o.kind == "watch" for o in offer("front_belt", "drum_bearing", stage="whine").options)
    assert not any(o.kind == "watch" for o in offer("front_belt", "drum_bearing", stage="growl").options)


def test_schools_of_the_shop_come_first_but_no_option_is_hidden() -> None:
    shop = read_shop({"schools": {"bearings": "half"}}, now=Shop(), repair=KNOWLEDGE.repair)
    made = offer("front_belt", "drum_bearing", shop=shop)
    codes = [o.code for o in made.options]
    assert {"rear_half_swap", "bearings_pressed", "replace", "scrap"} <= set(codes)
    assert option(made, "rear_half_swap").kind == "other_school"
    assert codes[-1] == "scrap"


def test_schools_of_gasket_bead_and_reset_change_what_is_counted() -> None:
    plain = option(offer("front_belt", "drum_bearing"), "bearings_pressed")
    ways = {"gasket": "old", "bead": "with"}
    shop = read_shop({"schools": ways}, now=Shop(), repair=KNOWLEDGE.repair)
    other = option(offer("front_belt", "drum_bearing", shop=shop), "bearings_pressed")
    assert {line.code for line in plain.lines} - {line.code for line in other.lines} == {"tub_gasket"}
    assert other.minutes.low == plain.minutes.low + 4.0
    assert Shop(schools={"reset": "always"}).setting("top_shifter", stacked=False).wanted == {"p_calib"}
    assert Shop(schools={"posture": "on_back"}).setting("top_coupler", stacked=False).posture == "on_back"


def test_an_old_machine_is_not_mended_at_any_price() -> None:
    made = offer("front_belt", "drum_bearing", age_years=12.0)
    assert made.proposed == "replace"
    assert not option(made, "bearings_pressed").allowed
    assert "above the limit of 20\u00a0% for 12 years" in made.says
    dear = read_shop({"replacement": 250_000}, now=Shop(), repair=KNOWLEDGE.repair)
    assert offer("front_belt", "drum_bearing", age_years=12.0, shop=dear).proposed == "bearings_pressed"


def test_an_unknown_age_is_said() -> None:
    assert "age is not known" in offer("top_coupler", "motor_coupler").says


def test_a_column_counts_both_machines_and_the_dryer_that_comes_off() -> None:
    made = offer("top_coupler", "clutch", stacked=True)
    assert any(line.kind == "unstack" for line in option(made, "clutch_kit").lines)
    pair = option(made, "replace_pair")
    assert pair.total.low.minor == 2 * (60000 + 4000 + 2500)
    # A coupler is changed from the front: nothing comes off, but it takes longer.
    coupler = option(offer("top_coupler", "motor_coupler", stacked=True), "coupler_kit")
    free = option(offer("top_coupler", "motor_coupler"), "coupler_kit")
    assert not any(line.kind == "unstack" for line in coupler.lines)
    assert coupler.minutes.low == pytest.approx(1.3 * 45.5, rel=0.15)
    assert free.minutes.low < coupler.minutes.low


def test_tax_is_on_everything() -> None:
    plain = option(offer("top_coupler", "motor_coupler"), "coupler_kit").total
    taxed_shop = read_shop({"tax_percent": 20}, now=Shop(), repair=KNOWLEDGE.repair)
    taxed = option(offer("top_coupler", "motor_coupler", shop=taxed_shop), "coupler_kit").total
    assert taxed.low.minor == pytest.approx(plain.low.minor * 1.2, abs=1)


def test_prices_that_nobody_said_are_named() -> None:
    made = offer("front_belt", "belt")
    assert made.missing == ("belt",)
    assert offer("front_belt", "belt", prices={"belt": sure(18)}).missing == ()


def test_a_workaround_never_leads() -> None:
    made = offer("top_pulsator", "spindle_seat", age_years=6.0)
    assert option(made, "shim_and_lock").kind == "workaround"
    assert made.options.index(option(made, "shim_and_lock")) > made.options.index(option(made, "replace"))


def test_what_an_offer_mends_unless_somebody_says_otherwise() -> None:
    assert leading_faults({"spider": 0.7, "drum_bearing": 0.6, "none": 0.1}) == ("spider", "drum_bearing")
    assert leading_faults({"spider": 0.3, "drum_bearing": 0.2, "none": 0.4}) == ("spider",)
    assert leading_faults({"spider": 0.3, "none": 0.6}) == ("none",)


@given(st.sampled_from(LAYOUT_CODES), st.data())
def test_every_fault_has_options_that_add_up(layout: str, data: st.DataObject) -> None:
    faults = data.draw(
        st.lists(st.sampled_from([f.code for f in KNOWLEDGE.faults_of(layout)]), min_size=1, max_size=2, unique=True)
    )
    made = offer(layout, *faults, chance=data.draw(st.floats(0.01, 0.99)), stacked=data.draw(st.booleans()))
    assert any(o.paths for o in made.options)
    for one in made.options:
        assert one.total.low.minor == sum(line.amount.low.minor for line in one.lines)
        assert one.total.high.minor == sum(line.amount.high.minor for line in one.lines)
        assert one.total.low <= one.total.high
        assert one.extra.minor >= 0
    assert len({o.code for o in made.options}) == len(made.options)


@pytest.mark.parametrize(
    ("changes", "error"),
    [
        ({"hour": -1}, BadField),
        ({"hour": 12.5}, BadField),
        ({"currency": "eur"}, BadField),
        ({"mood": 1}, BadField),
        ({"schools": {"bearings": "prayer"}}, UnknownCode),
        ({"schools": {"prayer": "x"}}, UnknownCode),
        ({"tax_percent": float("nan")}, BadField),
    ],
)
def test_settings_that_cannot_be_are_refused(changes: dict[str, object], error: type[Exception]) -> None:
    with pytest.raises(error):
        read_shop(changes, now=Shop(), repair=KNOWLEDGE.repair)


def test_a_spent_part_is_ready_to_be_added_and_counts_once_somebody_adds_it() -> None:
    machine = Machine(layout="front_belt", age_years=3.0)
    asked = Question(
        machine=machine,
        faults=("drum_bearing",),
        chances={"drum_bearing": 0.95},
        stage="growl",
        day=DAY,
        condemned={"belt": "Belt: frayed", "rods": "of another layout", "bearing_front": "part of the plan"},
    )
    prices = {"belt": sure(21.5)}
    plain, added = (
        option(make_offer(one, shop=Shop(), prices=prices, repair=KNOWLEDGE.repair), "bearings_pressed")
        for one in (asked, replace(asked, added=("belt",)))
    )
    ready = {line.code: line for line in plain.prepared}
    assert (ready["belt"].why, ready["belt"].amount) == ("Belt: frayed", MoneyRange.sure(euros(21.5)))
    # Neither what this layout has not got nor what the repair renews anyway; what it renews if need be is there.
    assert set(ready) == {"belt", "tub_screws"}
    assert "belt" not in [line.code for line in plain.lines]
    assert added.total.low - plain.total.low == euros(21.5)
    assert "belt" in [line.code for line in added.prepared]
