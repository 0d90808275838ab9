"""What a wet load weighs, from litres of dry cloth and its kind, against the load that the plate allows."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from eager_ear.core.errors import BadField
from eager_ear.core.repair.guides import Cloth

# A proof by load means something from four fifths of the rated load on, and does no harm up to all of it (judgement).
WANTED_SHARE = (0.8, 1.0)
RATED_KG = (1.0, 30.0)
MOST_LITRES = 500.0


@dataclass(frozen=True, kw_only=True)
class WetLoad:
    """Masses as ranges [kg]; share : of the rated dry load; litres : of dry cloth that would be right."""

    dry_kg: tuple[float, float]
    wet_kg: tuple[float, float]
    share: tuple[float, float]
    litres: tuple[float, float]
    verdict: Literal["light", "right", "heavy"]
    says: str


def wet_load(cloth: Cloth, *, dry_litres: float, rated_kg: float, water_litres: float | None = None) -> WetLoad:
    """Weigh a load without scales.

    Plates give the load as dry cloth. What turns is that and the water in it: what was poured over it until it
    dripped, where that is known, else what this cloth holds.

    Parameters
    ----------
    dry_litres : bulk of the dry cloth, packed loosely
    rated_kg : of dry cloth, from the plate
    water_litres : poured over it and taken up, None where nobody measured

    Raises
    ------
    BadField
        A number that no load has.
    """
    for field, value, (least, most) in (
        ("dry_litres", dry_litres, (0.0, MOST_LITRES)),
        ("rated_kg", rated_kg, RATED_KG),
        ("water_litres", water_litres if water_litres is not None else 1.0, (0.0, MOST_LITRES)),
    ):
        if not (least <= value <= most and (value > 0 or field == "water_litres")):
            raise BadField(field=field, reason=f"must lie between {least:g} and {most:g}.")
    low, high = (dry_litres * k for k in cloth.kg_per_litre)
    if water_litres is not None:
        wet = (low + water_litres, high + water_litres)
    else:
        wet = (low * (1 + cloth.holds_l_per_kg[0]), high * (1 + cloth.holds_l_per_kg[1]))
    share = (low / rated_kg, high / rated_kg)
    middle = 0.5 * (share[0] + share[1])
    wanted = (WANTED_SHARE[0] * rated_kg, WANTED_SHARE[1] * rated_kg)
    density = 0.5 * (cloth.kg_per_litre[0] + cloth.kg_per_litre[1])
    litres = (wanted[0] / density, wanted[1] / density)
    verdict: Literal["light", "right", "heavy"] = (
        "light" if middle < WANTED_SHARE[0] else "heavy" if middle > WANTED_SHARE[1] else "right"
    )
    advice = {
        "light": f"Add cloth: some {litres[0]:.0f} to {litres[1]:.0f} litres in all prove it.",
        "right": "That is near the rated load: spread it evenly.",
        "heavy": f"Take some out: {litres[1]:.0f} litres are the most for this plate.",
    }[verdict]
    return WetLoad(
        dry_kg=(low, high),
        wet_kg=wet,
        share=share,
        litres=litres,
        verdict=verdict,
        says=f"{low:.1f} to {high:.1f} kg dry, {100 * share[0]:.0f} to {100 * share[1]:.0f} % of the rated load; "
        f"{wet[0]:.0f} to {wet[1]:.0f} kg turn. {advice}",
    )
