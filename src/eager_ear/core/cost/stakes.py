"""What it costs to be wrong about a machine, in minutes of work: the unit in which checks are paid as well."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from types import MappingProxyType

from eager_ear.core.cost.money import Money
from eager_ear.core.cost.shop import Shop
from eager_ear.core.repair import Repair, Setting
from eager_ear.core.strip import make_plan

# Half of the parts that were bought for nothing do not go back.
LOST_SHARE = 0.5
# Somebody comes again for an hour.
CALLBACK_MIN = 60.0
# The hour that mending takes is somebody else's, and the way here was for nothing.
OTHERS_MIN = 60.0


@dataclass(frozen=True, kw_only=True)
class Stakes:
    """wrong_min : opening for that fault in vain, by fault; left_min : leaving a fault as it is that wants opening;
    unsettled_min : leaving one that is mended from outside, such as a foot; refer_min : handing it on, whatever it is;
    hour : its price."""

    wrong_min: Mapping[str, float]
    left_min: float
    unsettled_min: float
    refer_min: float
    hour: Money


def stakes_of(layout: str, *, repair: Repair, shop: Shop, faults: tuple[str, ...]) -> Stakes:
    """The stakes at one layout: work of the first path alone, parts that do not go back, and the trust that is lost."""
    hour = max(1, shop.hour)
    opening = opening_of(layout, repair, faults)
    return Stakes(
        wrong_min=MappingProxyType(
            {
                fault: work + 60.0 * (LOST_SHARE * Money.of(parts, shop.currency).minor + shop.wrong_teardown) / hour
                for fault, (work, parts) in opening.items()
            }
        ),
        left_min=CALLBACK_MIN + 60.0 * (shop.visit + shop.wrong_teardown) / hour,
        unsettled_min=CALLBACK_MIN + 60.0 * shop.visit / hour,
        refer_min=OTHERS_MIN + 60.0 * shop.visit / hour,
        hour=shop.money(shop.hour),
    )


@lru_cache(maxsize=32)
def opening_of(layout: str, repair: Repair, faults: tuple[str, ...]) -> Mapping[str, tuple[float, float]]:
    """Minutes to open and close again, and the parts' typical price in whole units, by fault of that layout."""
    out = {}
    for fault in faults:
        paths = repair.paths_of(fault, layout=layout)
        if not paths:
            continue
        plan = make_plan(paths[:1], setting=Setting(layout=layout), repair=repair)
        # What is closed again though nothing was mended: the new parts' own acts are left out.
        closing = [p for p in plan.fit if p.step is not None and (not p.step.fit or p.step.closes)]
        parts = sum(sum(repair.parts[code].typical) / 2.0 for code in plan.parts)
        out[fault] = (sum(p.minutes for p in (*plan.off, *closing, *plan.on)), parts)
    return MappingProxyType(out)
