"""Places of a machine that a drawing can light, for steps and checks alike."""

from __future__ import annotations

PLACES = (
    "bench",
    "centre",
    "console",
    "corners",
    "door",
    "drawer",
    "drum",
    "feet",
    "front",
    "hub",
    "lid",
    "plinth",
    "plug",
    "pump",
    "rear",
    "rim",
    "taps",
    "tub",
    "under",
    "whole",
)
