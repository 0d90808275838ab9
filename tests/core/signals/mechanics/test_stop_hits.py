"""Impacts at the critical speed: counted where they are, none where a cabinet only rings, reasons where none can be."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.machine import find_layout
from eager_ear.core.signals.angle.track import SpeedTrack
from eager_ear.core.signals.dsp.uniform_acceleration import EvenAcceleration
from eager_ear.core.signals.mechanics.stop_hits import count_stop_hits, passage_of
from eager_ear.core.units import FloatArray, Span
from tests.core.signals.synthetic import profile, shaken, track_of

RATE_HZ = 200.0
PASSAGE_HZ = passage_of([2.5], layout=find_layout("front_belt"))


def passed(
    *, impact_s: FloatArray, size: float = 3.0, seed: int = 0, orders: dict[float, float] | None = None
) -> EvenAcceleration:
    """A run through the critical speed with impacts that ring for a few periods of 40 Hz."""
    t_s, rate_hz = profile(top_hz=15.0, rate=RATE_HZ)
    out = shaken(t_s, rate_hz, orders=orders or {1.0: 2.0, 2.0: 0.5}, noise=0.02, seed=seed)
    for impact in impact_s:
        late = out.t_s - impact
        out.axes_m_s2[1] += np.where(
            late >= 0.0, size * np.exp(-np.maximum(late, 0.0) / 0.03) * np.sin(2.0 * np.pi * 40.0 * late), 0.0
        )
    return out


def followed(*, above_hz: float = 0.3) -> SpeedTrack:
    t_s, rate_hz = profile(top_hz=15.0, rate=8.0)
    track = track_of(t_s, rate_hz)
    return SpeedTrack(t_s=t_s, rate_hz=rate_hz, known=rate_hz > above_hz, sigma_hz=track.sigma_hz, source="test")


@pytest.mark.parametrize("seed", range(3))
def test_each_impact_is_counted_once(seed: int) -> None:
    # The ramp passes 1.5 to 4.5 turns a second between 3.4 and 6.2 s.
    impact_s = np.array([3.9, 4.4, 4.8, 5.2, 5.5])
    hits = count_stop_hits(passed(impact_s=impact_s, seed=seed), track=followed(), passage_hz=PASSAGE_HZ)
    assert hits.count == 5
    assert hits.rise_db > 15.0
    assert hits.speed_rpm is not None
    assert hits.speed_rpm[0] == pytest.approx(60.0 * 15.0 * 1.9 / 14.0, abs=3.0)
    # Up in 2.8 s and down in 2.4 s, at three turns a second in the mean.
    assert hits.turns == pytest.approx(15.6, rel=0.1)


@pytest.mark.parametrize("seed", range(3))
def test_a_group_that_swings_hits_nothing(seed: int) -> None:
    swinging = passed(impact_s=np.zeros(0), orders={1.0: 6.0, 2.0: 2.0, 3.0: 1.0}, seed=seed)
    hits = count_stop_hits(swinging, track=followed(), passage_hz=PASSAGE_HZ)
    assert (hits.count, hits.rise_db, hits.speed_rpm) == (0, 0.0, None)


def test_impacts_at_full_speed_are_no_stop_hits() -> None:
    hits = count_stop_hits(passed(impact_s=np.arange(18.0, 26.0, 0.5)), track=followed(), passage_hz=PASSAGE_HZ)
    assert hits.count == 0


def test_they_do_not_mind_scale_or_sign() -> None:
    impact_s = np.array([4.2, 4.9])
    plain = passed(impact_s=impact_s)
    expected = count_stop_hits(plain, track=followed(), passage_hz=PASSAGE_HZ)
    plain.axes_m_s2[:] *= -3.0
    turned = count_stop_hits(plain, track=followed(), passage_hz=PASSAGE_HZ)
    assert (turned.count, turned.speed_rpm) == (expected.count, expected.speed_rpm)
    assert turned.rise_db == pytest.approx(expected.rise_db, abs=0.01)


@pytest.mark.parametrize(
    ("above_hz", "passage_hz", "why"),
    [(6.0, PASSAGE_HZ, "not followed"), (0.3, (2.0, 38.0), "too slow")],
)
def test_a_reason_where_none_can_be_counted(above_hz: float, passage_hz: Span, why: str) -> None:
    with pytest.raises(NotMeasurable, match=why):
        count_stop_hits(passed(impact_s=np.array([4.0])), track=followed(above_hz=above_hz), passage_hz=passage_hz)


def test_the_ends_of_a_gap_are_no_impacts() -> None:
    swinging = passed(impact_s=np.zeros(0), orders={1.0: 20.0})
    gap = (4.6, 5.0)
    swinging.axes_m_s2[:, (swinging.t_s > gap[0]) & (swinging.t_s < gap[1])] = 0.0
    with_gap = replace(swinging, gaps_s=(gap,))
    assert count_stop_hits(swinging, track=followed(), passage_hz=PASSAGE_HZ).count > 0
    assert count_stop_hits(with_gap, track=followed(), passage_hz=PASSAGE_HZ).count == 0


def test_without_a_critical_speed_the_layouts_range_is_looked_at() -> None:
    layout = find_layout("top_splined")
    low, high = passage_of([], layout=layout)
    assert (60.0 * low, 60.0 * high) == pytest.approx(layout.critical_rpm)
    assert passage_of([2.0, 3.0], layout=layout) == pytest.approx((1.2, 5.4))
