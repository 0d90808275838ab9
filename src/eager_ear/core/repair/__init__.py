"""Repairs: paths, steps, parts and words, what decides between the ways to a part, and whether it all fits together."""

from eager_ear.core.repair.checking import misfits
from eager_ear.core.repair.guides import Aside, Cloth, Guides, Level, TestRow, WitnessPlan
from eager_ear.core.repair.knowledge import repair_of
from eager_ear.core.repair.needs import VARIANTS, Need, Setting, read_need
from eager_ear.core.repair.records import (
    Consumable,
    Fasteners,
    Fit,
    Ladder,
    Part,
    Path,
    ProofTest,
    Repair,
    School,
    Step,
    Word,
)
from eager_ear.core.repair.stock import GRADES, Grade, IntakeRow, StockRules

__all__ = [
    "Aside",
    "Cloth",
    "Guides",
    "Level",
    "TestRow",
    "WitnessPlan",
    "Consumable",
    "Fasteners",
    "Fit",
    "GRADES",
    "Grade",
    "IntakeRow",
    "Ladder",
    "Need",
    "Part",
    "Path",
    "ProofTest",
    "Repair",
    "School",
    "Setting",
    "Step",
    "StockRules",
    "VARIANTS",
    "Word",
    "misfits",
    "read_need",
    "repair_of",
]
