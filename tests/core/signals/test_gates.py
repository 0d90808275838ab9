"""Gates: what shuts is noted, what is opened lets through, and nothing is watched outside."""

from __future__ import annotations

import numpy as np
import pytest

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.gates import GATES, gate, watched
from eager_ear.core.units import BoolArray


@gate("test: no odd places", harmless=lambda known: known)
def without_odd(known: BoolArray) -> BoolArray:
    """Without every other place."""
    out = known.copy()
    out[1::2] = False
    return out


@gate("test: nothing large", harmless=lambda _: None)
def refuse_large(value: float) -> None:
    """Nothing above ten."""
    if value > 10.0:
        raise NotMeasurable(quantity="value", reason="it is large.")


def test_a_gate_that_shuts_is_noted_and_one_that_is_opened_lets_through() -> None:
    known = np.ones(4, dtype=bool)
    with watched() as watch:
        assert without_odd(known).tolist() == [True, False, True, False]
    assert watch.shut == {"test: no odd places"}
    with watched(opened=["test: no odd places"]) as watch:
        assert without_odd(known).all()
    assert watch.shut == set()
    assert without_odd(known).sum() == 2


def test_a_gate_that_finds_nothing_is_not_said_to_have_shut() -> None:
    with watched() as watch:
        without_odd(np.zeros(4, dtype=bool))
        refuse_large(3.0)
    assert watch.shut == set()


def test_what_refuses_shuts_by_refusing() -> None:
    with watched() as watch, pytest.raises(NotMeasurable):
        refuse_large(11.0)
    assert watch.shut == {"test: nothing large"}
    with watched(opened=watch.shut):
        refuse_large(11.0)


def test_every_gate_says_what_it_is_for() -> None:
    assert len(GATES) > 10
    assert all(GATES.values())
