"""Loads without scales, by hand: litres of cloth, what it holds, what the plate allows."""

from __future__ import annotations

import pytest

from eager_ear.core.errors import BadField
from eager_ear.core.proof import wet_load
from eager_ear.core.repair import Cloth
from eager_ear.knowledge import load_knowledge

CLOTH = Cloth(code="c", name="C", kg_per_litre=(0.1, 0.2), holds_l_per_kg=(1.0, 2.0), reason="told for the test")


def test_masses_are_products_of_the_ranges() -> None:
    load = wet_load(CLOTH, dry_litres=40, rated_kg=8)
    assert load.dry_kg == pytest.approx((4.0, 8.0))
    assert load.wet_kg == pytest.approx((8.0, 24.0))
    assert load.share == pytest.approx((0.5, 1.0))
    assert load.verdict == "light"
    assert load.litres == pytest.approx((0.8 * 8 / 0.15, 8 / 0.15))
    assert "50 to 100 % of the rated load" in load.says


def test_water_that_was_measured_goes_before_what_cloth_holds() -> None:
    load = wet_load(CLOTH, dry_litres=40, rated_kg=8, water_litres=9)
    assert load.wet_kg == pytest.approx((13.0, 17.0))


@pytest.mark.parametrize(("litres", "verdict"), [(20, "light"), (48, "right"), (60, "heavy")])
def test_near_the_rated_load_is_right(litres: float, verdict: str) -> None:
    assert wet_load(CLOTH, dry_litres=litres, rated_kg=8).verdict == verdict


@pytest.mark.parametrize(
    "change", [{"dry_litres": 0}, {"rated_kg": 0}, {"dry_litres": float("nan")}, {"water_litres": -1}]
)
def test_numbers_that_no_load_has_are_refused_at_their_field(change: dict[str, float]) -> None:
    with pytest.raises(BadField) as refused:
        wet_load(CLOTH, **{"dry_litres": 40, "rated_kg": 8, **change})
    assert refused.value.field in change


def test_every_cloth_of_the_knowledge_fills_an_eight_kilo_drum_within_its_volume() -> None:
    # A drum of some 60 to 70 litres is rated 8 kg of cloth that is pressed to a half of its loose bulk.
    for cloth in load_knowledge().repair.guides.cloths.values():
        least, most = wet_load(cloth, dry_litres=40, rated_kg=8).litres
        assert 20 < least < most < 140, cloth.code
