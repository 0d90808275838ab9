"""Washers as kinematics: layouts, what turns how fast, bearing geometry."""

from eager_ear.core.machine.bearings import (
    BEARINGS,
    BearingSize,
    RaceOrders,
    find_bearing,
    race_orders,
    rule_of_thumb_bearings,
)
from eager_ear.core.machine.layouts import LAYOUT_CODES, LAYOUTS, OVER_SPEED, Layout, find_layout
from eager_ear.core.machine.machine import Machine

__all__ = [
    "BEARINGS",
    "BearingSize",
    "LAYOUTS",
    "LAYOUT_CODES",
    "OVER_SPEED",
    "Layout",
    "Machine",
    "RaceOrders",
    "find_bearing",
    "find_layout",
    "race_orders",
    "rule_of_thumb_bearings",
]
