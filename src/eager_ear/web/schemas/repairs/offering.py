"""What is asked and answered about money. Amounts are the core's own: whole smallest units with their currency."""

from __future__ import annotations

from typing import Annotated, Any

from pydantic import BaseModel, Field

from eager_ear.core.cost import WHY, Offer, Shop, digits_of
from eager_ear.core.repair import Repair
from eager_ear.store import PriceRecord, ShownCodeRecord
from eager_ear.use_cases.repairs.offering import Offered
from eager_ear.web.schemas.base import Strict


class OfferIn(Strict):
    """faults : to be mended, where not those of the call; tried : settings to look at what would follow."""

    faults: list[str] = Field(default=[])
    tried: dict[str, Any] = Field(default={})


class PartNameOut(BaseModel):
    code: str
    name: str


class OfferOut(BaseModel):
    """called : the faults are those that the technician called."""

    offer: Offer
    faults: list[str]
    called: bool
    valid_days: int
    currency: str
    digits: int
    optional_parts: list[PartNameOut]

    @classmethod
    def of(cls, offered: Offered, *, repair: Repair) -> OfferOut:
        optional = dict.fromkeys(code for o in offered.offer.options for code in o.optional_parts)
        return cls(
            offer=offered.offer,
            faults=list(offered.faults),
            called=offered.called,
            valid_days=offered.shop.valid_days,
            currency=offered.shop.currency,
            digits=digits_of(offered.shop.currency),
            optional_parts=[PartNameOut(code=code, name=repair.parts[code].name) for code in optional],
        )


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


class PriceOut(BaseModel):
    code: str
    name: str
    amount: int
    currency: str
    source: str
    said_at: str


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
    def of(cls, shop: Shop, prices: dict[str, PriceRecord], codes: list[ShownCodeRecord], *, repair: Repair) -> ShopOut:
        return cls(
            settings=shop.as_dict(),
            digits=digits_of(shop.currency),
            why=WHY,
            schools=[
                SchoolOut(
                    code=school.code,
                    name=school.name,
                    ways=[WayOut(code=w.code, name=w.name, argument=w.says) for w in school.ways],
                    reason=school.reason,
                    usual=school.default,
                    way=shop.schools.get(school.code, ""),
                )
                for school in repair.schools.values()
            ],
            prices=[
                PriceOut(
                    code=p.code,
                    name=repair.parts[p.code].name if p.code in repair.parts else p.code.replace("_", " "),
                    amount=p.amount,
                    currency=p.currency,
                    source=p.source,
                    said_at=p.said_at.isoformat(),
                )
                for p in prices.values()
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
