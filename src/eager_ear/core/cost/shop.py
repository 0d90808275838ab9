"""What a shop has settled once for all its jobs: rates, taxes, limits, schools. Each default says why.

Amounts are whole smallest units of `currency`.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass, field, fields, replace
from typing import Any

from eager_ear.core.cost.money import Money, digits_of
from eager_ear.core.errors import BadField, UnknownCode
from eager_ear.core.fields import Code, Flag, Items, Number, Text
from eager_ear.core.repair import Repair, Setting

MOST = 10**10
# What each number means, its limits, and why it is what it is until the shop says otherwise.
WHY = {
    "currency": "The shop's money; ISO 4217.",
    "hour": "What an hour of work costs the customer, before tax. A common level for house calls; put in your own.",
    "helper_hour": "What an hour of a helper costs: about half of the technician's.",
    "visit": "Way there and back, per visit.",
    "diagnosis": "What looking costs when nothing is mended; credited when it is, if so settled.",
    "diagnosis_credited": "Most shops credit it: customers then pay for the repair alone.",
    "tax_percent": "None until the shop says its own; added to everything.",
    "replacement": "A new machine of the same kind, in the shop's region, before delivery.",
    "delivery": "Delivery and connection of a new machine.",
    "removal": "Taking the old machine away, recycling included.",
    "unstack": "Taking a dryer off a column and putting it back, two people; a gas line is the fitter's own bill.",
    "wrong_teardown": "What opening a machine in vain costs besides its time: trust, and the rest of the day's round.",
    "day_without": "What a day without a washer is worth to the customer: a launderette twice a week.",
    "life_years": "Expected life: electronic machines 6 to 12 years, older mechanical ones 15 to 25; opinions differ.",
    "share_percent": "Above this share of a replacement a repair of a new machine is not proposed; it falls with age.",
    "least_share_percent": "However old the machine: a repair below this share is always worth proposing.",
    "factor": "1 for practised hands, 2 for a first time, 1.3 in a column.",
    "people": "How many come: with two the masses stay on the tub group.",
    "wait_days": "How long a customer waits for a part before a workaround or scrap is offered: two to three weeks.",
    "valid_days": "How long an offer holds.",
    "lacks": "What is not in the shop stands out in the list for the van, so that it is borrowed before.",
    "learns": "What was really found in this shop's own jobs sharpens its odds; without, those brought along hold.",
    "resale": "What a mended machine of the best grade fetches: about half of a new one.",
    "margin": "What the shop wants to keep of each machine that it sells, for floor, ads and coming back to it.",
    "used_part_percent": "What a used part costs, of a new one.",
    "used_sold_percent": "How many of the used parts that are kept somebody ever asks for.",
    "second_visit_days": "Parts that come later than this mean a second visit.",
}


@dataclass(frozen=True, kw_only=True)
class Shop:
    """What a shop has settled.

    schools : the way it goes, by school; absent where the sum decides; lacks : tools that it has not got
    """

    currency: str = "EUR"
    hour: int = 6000
    helper_hour: int = 3000
    visit: int = 2500
    diagnosis: int = 4500
    diagnosis_credited: bool = True
    tax_percent: float = 0.0
    replacement: int = 60000
    delivery: int = 4000
    removal: int = 2500
    unstack: int = 4000
    wrong_teardown: int = 9000
    day_without: int = 300
    life_years: float = 10.0
    share_percent: float = 50.0
    least_share_percent: float = 20.0
    factor: float = 1.0
    people: int = 1
    wait_days: int = 14
    valid_days: int = 30
    second_visit_days: int = 1
    resale: int = 28000
    margin: int = 8000
    used_part_percent: float = 40.0
    used_sold_percent: float = 50.0
    learns: bool = True
    schools: Mapping[str, str] = field(default_factory=dict)
    lacks: tuple[str, ...] = ()

    def setting(self, layout: str, *, stacked: bool) -> Setting:
        """How this shop would stand before a machine, before it is said otherwise."""
        posture = "stacked" if stacked else self.schools.get("posture")
        wanted = frozenset(
            code
            for code, school, way in (("bead", "bead", "with"), ("p_calib", "reset", "always"))
            if self.schools.get(school) == way
        )
        return Setting(layout=layout, people=self.people, posture=posture, wanted=wanted)

    def money(self, minor: int) -> Money:
        """An amount in the shop's currency."""
        return Money(minor=minor, currency=self.currency)

    def as_dict(self) -> dict[str, Any]:
        """Plain values, as they are stored."""
        return {**asdict(self), "schools": dict(self.schools), "lacks": list(self.lacks)}


_AMOUNTS = (
    "hour",
    "helper_hour",
    "visit",
    "diagnosis",
    "replacement",
    "delivery",
    "removal",
    "unstack",
    "wrong_teardown",
    "day_without",
    "resale",
    "margin",
)
_READERS: Mapping[str, Any] = {
    "currency": Text(longest=3, shortest=3),
    **{name: Number(low=0, high=MOST, whole=True) for name in _AMOUNTS},
    "diagnosis_credited": Flag(),
    "tax_percent": Number(low=0, high=100),
    "life_years": Number(low=1, high=60),
    "share_percent": Number(low=1, high=200),
    "least_share_percent": Number(low=0, high=100),
    "factor": Number(low=0.2, high=10),
    "people": Number(low=1, high=4, whole=True),
    "wait_days": Number(low=0, high=365, whole=True),
    "valid_days": Number(low=1, high=365, whole=True),
    "second_visit_days": Number(low=0, high=365, whole=True),
    "used_part_percent": Number(low=0, high=100),
    "used_sold_percent": Number(low=0, high=100),
    "learns": Flag(),
}


def read_shop(changes: Mapping[str, Any], *, now: Shop, repair: Repair) -> Shop:
    """The settings with some of them changed.

    Raises
    ------
    BadField, UnknownCode
        A setting that does not exist, or a value outside its limits; names it.
    """
    known = {f.name for f in fields(Shop)}
    read: dict[str, Any] = {}
    for name, value in changes.items():
        if name not in known:
            raise BadField(field=str(name)[:60], reason="is no setting of the shop.")
        if name == "schools":
            read[name] = _schools(value, repair)
        elif name == "lacks":
            tools = Items(of=Code(choices=tuple(repair.tools))).read(value, field=name)
            read[name] = tuple(dict.fromkeys(tools))
        else:
            number = _READERS[name].read(value, field=name)
            read[name] = int(number) if isinstance(_READERS[name], Number) and _READERS[name].whole else number
    shop = replace(now, **read)
    digits_of(shop.currency)
    return shop


def _schools(value: Any, repair: Repair) -> dict[str, str]:
    if not isinstance(value, Mapping):
        raise BadField(field="schools", reason="is not an object with a way for each school.")
    out = {}
    for school, way in value.items():
        if school not in repair.schools:
            raise UnknownCode(field="schools", value=str(school)[:60], known=tuple(repair.schools))
        ways = tuple(w.code for w in repair.schools[school].ways)
        if way in (None, ""):
            continue
        if way not in ways:
            raise UnknownCode(field=f"schools.{school}", value=str(way)[:60], known=ways)
        out[school] = way
    return out
