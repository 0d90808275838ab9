"""A drum turned by hand, by its sound: what touches once a turn, what a hand does, and what only seems to come back."""

from __future__ import annotations

import numpy as np
import pytest

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.impacts import HandTurns, hand_turns
from eager_ear.core.signals.types import AudioSignal
from eager_ear.core.units import FloatArray

RATE_HZ = 16_000
TURN_S = 2.1


def turned(seed: int, *, scrape_db: float | None = None, push: float = 0.0, lasts_s: float = 14.0) -> AudioSignal:
    """A room's hiss, a drum's rumble as a hand pushes it, and something that touches once in an uneven turn."""
    rng = np.random.default_rng(seed)
    t = np.arange(int(lasts_s * RATE_HZ)) / RATE_HZ
    moments = np.cumsum(TURN_S * (1.0 + rng.normal(0.0, 0.06, 12))) - rng.uniform(0.0, TURN_S)
    turns = np.interp(t, moments, np.arange(12))
    sound: FloatArray = 0.01 * rng.normal(size=len(t)) * (1.0 + push * np.sin(2 * np.pi * turns))
    if scrape_db is not None:
        for moment in moments:
            shape = np.exp(-0.5 * ((t - moment) / 0.05) ** 2)
            sound = sound + 0.01 * 10 ** (scrape_db / 20) * shape * rng.normal(size=len(t))
    return AudioSignal(samples=sound.astype(np.float32), sample_rate_hz=float(RATE_HZ))


def heard(**what: float) -> list[HandTurns]:
    return [hand_turns(turned(seed, **what)) for seed in range(12)]


def test_a_touch_once_a_turn_is_found_and_its_turn_known() -> None:
    found = heard(scrape_db=14.0)
    assert sum(h.turn_s is not None and h.narrow for h in found) >= 10
    assert np.median([h.turn_s for h in found if h.turn_s is not None]) == pytest.approx(TURN_S, rel=0.1)


def test_the_push_of_a_hand_is_no_touch() -> None:
    found = heard(push=0.7)
    assert sum(h.turn_s is not None for h in found) >= 10
    assert sum(h.narrow for h in found if h.turn_s is not None) <= 1


def test_a_drum_that_only_rumbles_has_nothing_that_comes_back() -> None:
    found = heard()
    # At a chance of one in twenty, three of twelve would be one draw in two hundred.
    assert sum(h.turn_s is not None for h in found) <= 2
    assert max(h.rough_db for h in found) < 1.0 < min(h.rough_db for h in heard(push=0.7))


def test_a_short_look_is_refused() -> None:
    with pytest.raises(NotMeasurable, match="eleven seconds"):
        hand_turns(turned(1, lasts_s=6.0))
