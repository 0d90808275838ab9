"""What is asked and answered about money. Amounts are the core's own: whole smallest units with their currency."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Annotated, Any

from pydantic import BaseModel, Field

from eager_ear.core.cost import WHY, Money, Offer, Shop, digits_of
from eager_ear.core.machine import LAYOUTS
from eager_ear.core.repair import Repair, School
from eager_ear.core.stock import HoursRun
from eager_ear.store import PriceRecord, ShownCodeRecord, UsedPartRecord
from eager_ear.use_cases.repairs.offering import Offered
from eager_ear.use_cases.shop.stock import StockShown
from eager_ear.web.schemas.base import Strict
from eager_ear.web.schemas.visits.jobs import JobShortOut


class OfferIn(Strict):
    """faults : to be mended, where not those of the call; tried : settings to look at what would follow."""

    faults: list[str] = Field(default=[])
    tried: dict[str, Any] = Field(default={})


class WayOut(BaseModel):
    code: str
    name: str
    argument: str


class SchoolOut(BaseModel):
    """A question on which practitioners disagree; `way` is the shop's own, empty for the usual one or the sum."""

    code: str
    name: str
    ways: list[WayOut]
    reason: str
    usual: str
    way: str

    @classmethod
    def told(cls, school: School, *, way: str) -> SchoolOut:
        return cls(
            code=school.code,
            name=school.name,
            ways=[WayOut(code=w.code, name=w.name, argument=w.says) for w in school.ways],
            reason=school.reason,
            usual=school.default,
            way=way,
        )


class PartNameOut(BaseModel):
    code: str
    name: str


class OfferOut(BaseModel):
    """called : the faults are those that the technician called; used : parts on the shelf, of this layout

    run : hours that the machine has run, by the loads that it washed
    schools : on which it depends which of the options comes first
    """

    offer: Offer
    faults: list[str]
    called: bool
    valid_days: int
    currency: str
    digits: int
    used: list[UsedPartOut]
    used_part_percent: float
    run: list[HoursRun]
    schools: list[SchoolOut]

    @classmethod
    def of(cls, offered: Offered, *, used: Sequence[UsedPartRecord], repair: Repair) -> OfferOut:
        return cls(
            offer=offered.offer,
            faults=list(offered.faults),
            called=offered.called,
            valid_days=offered.shop.valid_days,
            currency=offered.shop.currency,
            digits=digits_of(offered.shop.currency),
            used=[UsedPartOut.told(part, repair=repair) for part in used],
            used_part_percent=offered.shop.used_part_percent,
            run=list(offered.run),
            schools=[
                SchoolOut.told(repair.schools[code], way=offered.shop.schools.get(code, ""))
                for code in _schools_of(offered.offer, repair)
            ],
        )


def _schools_of(offer: Offer, repair: Repair) -> list[str]:
    """Questions on which the trade is divided and that decide between these options."""
    paths = [repair.paths[code] for option in offer.options for code in option.paths]
    return list(dict.fromkeys(path.school.partition("=")[0] for path in paths if path.school))


class UsedPartOut(BaseModel):
    """A used part on the shelf. entry : by which a visit names it; job, place : from which it came; hours : run."""

    entry: str
    job: str
    place: str
    layout: str | None
    part: str
    name: str
    condition: str
    shelf: str
    hours: int | None
    kept_at: datetime

    @classmethod
    def told(cls, part: UsedPartRecord, *, repair: Repair) -> UsedPartOut:
        known = repair.parts.get(part.part)
        return cls(
            entry=part.entry,
            job=part.job,
            place=part.place,
            layout=part.layout,
            part=part.part,
            name=known.name if known is not None else part.part.replace("_", " "),
            condition=part.condition,
            shelf=part.shelf,
            hours=part.hours,
            kept_at=part.kept_at,
        )


class OwnMachineOut(BaseModel):
    """A machine without a customer. grade, why : as it stands; fetches : so; paid : for it"""

    job: JobShortOut
    grade: str
    why: list[str]
    fetches: Money
    paid: Money


class StockOut(BaseModel):
    machines: list[OwnMachineOut]
    parts: list[UsedPartOut]

    @classmethod
    def of(cls, stock: StockShown, *, repair: Repair) -> StockOut:
        return cls(
            machines=[
                OwnMachineOut(
                    job=JobShortOut.of(m.job),
                    grade=m.graded.code,
                    why=list(m.graded.why),
                    fetches=m.fetches,
                    paid=m.paid,
                )
                for m in stock.machines
            ],
            parts=[UsedPartOut.told(part, repair=repair) for part in stock.parts],
        )


class PriceOut(BaseModel):
    """platform : the service sheet or the layout that it was said for, by its name; empty for all"""

    code: str
    name: str
    amount: int
    currency: str
    source: str
    said_at: str
    platform: str


class ShownCodeOut(BaseModel):
    """What a code on the display of a layout's machines means."""

    layout: str
    text: str
    means: str


class ShopOut(BaseModel):
    """Settings with the reason of each, schools, and the price book."""

    settings: dict[str, Any]
    digits: int
    why: dict[str, str]
    schools: list[SchoolOut]
    prices: list[PriceOut]
    codes: list[ShownCodeOut]
    tools: list[PartNameOut]

    @classmethod
    def of(
        cls,
        shop: Shop,
        prices: Sequence[PriceRecord],
        codes: list[ShownCodeRecord],
        *,
        sheets: Mapping[str, str],
        repair: Repair,
    ) -> ShopOut:
        """sheets : names of service sheets by their ids"""
        return cls(
            settings=shop.as_dict(),
            digits=digits_of(shop.currency),
            why=WHY,
            schools=[
                SchoolOut.told(school, way=shop.schools.get(school.code, "")) for school in repair.schools.values()
            ],
            prices=[
                PriceOut(
                    code=p.code,
                    name=repair.parts[p.code].name if p.code in repair.parts else p.code.replace("_", " "),
                    amount=p.amount,
                    currency=p.currency,
                    source=p.source,
                    said_at=p.said_at.isoformat(),
                    platform=LAYOUTS[p.platform].name if p.platform in LAYOUTS else sheets.get(p.platform, ""),
                )
                for p in prices
            ],
            tools=[PartNameOut(code=code, name=tool.name) for code, tool in repair.tools.items()],
            codes=[ShownCodeOut(layout=c.layout, text=c.text, means=c.means) for c in codes],
        )


class ShopIn(Strict):
    """Settings to change, by name."""

    settings: dict[str, Any]


class ShownCodeIn(Strict):
    """means : a symptom; none takes the code out of the table"""

    layout: Annotated[str, Field(max_length=40)]
    text: Annotated[str, Field(max_length=40)]
    means: Annotated[str, Field(max_length=40)] | None
