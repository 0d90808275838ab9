"""What the shop has settled, what parts cost it, what lies on its shelf, and what codes on displays mean."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any

from sqlalchemy import JSON, BigInteger, Boolean, Date, ForeignKey, Index, String
from sqlalchemy.orm import Mapped, mapped_column

from eager_ear.store.tables.base import Base, UtcDateTime, code_type, name_type, uuid_type


class ShopRow(Base):
    """One row: the settings that differ from what the product brings along."""

    __tablename__ = "shop"

    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    settings: Mapped[dict[str, Any]] = mapped_column(JSON)
    changed_at: Mapped[datetime] = mapped_column(UtcDateTime)


class PriceRow(Base):
    """The newest price of a part or service, in the currency's smallest unit.

    platform : the service sheet or the layout that it was said for, empty where neither was known
    """

    __tablename__ = "prices"

    code: Mapped[str] = mapped_column(code_type(80), primary_key=True)
    platform: Mapped[str] = mapped_column(code_type(36), primary_key=True)
    amount: Mapped[int] = mapped_column(BigInteger)
    currency: Mapped[str] = mapped_column(code_type(3))
    source: Mapped[str] = mapped_column(name_type(200))
    available_on: Mapped[date | None] = mapped_column(Date)
    returnable: Mapped[bool] = mapped_column(Boolean)
    said_at: Mapped[datetime] = mapped_column(UtcDateTime)


class UsedPartRow(Base):
    """A used part that was kept from a machine, by the entry that says so, and the job that it went into."""

    __tablename__ = "used_parts"
    __table_args__ = (Index("ix_used_parts_fitted_in", "fitted_in", "layout"),)

    entry: Mapped[str] = mapped_column(uuid_type(), primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"))
    layout: Mapped[str | None] = mapped_column(code_type())
    sheet: Mapped[str | None] = mapped_column(uuid_type())
    part: Mapped[str] = mapped_column(code_type())
    condition: Mapped[str] = mapped_column(code_type())
    shelf: Mapped[str] = mapped_column(String(100))
    hours: Mapped[int | None]
    kept_at: Mapped[datetime] = mapped_column(UtcDateTime)
    fitted_in: Mapped[int | None] = mapped_column(ForeignKey("jobs.id", ondelete="SET NULL"))


class ShownCodeRow(Base):
    """What a code on the display of a machine of one layout means: a symptom, as somebody of the shop said last."""

    __tablename__ = "shown_codes"

    layout: Mapped[str] = mapped_column(code_type(), primary_key=True)
    text: Mapped[str] = mapped_column(name_type(40), primary_key=True)
    means: Mapped[str] = mapped_column(code_type())
    said_at: Mapped[datetime] = mapped_column(UtcDateTime)
