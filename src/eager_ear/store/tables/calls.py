"""What was measured, once for each content; and calls, which are weighed from it."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, Boolean, ForeignKey, Index, Integer, Text, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from eager_ear.store.tables.base import Base, UtcDateTime, code_type, name_type, uuid_type


class MeasurementRow(Base):
    """One run of recordings, to be measured or measured: the queue and the results in one table.

    content : checksum of the recordings' bytes and of all facts that the measurement depends on
    request : those facts; shown : what was found; curves, profile : what pictures and comparisons are drawn from
    """

    __tablename__ = "measurements"
    __table_args__ = (UniqueConstraint("content", "code_version"), Index("ix_measurements_state", "state", "id"))

    id: Mapped[int] = mapped_column(primary_key=True)
    content: Mapped[str] = mapped_column(code_type(64))
    code_version: Mapped[str] = mapped_column(code_type(40))
    state: Mapped[str] = mapped_column(code_type(16))
    stage: Mapped[str | None] = mapped_column(code_type())
    attempts: Mapped[int] = mapped_column(Integer)
    owner: Mapped[str | None] = mapped_column(uuid_type())
    lease_until: Mapped[datetime | None] = mapped_column(UtcDateTime)
    error: Mapped[str | None] = mapped_column(Text)
    request: Mapped[dict[str, Any]] = mapped_column(JSON)
    shown: Mapped[dict[str, Any] | None] = mapped_column(JSON(none_as_null=True), deferred=True)
    curves: Mapped[dict[str, Any] | None] = mapped_column(JSON(none_as_null=True), deferred=True)
    profile: Mapped[dict[str, Any] | None] = mapped_column(JSON(none_as_null=True), deferred=True)
    queued_at: Mapped[datetime] = mapped_column(UtcDateTime)
    finished_at: Mapped[datetime | None] = mapped_column(UtcDateTime)


class JobMeasurementRow(Base):
    """Which measurements a job's recordings need, by run."""

    __tablename__ = "job_measurements"

    job_id: Mapped[int] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"), primary_key=True)
    run: Mapped[str] = mapped_column(name_type(140), primary_key=True)
    measurement_id: Mapped[int] = mapped_column(ForeignKey("measurements.id"), index=True)
    is_lead: Mapped[bool] = mapped_column(Boolean)


class CallRow(Base):
    """A call with what it was weighed from. The newest of a job is overwritten unless somebody stands by it."""

    __tablename__ = "calls"

    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"), index=True)
    seq: Mapped[int] = mapped_column(Integer)
    code_version: Mapped[str] = mapped_column(code_type(40))
    knowledge_version: Mapped[str] = mapped_column(code_type(40))
    result: Mapped[dict[str, Any]] = mapped_column(JSON, deferred=True)
    curves: Mapped[dict[str, Any] | None] = mapped_column(JSON(none_as_null=True), deferred=True)
    stood_by: Mapped[bool] = mapped_column(Boolean)
    weighed_at: Mapped[datetime] = mapped_column(UtcDateTime)
