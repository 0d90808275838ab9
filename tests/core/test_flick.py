"""A flicked drum's run-out, by a tap at each turn."""

from __future__ import annotations

import numpy as np
import pytest

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.hands.flick import TAP_SIGMA_S, fit_flick


def taps(*, speed: float, slowing: float, turns: int) -> list[float]:
    """Moments of whole turns of w·t − a·t²/2 [turns]."""
    return [float((speed - np.sqrt(speed**2 - 2 * slowing * n)) / slowing) for n in range(turns)]


def test_even_slowing_is_read_off_its_turns() -> None:
    flick = fit_flick(taps(speed=1.2, slowing=0.08, turns=8))
    assert flick.slowing_rpm_s == pytest.approx(4.8)
    assert flick.begins_rpm == pytest.approx(72.0)
    assert flick.to_rest == pytest.approx(9.0)


def test_its_standard_error_is_that_of_thumbs() -> None:
    rng = np.random.default_rng(2)
    true = np.array(taps(speed=1.2, slowing=0.08, turns=8))
    errors, said = [], []
    for _ in range(200):
        flick = fit_flick(list(true + rng.normal(0.0, TAP_SIGMA_S, len(true))))
        errors.append(flick.slowing_rpm_s - 4.8)
        said.append(flick.slowing_sigma_rpm_s)
    assert np.median(said) == pytest.approx(np.std(errors), rel=0.25)


@pytest.mark.parametrize("wrong", [[], [0.0, 1.0, 2.0], [0.0, 1.0, 0.5, 2.0], [0.0, 1.0, 1.9, 2.7, 3.4]])
def test_what_shows_no_slowing_is_refused(wrong: list[float]) -> None:
    with pytest.raises(NotMeasurable):
        fit_flick(wrong)
