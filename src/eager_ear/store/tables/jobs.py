"""Machines and jobs."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, Boolean, Float, ForeignKey, Integer, String, Text
from sqlalchemy.orm import Mapped, mapped_column, relationship

from eager_ear.store.tables.base import Base, UtcDateTime


class MachineRow(Base):
    __tablename__ = "machines"

    id: Mapped[int] = mapped_column(primary_key=True)
    place: Mapped[str] = mapped_column(String(200))
    layout: Mapped[str] = mapped_column(String(32))
    mains_hz: Mapped[int | None] = mapped_column(Integer)
    max_spin_rpm: Mapped[float | None] = mapped_column(Float(53))
    pulley_ratio: Mapped[float | None] = mapped_column(Float(53))
    front_bearing: Mapped[str | None] = mapped_column(String(32))
    rear_bearing: Mapped[str | None] = mapped_column(String(32))
    spider_arms: Mapped[int] = mapped_column(Integer)
    age_years: Mapped[float | None] = mapped_column(Float(53))
    stacked: Mapped[bool | None] = mapped_column(Boolean)


class JobRow(Base):
    __tablename__ = "jobs"

    id: Mapped[int] = mapped_column(primary_key=True)
    machine_id: Mapped[int] = mapped_column(ForeignKey("machines.id"), index=True)
    case_id: Mapped[str] = mapped_column(String(200))
    symptoms: Mapped[list[str]] = mapped_column(JSON)
    note: Mapped[str] = mapped_column(Text)
    checks: Mapped[list[dict[str, Any]]] = mapped_column(JSON)
    created_at: Mapped[datetime] = mapped_column(UtcDateTime)
    changed_at: Mapped[datetime] = mapped_column(UtcDateTime, index=True)

    machine: Mapped[MachineRow] = relationship(lazy="joined")
