"""Washers as kinematics: layouts, what turns how fast, bearing geometry."""

from eager_ear.core.machine.bearings import (
    BearingSize,
    RaceOrders,
    bearing_catalogue,
    find_bearing,
    race_orders,
    rule_of_thumb_bearings,
)
from eager_ear.core.machine.layouts import LAYOUT_CODES, Layout, find_layout, load_layouts
from eager_ear.core.machine.machine import Machine

__all__ = [
    "BearingSize",
    "LAYOUT_CODES",
    "Layout",
    "Machine",
    "RaceOrders",
    "bearing_catalogue",
    "find_bearing",
    "find_layout",
    "load_layouts",
    "race_orders",
    "rule_of_thumb_bearings",
]
