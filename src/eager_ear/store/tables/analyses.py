"""Analyses: the queue and the results in one table, so that nothing is lost between them."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, Float, ForeignKey, Index, Integer, String, Text
from sqlalchemy.orm import Mapped, mapped_column

from eager_ear.store.tables.base import Base, UtcDateTime


class AnalysisRow(Base):
    __tablename__ = "analyses"
    __table_args__ = (Index("ix_analyses_state", "state", "id"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"), index=True)
    state: Mapped[str] = mapped_column(String(16))
    stage: Mapped[str | None] = mapped_column(String(32))
    attempts: Mapped[int] = mapped_column(Integer, default=0)
    lease_until: Mapped[datetime | None] = mapped_column(UtcDateTime)
    error: Mapped[str | None] = mapped_column(Text)
    headline: Mapped[str | None] = mapped_column(Text)
    advice: Mapped[str | None] = mapped_column(String(32))
    leader: Mapped[str | None] = mapped_column(String(32))
    leader_probability: Mapped[float | None] = mapped_column(Float(53))
    code_version: Mapped[str] = mapped_column(String(32))
    knowledge_version: Mapped[str] = mapped_column(String(32))
    result: Mapped[dict[str, Any] | None] = mapped_column(JSON(none_as_null=True), deferred=True)
    curves: Mapped[dict[str, Any] | None] = mapped_column(JSON(none_as_null=True), deferred=True)
    queued_at: Mapped[datetime] = mapped_column(UtcDateTime)
    finished_at: Mapped[datetime | None] = mapped_column(UtcDateTime)
