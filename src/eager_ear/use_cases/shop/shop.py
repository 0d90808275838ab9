"""The shop: what it has settled, and what parts cost it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import date
from typing import Any

from eager_ear.core.cost import Shop, read_shop
from eager_ear.core.repair import Repair
from eager_ear.core.visit import Entry
from eager_ear.store import Database, PriceRecord, UnitOfWork, in_unit
from eager_ear.use_cases.clock import now_utc
from eager_ear.use_cases.visits.folding import FoldedJob


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


def remember_prices(work: UnitOfWork, found: FoldedJob, added: Sequence[Entry]) -> None:
    """Put prices that were said in a job into the price book, for its machine's service sheet and its layout."""
    priced = [entry for entry in added if entry.kind == "priced" and entry.body is not None]
    if not priced or found.job.practice:
        return
    for platform in platforms_of(work, found) or ("",):
        for entry in priced:
            _remember(work, entry, platform)


def platforms_of(work: UnitOfWork, found: FoldedJob) -> tuple[str, ...]:
    """What prices for the machine of a visit hang on, the nearest first: its service sheet, its layout."""
    sheet = work.machines.by_id(found.job.machine_id).sheet
    return tuple(p for p in (sheet, found.visit.story.facts.get("layout")) if p)


def _remember(work: UnitOfWork, entry: Entry, platform: str) -> None:
    body = entry.body or {}
    code = body.get("part") or body.get("service")
    if not code:
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
            platform=platform,
        )
    )
