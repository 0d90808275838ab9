"""Grades with every reason, the ceiling by hand, and what each way leaves."""

from __future__ import annotations

from dataclasses import replace
from datetime import date

import pytest

from eager_ear.core.cost import Money, MoneyRange, Offer, Option, Price, Question, Shop
from eager_ear.core.machine import Machine
from eager_ear.core.stock import State, Taken, grade_of, hours_run, make_stock_offer, mended
from eager_ear.knowledge import load_knowledge

REPAIR = load_knowledge().repair
RULES = REPAIR.stock
ALL_GOOD = dict.fromkeys((row.code for row in RULES.intake), "good")
SOUND = State(intake=ALL_GOOD, unmended=(), proved=None, workaround=False, age_years=3.0)
# Round numbers: the best grade fetches 300, the shop keeps 80, an hour of work is 60.
SHOP = Shop(resale=30000, margin=8000, hour=6000, removal=2500, tax_percent=19.0, life_years=10.0)


def euros(amount: float) -> Money:
    return Money.of(amount, "EUR")


def taken_in(state: State, *, paid: float = 0.0, shop: Shop = SHOP, **chances: float) -> Offer:
    faults = tuple(f for f, chance in chances.items() if chance >= 0.5) or ("none",)
    question = Question(
        machine=Machine(layout="top_coupler", age_years=state.age_years),
        faults=faults,
        chances=chances,
        stage=None,
        day=date(2026, 3, 4),
    )
    prices = {"coupler_kit": Price(amount=MoneyRange.sure(euros(20)), source="supplier")}
    return make_stock_offer(question, Taken(paid=euros(paid), state=state), shop=shop, prices=prices, repair=REPAIR)


def option(made: Offer, code: str) -> Option:
    return next(o for o in made.options if o.code == code)


def with_rows(state: State = SOUND, **results: str) -> State:
    return replace(state, intake={**state.intake, **results})


@pytest.mark.parametrize(
    ("state", "code", "why"),
    [
        (SOUND, "A", ()),
        (replace(SOUND, proved=True), "A", ()),
        (with_rows(clean="bad"), "B", ("Clean and whole: dirty, dented or incomplete",)),
        (replace(SOUND, age_years=5.0), "A", ()),
        (replace(SOUND, age_years=5.5), "B", ("5.5 years, past half of 10",)),
        (replace(SOUND, age_years=None), "B", ("Its age is not known",)),
        (with_rows(codes="not_tried"), "C", ("Codes kept: not looked at",)),
        (replace(SOUND, unmended=("Belt",)), "C", ("Belt: not mended",)),
        (replace(SOUND, proved=False), "C", ("A proof is missing, or failed",)),
        (replace(SOUND, workaround=True), "C", ("Mended with a workaround",)),
        (with_rows(lock="bad"), "parts", ("Lid or door lock: does not lock",)),
    ],
)
def test_a_grade_is_the_best_that_nothing_speaks_against(state: State, code: str, why: tuple[str, ...]) -> None:
    graded = grade_of(state, rules=RULES, life_years=10.0)
    assert (graded.code, graded.why) == (code, why)


def test_the_worst_reason_decides_and_stands_alone() -> None:
    state = replace(with_rows(lock="bad", clean="bad"), age_years=None, unmended=("Belt",))
    assert grade_of(state, rules=RULES, life_years=10.0).why == ("Lid or door lock: does not lock",)


def test_mending_makes_it_run_and_neither_younger_nor_cleaner() -> None:
    state = replace(with_rows(lock="bad", spin="bad", clean="bad"), unmended=("Belt",), age_years=8.0)
    after = grade_of(mended(state, rules=RULES, workaround=False), rules=RULES, life_years=10.0)
    assert after.code == "B"
    assert set(after.why) == {"Clean and whole: dirty, dented or incomplete", "8 years, past half of 10"}
    assert grade_of(mended(state, rules=RULES, workaround=True), rules=RULES, life_years=10.0).code == "C"


def test_the_ceiling_by_hand() -> None:
    broken = replace(with_rows(spin="bad"), unmended=("Coupler",))
    made = taken_in(broken, paid=40, motor_coupler=0.9)
    stock = made.stock
    assert stock is not None
    assert (stock.grade_now, stock.grade_then) == ("parts", "A")
    # 300 for the best grade, less 80 of margin, less 40 paid.
    assert (stock.fetches, stock.ceiling) == (euros(300), euros(180))
    kit = option(made, "coupler_kit")
    # Neither a way there nor tax: own work in the own shop. 20 of parts and the work alone.
    assert {line.kind for line in kit.lines} <= {"part", "consumables", "labour", "helper"}
    assert kit.brings == euros(300)
    assert kit.leaves == euros(300) - kit.total.middle - kit.extra - euros(40)
    assert (made.proposed, kit.allowed) == ("coupler_kit", True)


def test_what_was_paid_lowers_the_ceiling_and_every_way_alike() -> None:
    broken = replace(with_rows(spin="bad"), unmended=("Coupler",))
    given, bought = (taken_in(broken, paid=paid, motor_coupler=0.9) for paid in (0, 150))
    for one in given.options:
        other = option(bought, one.code)
        assert one.leaves is not None
        assert other.leaves is not None
        assert one.leaves - other.leaves == euros(150)
    assert not option(bought, "coupler_kit").allowed
    # A repair above the ceiling stands behind the ways that stay below it.
    assert bought.options[-1].paths


def test_a_machine_that_does_not_run_safely_is_not_sold_as_one() -> None:
    assert "as_is" not in [o.code for o in taken_in(with_rows(lock="bad"), none=0.9).options]
    as_is = option(taken_in(SOUND, none=0.9), "as_is")
    assert (as_is.brings, as_is.grade) == (euros(300), "A")
    with_a_word = option(taken_in(replace(SOUND, unmended=("Coupler",)), motor_coupler=0.6), "as_is")
    # The third grade fetches two fifths.
    assert (with_a_word.brings, with_a_word.why) == (euros(120), "Coupler: not mended")


def test_a_donor_gives_what_is_not_suspected() -> None:
    plain = option(taken_in(with_rows(spin="bad"), motor_coupler=0.9, none=0.1), "donor")
    assert "motor" in plain.why
    suspected = option(taken_in(with_rows(spin="bad"), motor=0.6, none=0.4), "donor")
    assert "motor" not in suspected.why.removeprefix("Serve again: ").split(", ")
    assert suspected.brings is not None
    assert plain.brings is not None
    # The motor's own worth by hand: two fifths of the middle of its typical price, half of them sold, less its odds.
    low, high = REPAIR.parts["motor"].typical
    assert plain.brings.minor - suspected.brings.minor == pytest.approx(100 * 0.5 * (low + high) * 0.4 * 0.5, rel=0.02)


def test_prices_that_are_tried_turn_the_proposal() -> None:
    broken = replace(with_rows(spin="bad"), unmended=("Gearcase",), age_years=12.0)
    assert taken_in(broken, gearcase=0.9).proposed == "donor"
    dear = taken_in(broken, shop=replace(SHOP, resale=200_000), gearcase=0.9)
    assert option(dear, dear.proposed).paths
    assert "sell it as grade B" in dear.says


def test_hours_run_by_hand() -> None:
    """Eight years of 52.18 weeks, four loads of an hour and a half: 2504 h, told as 2500."""
    told = {run.loads_a_week: run.hours for run in hours_run(8.0, use=RULES.use)}
    assert told[4] == 2500
    assert list(told.values()) == sorted(told.values())
    assert hours_run(None, use=RULES.use) == ()
