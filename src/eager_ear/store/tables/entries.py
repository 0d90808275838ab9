"""Diaries: entries that are added and never changed."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, Boolean, ForeignKey, Integer, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from eager_ear.store.tables.base import Base, UtcDateTime, code_type, uuid_type


class EntryRow(Base):
    """`made_at` is kept in UTC with the minutes that its zone was ahead of it."""

    __tablename__ = "entries"
    __table_args__ = (UniqueConstraint("job_id", "seq"),)

    id: Mapped[str] = mapped_column(uuid_type(), primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"))
    seq: Mapped[int] = mapped_column(Integer)
    kind: Mapped[str] = mapped_column(code_type())
    made_at: Mapped[datetime] = mapped_column(UtcDateTime)
    zone_minutes: Mapped[int] = mapped_column(Integer)
    received_at: Mapped[datetime] = mapped_column(UtcDateTime)
    clock_off: Mapped[bool] = mapped_column(Boolean)
    by: Mapped[str | None] = mapped_column(String(200))
    device: Mapped[str] = mapped_column(String(60))
    body: Mapped[dict[str, Any] | None] = mapped_column(JSON(none_as_null=True))
    replaces: Mapped[str | None] = mapped_column(uuid_type())
