"""What the shop has settled, its price book, and its codes on displays."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Any

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from eager_ear.store.records import PriceRecord, ShownCodeRecord
from eager_ear.store.tables import PriceRow, ShopRow, ShownCodeRow

ONLY = 1


class Shops:
    def __init__(self, session: Session) -> None:
        self._session = session
        # A row that is not there yet cannot be held, and would be asked for anew each time.
        self._is_missing = False

    def settings(self) -> dict[str, Any]:
        """Settings that were changed, by name."""
        row = self._here()
        return dict(row.settings) if row is not None else {}

    def settle(self, settings: Mapping[str, Any], *, now: datetime) -> None:
        """Keep the settings."""
        row = self._here()
        if row is None:
            row = ShopRow(id=ONLY)
            self._session.add(row)
            self._is_missing = False
        row.settings, row.changed_at = dict(settings), now
        self._session.flush()

    def _here(self) -> ShopRow | None:
        if self._is_missing:
            return None
        row = self._session.get(ShopRow, ONLY)
        self._is_missing = row is None
        return row

    def prices_for(self, platforms: Sequence[str]) -> dict[str, PriceRecord]:
        """The price of each part by its code, for the first of these platforms that it was said for."""
        rank = {platform: index for index, platform in enumerate(platforms)}
        told = [price for price in self.prices() if price.platform in rank]
        told.sort(key=lambda price: -rank[price.platform])
        return {price.code: price for price in told}

    def prices(self) -> list[PriceRecord]:
        """The price book: by part, then by the platform that each price was said for."""
        rows = self._session.scalars(select(PriceRow).order_by(PriceRow.code, PriceRow.platform))
        return [
            PriceRecord(
                code=row.code,
                amount=row.amount,
                currency=row.currency,
                source=row.source,
                available_on=row.available_on,
                returnable=row.returnable,
                said_at=row.said_at,
                platform=row.platform,
            )
            for row in rows
        ]

    def note_price(self, price: PriceRecord) -> None:
        """Remember a price unless a newer one is known."""
        row = self._session.get(PriceRow, (price.code, price.platform))
        if row is None:
            row = PriceRow(code=price.code, platform=price.platform)
            self._session.add(row)
        elif row.said_at > price.said_at:
            return
        row.amount, row.currency, row.source = price.amount, price.currency, price.source
        row.available_on, row.returnable, row.said_at = price.available_on, price.returnable, price.said_at
        self._session.flush()

    def codes(self, layout: str | None = None) -> list[ShownCodeRecord]:
        """What codes mean, on machines of one layout or of all."""
        asked = select(ShownCodeRow).order_by(ShownCodeRow.layout, ShownCodeRow.text)
        if layout is not None:
            asked = asked.where(ShownCodeRow.layout == layout)
        return [
            ShownCodeRecord(layout=row.layout, text=row.text, means=row.means, said_at=row.said_at)
            for row in self._session.scalars(asked)
        ]

    def note_code(self, code: ShownCodeRecord) -> None:
        """Remember what a code means unless something newer is known."""
        row = self._session.get(ShownCodeRow, (code.layout, code.text))
        if row is None:
            row = ShownCodeRow(layout=code.layout, text=code.text)
            self._session.add(row)
        elif row.said_at > code.said_at:
            return
        row.means, row.said_at = code.means, code.said_at
        self._session.flush()

    def forget_code(self, layout: str, text: str) -> None:
        self._session.execute(delete(ShownCodeRow).where(ShownCodeRow.layout == layout, ShownCodeRow.text == text))
