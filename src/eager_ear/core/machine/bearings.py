"""Deep-groove ball bearings: geometry and the rates at which their parts pass each other.

Kinematics with the outer ring fixed and pure rolling: Harris & Kotzalas, Rolling Bearing Analysis, 5th ed.,
vol. 1, chapter 10. Boundary sizes follow ISO 15; number, diameter and pitch of the balls are not standardised:
the catalogue holds typical values, and real ones deviate by a ball diameter's few percent.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

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


# Typical inner geometry of ISO 15 deep-groove sizes: balls, ball diameter, pitch diameter. Bore, outside diameter and
# width are standardised, these are not: makers differ by one ball size, so every line search allows the deviation
# stated in signals/envelope.py. Pitch is the mean of bore and outside diameter, moved by the usual fraction of a
# millimetre towards the outside.
BEARINGS = tuple(
    BearingSize(designation=designation, ball_count=balls, ball_mm=ball_mm, pitch_mm=pitch_mm)
    for designation, balls, ball_mm, pitch_mm in (
        ("6203", 8, 6.75, 28.5),
        ("6204", 8, 7.94, 33.5),
        ("6205", 9, 7.94, 39.04),
        ("6206", 9, 9.53, 46.0),
        ("6207", 9, 11.11, 53.5),
        ("6208", 9, 11.91, 60.0),
        ("6209", 9, 12.70, 65.0),
        ("6210", 10, 12.70, 70.0),
        ("6303", 7, 8.73, 32.0),
        ("6304", 7, 9.53, 36.0),
        ("6305", 7, 11.51, 43.5),
        ("6306", 8, 12.30, 51.0),
        ("6307", 8, 13.49, 57.5),
        ("6308", 8, 15.08, 65.0),
        ("6309", 8, 17.46, 72.5),
        ("6310", 8, 19.05, 80.0),
        ("6311", 8, 20.64, 87.5),
        ("6312", 8, 22.23, 95.0),
    )
)


def find_bearing(designation: str, *, field: str = "bearing") -> BearingSize:
    """The catalogue's entry for a designation; suffixes for seals and clearance (`-2RS`, ` C3`) are ignored.

    Raises
    ------
    UnknownCode
        The size is not in the catalogue.

    >>> find_bearing("6205-2RS C3").ball_count
    9
    """
    stem = designation.strip().upper()
    for separator in ("-", " ", "/", "Z", "R", "C"):
        stem = stem.split(separator, 1)[0]
    for size in BEARINGS:
        if size.designation == stem:
            return size
    raise UnknownCode(field=field, value=designation, known=tuple(size.designation for size in BEARINGS))


def rule_of_thumb_bearings() -> tuple[BearingSize, ...]:
    """Stand-ins for an unknown size: 7 to 10 balls with outer and inner orders of 0.4·n and 0.6·n.

    >>> round(race_orders(rule_of_thumb_bearings()[0]).outer_race, 3)
    2.8
    """
    return tuple(
        BearingSize(designation=f"{count} balls", ball_count=count, ball_mm=1.0, pitch_mm=5.0) for count in range(7, 11)
    )
