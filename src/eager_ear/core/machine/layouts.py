"""The six machine layouts and how their drum is driven."""

from __future__ import annotations

import tomllib
from dataclasses import dataclass
from importlib import resources
from typing import Literal

from eager_ear.core.errors import UnknownCode

LAYOUT_CODES = ("front_belt", "front_direct", "top_coupler", "top_shifter", "top_splined", "top_pulsator")

Drum = Literal["front", "top"]
Drive = Literal["belt", "direct", "gear"]


@dataclass(frozen=True, kw_only=True)
class Layout:
    """One layout. Ranges are what is met on the market, lowest and highest."""

    code: str
    name: str
    drum: Drum
    drive: Drive
    pulley_ratio: tuple[float, float]
    spin_rpm: tuple[float, float]
    critical_rpm: tuple[float, float]
    over_speed: float


def load_layouts() -> dict[str, Layout]:
    """All layouts of the knowledge file by code."""
    text = resources.files("eager_ear.core.knowledge").joinpath("layouts.toml").read_text(encoding="utf-8")
    data = tomllib.loads(text)
    return {
        code: Layout(
            code=code,
            name=row["name"],
            drum=row["drum"],
            drive=row["drive"],
            pulley_ratio=(float(row["pulley_ratio"][0]), float(row["pulley_ratio"][1])),
            spin_rpm=(float(row["spin_rpm"][0]), float(row["spin_rpm"][1])),
            critical_rpm=(float(row["critical_rpm"][0]), float(row["critical_rpm"][1])),
            over_speed=float(data["over_speed"]),
        )
        for code, row in data["layout"].items()
    }


def find_layout(code: str) -> Layout:
    """The layout of that code.

    Raises
    ------
    UnknownCode
        No such layout.

    >>> find_layout("front_belt").drive
    'belt'
    """
    layouts = load_layouts()
    if code not in layouts:
        raise UnknownCode(field="machine.layout", value=code, known=LAYOUT_CODES)
    return layouts[code]
