"""Deep-groove ball bearings: geometry and the rates at which their parts pass each other.

Kinematics with the outer ring fixed and pure rolling: Harris & Kotzalas, Rolling Bearing Analysis, 5th ed.,
vol. 1, chapter 10. Boundary sizes follow ISO 15; number, diameter and pitch of the balls are not standardised:
the catalogue holds typical values, and real ones deviate by a ball diameter's few percent.
"""

from __future__ import annotations

import math
import tomllib
from dataclasses import dataclass
from importlib import resources

from eager_ear.core.errors import UnknownCode


@dataclass(frozen=True, kw_only=True)
class BearingSize:
    """One size: `ball_count` balls of `ball_mm` diameter on a pitch circle of `pitch_mm`."""

    designation: str
    ball_count: int
    ball_mm: float
    pitch_mm: float


@dataclass(frozen=True, kw_only=True)
class RaceOrders:
    """Fault rates in multiples of the shaft's rate."""

    cage: float
    outer_race: float
    inner_race: float
    ball: float


def race_orders(size: BearingSize, *, contact_angle_deg: float = 0.0) -> RaceOrders:
    """Orders of cage (FTF), outer race (BPFO), inner race (BPFI) and ball spin (BSF), outer ring fixed.

    Source: Harris & Kotzalas, chapter 10.

    >>> orders = race_orders(BearingSize(designation="6205", ball_count=9, ball_mm=7.94, pitch_mm=39.04))
    >>> round(orders.outer_race, 2), round(orders.inner_race, 2)
    (3.58, 5.42)
    >>> round(orders.outer_race + orders.inner_race, 6)
    9.0
    """
    ratio = size.ball_mm / size.pitch_mm * math.cos(math.radians(contact_angle_deg))
    return RaceOrders(
        cage=0.5 * (1.0 - ratio),
        outer_race=0.5 * size.ball_count * (1.0 - ratio),
        inner_race=0.5 * size.ball_count * (1.0 + ratio),
        ball=size.pitch_mm / (2.0 * size.ball_mm) * (1.0 - ratio**2),
    )


def bearing_catalogue() -> tuple[BearingSize, ...]:
    """All sizes of the knowledge file, smallest bore first."""
    text = resources.files("eager_ear.core.knowledge").joinpath("bearings.toml").read_text(encoding="utf-8")
    rows = tomllib.loads(text)["size"]
    return tuple(
        BearingSize(
            designation=str(row["designation"]),
            ball_count=int(row["balls"]),
            ball_mm=float(row["ball_mm"]),
            pitch_mm=float(row["pitch_mm"]),
        )
        for row in rows
    )


def find_bearing(designation: str, *, catalogue: tuple[BearingSize, ...], field: str = "bearing") -> BearingSize:
    """The catalogue's entry for a designation; suffixes for seals and clearance (`-2RS`, ` C3`) are ignored.

    Raises
    ------
    UnknownCode
        The size is not in the catalogue.

    >>> find_bearing("6205-2RS C3", catalogue=bearing_catalogue()).ball_count
    9
    """
    stem = designation.strip().upper()
    for separator in ("-", " ", "/", "Z", "R", "C"):
        stem = stem.split(separator, 1)[0]
    for size in catalogue:
        if size.designation == stem:
            return size
    raise UnknownCode(field=field, value=designation, known=tuple(size.designation for size in catalogue))


def rule_of_thumb_bearings() -> tuple[BearingSize, ...]:
    """Stand-ins for an unknown size: 7 to 10 balls with outer and inner orders of 0.4·n and 0.6·n.

    >>> round(race_orders(rule_of_thumb_bearings()[0]).outer_race, 3)
    2.8
    """
    return tuple(
        BearingSize(designation=f"{count} balls", ball_count=count, ball_mm=1.0, pitch_mm=5.0) for count in range(7, 11)
    )
