"""The shop: what it has settled, and what parts cost it."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date
from typing import Any

from eager_ear.core.cost import Shop, read_shop
from eager_ear.core.repair import Repair
from eager_ear.core.visit import Entry
from eager_ear.store import Database, PriceRecord, UnitOfWork, in_unit
from eager_ear.use_cases.clock import now_utc


def shop_of(work: UnitOfWork, *, repair: Repair) -> Shop:
    """The shop as it has settled things."""
    return read_shop(work.shop.settings(), now=Shop(), repair=repair)


def settle(database: Database, changes: Mapping[str, Any], *, repair: Repair) -> Shop:
    """Change some settings. Raises InputError for what cannot be."""

    def settled(work: UnitOfWork) -> Shop:
        shop = read_shop(changes, now=shop_of(work, repair=repair), repair=repair)
        plain = Shop().as_dict()
        work.shop.settle({k: v for k, v in shop.as_dict().items() if v != plain[k]}, now=now_utc())
        return shop

    return in_unit(database, settled)


def remember_price(work: UnitOfWork, entry: Entry) -> None:
    """Put a price that was said in a job into the price book."""
    body = entry.body or {}
    code = body.get("part") or body.get("service")
    if entry.kind != "priced" or not code:
        return
    work.shop.note_price(
        PriceRecord(
            code=str(code),
            amount=int(body["amount"]),
            currency=str(body["currency"]),
            source=str(body.get("source") or ""),
            available_on=date.fromisoformat(body["available_on"]) if body.get("available_on") else None,
            returnable=bool(body.get("returnable", False)),
            said_at=entry.counts_at,
        )
    )
