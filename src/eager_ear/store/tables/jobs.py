"""The register of machines, and jobs: visits to them."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any

from sqlalchemy import JSON, Boolean, Date, Float, ForeignKey, Index, Integer, String, Text
from sqlalchemy.orm import Mapped, mapped_column

from eager_ear.store.tables.base import Base, UtcDateTime, code_type, uuid_type


class MachineRow(Base):
    """One machine, known once. `facts` is what the entries of all its visits say, by the case format's keys.

    sheet : the service sheet that it goes by; column_with : the machine that stands in one column with it
    """

    __tablename__ = "machines"
    __table_args__ = (Index("ix_machines_layout", "layout", "id"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    uuid: Mapped[str] = mapped_column(uuid_type(), unique=True)
    place: Mapped[str] = mapped_column(String(200), index=True)
    layout: Mapped[str | None] = mapped_column(code_type())
    facts: Mapped[dict[str, Any]] = mapped_column(JSON)
    sheet: Mapped[str | None] = mapped_column(uuid_type())
    column_with: Mapped[str | None] = mapped_column(uuid_type(), index=True)
    changed_at: Mapped[datetime] = mapped_column(UtcDateTime, index=True)


class JobRow(Base):
    """One visit. What the diary says is in its entries; the columns from `place` on are what lists show of it, written
    in the same unit of work as the entries that changed it.

    last_seq : number of the newest entry; revision : rises with every change, of measuring too
    practice : opened to learn by: it counts for nothing; ours : the machine was taken in, it has no customer
    words : all by which it may be looked for, read by searches alone
    """

    __tablename__ = "jobs"
    __table_args__ = (
        Index("ix_jobs_layout", "layout", "created_at"),
        Index("ix_jobs_changed_at", "changed_at", "id"),
        Index("ix_jobs_waits_for", "waits_for", "changed_at", "id"),
        Index("ix_jobs_ours", "ours", "changed_at", "id"),
        Index("ix_jobs_words", "words", mysql_prefix="FULLTEXT", mariadb_prefix="FULLTEXT"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    uuid: Mapped[str] = mapped_column(uuid_type(), unique=True)
    machine_id: Mapped[int] = mapped_column(ForeignKey("machines.id"), index=True)
    case_id: Mapped[str] = mapped_column(String(200))
    created_at: Mapped[datetime] = mapped_column(UtcDateTime)
    changed_at: Mapped[datetime] = mapped_column(UtcDateTime)
    practice: Mapped[bool] = mapped_column(Boolean)
    last_seq: Mapped[int] = mapped_column(Integer)
    revision: Mapped[int] = mapped_column(Integer)
    place: Mapped[str] = mapped_column(String(200))
    layout: Mapped[str | None] = mapped_column(code_type())
    check_count: Mapped[int] = mapped_column(Integer)
    recording_count: Mapped[int] = mapped_column(Integer)
    bridged: Mapped[bool] = mapped_column(Boolean)
    closed: Mapped[str | None] = mapped_column(code_type())
    rings_at: Mapped[datetime | None] = mapped_column(UtcDateTime)
    due_on: Mapped[date | None] = mapped_column(Date, index=True)
    waits_for: Mapped[str] = mapped_column(code_type())
    part_on: Mapped[date | None] = mapped_column(Date)
    ours: Mapped[bool] = mapped_column(Boolean)
    words: Mapped[str] = mapped_column(Text, deferred=True)
    measuring: Mapped[str] = mapped_column(code_type(16), index=True)
    call_id: Mapped[int | None] = mapped_column(Integer)
    headline: Mapped[str | None] = mapped_column(Text)
    advice: Mapped[str | None] = mapped_column(code_type())
    leader: Mapped[str | None] = mapped_column(code_type())
    leader_probability: Mapped[float | None] = mapped_column(Float(53))
