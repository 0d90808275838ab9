"""Tightening orders and the small sums of the bench."""

from __future__ import annotations

import itertools
import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from eager_ear.core.errors import BadField
from eager_ear.core.strip.sums import added_force_n, shim_sum
from eager_ear.core.strip.tightening import opposite_order


def test_orders_by_hand() -> None:
    assert opposite_order(1) == (0,)
    assert opposite_order(3) == (0, 1, 2)
    assert opposite_order(4) == (0, 2, 1, 3)
    assert opposite_order(5) == (0, 2, 4, 1, 3)
    assert opposite_order(6) == (0, 3, 1, 4, 2, 5)
    assert opposite_order(8) == (0, 4, 2, 6, 1, 5, 3, 7)


@given(st.integers(1, 60))
def test_every_screw_is_drawn_once_and_the_next_is_never_beside_the_last(count: int) -> None:
    order = opposite_order(count)
    assert sorted(order) == list(range(count))
    if count >= 6:
        half = order[: count // 2]
        for one, other in itertools.pairwise(half):
            apart = min(abs(one - other), count - abs(one - other))
            assert apart > 1


def test_no_circle_without_screws() -> None:
    for count in (0, -3, 201):
        with pytest.raises(BadField):
            opposite_order(count)


def test_shims_take_up_the_play_but_for_its_clearance() -> None:
    shims = shim_sum(axial_play_mm=1.6, rim_clearance_mm=1.2)
    assert (shims.least_mm, shims.most_mm) == (pytest.approx(1.5), 1.6)
    assert shims.rim_left_mm == pytest.approx(-0.4)
    assert not shims.rim_clears
    assert shim_sum(axial_play_mm=0.05).least_mm == 0.0
    with pytest.raises(BadField):
        shim_sum(axial_play_mm=-1.0)


def test_an_added_mass_pulls_with_the_square_of_the_speed() -> None:
    slow = added_force_n(mass_g=50, radius_mm=200, spin_rpm=600)
    assert added_force_n(mass_g=50, radius_mm=200, spin_rpm=1200) == pytest.approx(4 * slow)
    assert slow == pytest.approx(0.05 * 0.2 * (2 * math.pi * 10) ** 2)
