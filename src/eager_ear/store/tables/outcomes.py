"""What became of the jobs that ended."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any

from sqlalchemy import JSON, Boolean, Date, Float, ForeignKey, Index, String
from sqlalchemy.orm import Mapped, mapped_column

from eager_ear.store.tables.base import Base, UtcDateTime, code_type


class OutcomeRow(Base):
    """One closed job: what was called, what was found, and what its readings were. Told anew whenever its diary
    changes; only `left_out` is said here."""

    __tablename__ = "outcomes"
    # All that tells whether the newest have changed.
    __table_args__ = (Index("ix_outcomes_newest", "day", "job_id", "changed_at"),)

    job_id: Mapped[int] = mapped_column(
        ForeignKey("jobs.id", ondelete="CASCADE"), primary_key=True, autoincrement=False
    )
    machine_id: Mapped[int] = mapped_column(ForeignKey("machines.id"), index=True)
    layout: Mapped[str] = mapped_column(code_type())
    day: Mapped[date] = mapped_column(Date)
    outcome: Mapped[str] = mapped_column(code_type())
    faults: Mapped[list[str] | None] = mapped_column(JSON(none_as_null=True))
    called: Mapped[dict[str, float]] = mapped_column(JSON)
    advice: Mapped[str] = mapped_column(code_type())
    opened: Mapped[bool] = mapped_column(Boolean)
    own_view: Mapped[list[str]] = mapped_column(JSON)
    levels: Mapped[dict[str, Any]] = mapped_column(JSON)
    minutes: Mapped[float | None] = mapped_column(Float(53))
    proof_failed: Mapped[bool] = mapped_column(Boolean)
    by: Mapped[str | None] = mapped_column(String(80))
    left_out: Mapped[str | None] = mapped_column(String(500))
    changed_at: Mapped[datetime] = mapped_column(UtcDateTime)
