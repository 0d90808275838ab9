"""The six machine layouts and how their drum is driven."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from eager_ear.core.errors import UnknownCode

Drum = Literal["front", "top"]
Drive = Literal["belt", "direct", "gear"]
# What is seen without opening much: what stands in the drum, and what drives it.
Inside = Literal["nothing", "agitator", "plate", "pulsator"]
Driven = Literal["belt", "shaft", "coupler"]


# A track above so many times the plate is not believed.
OVER_SPEED = 1.15


@dataclass(frozen=True, kw_only=True)
class Layout:
    """One layout. Ranges are what is met on the market, lowest and highest.

    drive : how drum and motor are tied while spinning
    inside, driven : what is seen of it, by which a layout is recognised
    pulley_ratio : motor revolutions per drum revolution, used only when the case names none
    spin_rpm : plate maxima
    critical_rpm : where the suspended group's rigid-body resonance lies for masses and springs in use: the range
        searched in a run-up, wide on purpose
    """

    code: str
    name: str
    drum: Drum
    drive: Drive
    inside: tuple[Inside, ...]
    driven: tuple[Driven, ...]
    pulley_ratio: tuple[float, float]
    spin_rpm: tuple[float, float]
    critical_rpm: tuple[float, float]


LAYOUTS: Mapping[str, Layout] = {
    layout.code: layout
    for layout in (
        Layout(
            code="front_belt",
            name="Front loader, belt",
            drum="front",
            drive="belt",
            inside=("nothing",),
            driven=("belt",),
            pulley_ratio=(7.5, 15.0),
            spin_rpm=(400.0, 1800.0),
            critical_rpm=(90.0, 420.0),
        ),
        Layout(
            code="front_direct",
            name="Front loader, direct drive",
            drum="front",
            drive="direct",
            inside=("nothing",),
            driven=("shaft",),
            pulley_ratio=(1.0, 1.0),
            spin_rpm=(400.0, 1800.0),
            critical_rpm=(90.0, 420.0),
        ),
        Layout(
            code="top_coupler",
            name="Top loader, coupler and agitator",
            drum="top",
            drive="gear",
            inside=("agitator",),
            driven=("coupler",),
            pulley_ratio=(2.0, 3.6),
            spin_rpm=(400.0, 900.0),
            critical_rpm=(50.0, 260.0),
        ),
        Layout(
            code="top_shifter",
            name="Top loader, belt and shifter",
            drum="top",
            drive="belt",
            inside=("agitator", "plate"),
            driven=("belt",),
            pulley_ratio=(2.0, 4.5),
            spin_rpm=(400.0, 1000.0),
            critical_rpm=(50.0, 260.0),
        ),
        Layout(
            code="top_splined",
            name="Top loader, wash plate on splines",
            drum="top",
            drive="direct",
            inside=("plate",),
            driven=("shaft",),
            pulley_ratio=(1.0, 1.0),
            spin_rpm=(400.0, 1200.0),
            critical_rpm=(50.0, 260.0),
        ),
        Layout(
            code="top_pulsator",
            name="Top loader, pulsator",
            drum="top",
            drive="belt",
            inside=("pulsator",),
            driven=("belt",),
            pulley_ratio=(1.6, 4.5),
            spin_rpm=(400.0, 1000.0),
            critical_rpm=(50.0, 260.0),
        ),
    )
}

LAYOUT_CODES = tuple(LAYOUTS)


def find_layout(code: str) -> Layout:
    """The layout of that code.

    Raises
    ------
    UnknownCode
        No such layout.

    >>> find_layout("front_belt").drive
    'belt'
    """
    if code not in LAYOUTS:
        raise UnknownCode(field="machine.layout", value=code, known=LAYOUT_CODES)
    return LAYOUTS[code]
