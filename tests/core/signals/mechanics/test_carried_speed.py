"""Speed through the critical one, spoilt there by lag and ringing and carried through from what is seen beside it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from eager_ear.core.signals.angle.track import FRAME_STEP_S, SpeedTrack
from eager_ear.core.signals.mechanics.resonance.carried_speed import CARRIED_TO, carried_through
from eager_ear.core.units import BoolArray, FloatArray
from tests.core.signals.synthetic import track_of

CRITICAL_HZ = 4.0
CUT_S = 40.0


def spin() -> tuple[FloatArray, FloatArray]:
    """A ramp that steepens a little, a plateau, a coast-down that eases off: frames and true rates."""
    t_s = np.arange(0.0, 60.0, FRAME_STEP_S)
    up = 1.5 + 0.5 * (t_s - 5.0) + 0.01 * (t_s - 5.0) ** 2
    rate = np.where(t_s < 5.0, 1.5, np.minimum(up, 16.0))
    coast = 18.0 * np.exp(-(t_s - CUT_S) / 9.0) - 2.0
    return t_s, np.maximum(np.where(t_s < CUT_S, rate, coast), 0.0)


def near(rate: FloatArray) -> BoolArray:
    return (rate > CARRIED_TO * CRITICAL_HZ * 1.05) & (rate < 1.5 * CRITICAL_HZ)


def felt(t_s: FloatArray, rate: FloatArray) -> SpeedTrack:
    """Where it resonates the rate falls behind on the way up, and stays at the critical one on the way down."""
    lag = np.exp(-0.5 * ((rate - 1.1 * CRITICAL_HZ) / 0.35) ** 2)
    spoilt = np.where(t_s < CUT_S, rate - 0.4 * lag, np.maximum(rate, CRITICAL_HZ))
    return track_of(t_s, spoilt)


def test_both_ways_are_carried_through() -> None:
    t_s, rate = spin()
    track = felt(t_s, rate)
    carried = carried_through(track, critical_hz=1.03 * CRITICAL_HZ, power_cut_s=CUT_S)
    assert carried is not None
    for way in (t_s < CUT_S, t_s > CUT_S):
        there = way & near(rate)
        assert np.abs(track.rate_hz - rate)[there].max() > 0.3
        assert carried.known[there].all()
        np.testing.assert_allclose(carried.rate_hz[there], rate[there], rtol=0.03)
    # What rang on at the critical speed is not taken for the drum any more.
    assert not carried.known[(t_s > CUT_S) & (rate < 0.5 * CRITICAL_HZ)].any()
    # Away from it nothing is touched.
    far = (rate > 2.0 * CRITICAL_HZ) | (t_s < 5.0)
    np.testing.assert_array_equal(carried.rate_hz[far], track.rate_hz[far])


def test_a_ramp_of_which_only_the_upper_part_was_seen_is_carried_back() -> None:
    t_s, rate = spin()
    whole = felt(t_s, rate)
    track = replace(whole, known=whole.known & ((rate > 1.2 * CRITICAL_HZ) | (t_s > CUT_S)))
    carried = carried_through(track, critical_hz=CRITICAL_HZ, power_cut_s=CUT_S)
    assert carried is not None
    # The further back, the less a ramp that steepened is known; at the peak it still is.
    there = (t_s < CUT_S) & near(rate) & (rate > 0.85 * CRITICAL_HZ)
    assert carried.known[there].all()
    np.testing.assert_allclose(carried.rate_hz[there], rate[there], rtol=0.09)


def test_a_drum_that_keeps_its_speed_after_the_cut_teaches_no_fall() -> None:
    t_s, _ = spin()
    held = np.where(t_s < CUT_S, 0.5, 7.0)
    assert carried_through(track_of(t_s, held), critical_hz=CRITICAL_HZ, power_cut_s=CUT_S) is None


@pytest.mark.parametrize("critical_hz", [12.0, 30.0])
def test_a_speed_that_is_not_seen_above_is_not_carried(critical_hz: float) -> None:
    t_s, rate = spin()
    assert carried_through(track_of(t_s, rate), critical_hz=critical_hz, power_cut_s=np.inf) is None
