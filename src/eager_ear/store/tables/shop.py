"""What the shop has settled, what parts cost it, and what codes on displays mean."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any

from sqlalchemy import JSON, BigInteger, Boolean, Date
from sqlalchemy.orm import Mapped, mapped_column

from eager_ear.store.tables.base import Base, UtcDateTime, code_type, name_type


class ShopRow(Base):
    """One row: the settings that differ from what the product brings along."""

    __tablename__ = "shop"

    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    settings: Mapped[dict[str, Any]] = mapped_column(JSON)
    changed_at: Mapped[datetime] = mapped_column(UtcDateTime)


class PriceRow(Base):
    """The newest price of a part or service, in the currency's smallest unit."""

    __tablename__ = "prices"

    code: Mapped[str] = mapped_column(code_type(80), primary_key=True)
    amount: Mapped[int] = mapped_column(BigInteger)
    currency: Mapped[str] = mapped_column(code_type(3))
    source: Mapped[str] = mapped_column(name_type(200))
    available_on: Mapped[date | None] = mapped_column(Date)
    returnable: Mapped[bool] = mapped_column(Boolean)
    said_at: Mapped[datetime] = mapped_column(UtcDateTime)


class ShownCodeRow(Base):
    """What a code on the display of a machine of one layout means: a symptom, as somebody of the shop said last."""

    __tablename__ = "shown_codes"

    layout: Mapped[str] = mapped_column(code_type(), primary_key=True)
    text: Mapped[str] = mapped_column(name_type(40), primary_key=True)
    means: Mapped[str] = mapped_column(code_type())
    said_at: Mapped[datetime] = mapped_column(UtcDateTime)
