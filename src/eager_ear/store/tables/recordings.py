"""Recordings and their bytes, in chunks that fit a packet, so that one backup of the database holds all."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import BigInteger, Float, ForeignKey, Integer, String, UniqueConstraint
from sqlalchemy.dialects.mysql import MEDIUMBLOB
from sqlalchemy.orm import Mapped, mapped_column

from eager_ear.store.tables.base import Base, UtcDateTime


class RecordingRow(Base):
    __tablename__ = "recordings"
    __table_args__ = (UniqueConstraint("job_id", "name"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"))
    name: Mapped[str] = mapped_column(String(200))
    kind: Mapped[str] = mapped_column(String(32))
    test: Mapped[str] = mapped_column(String(32))
    run: Mapped[str | None] = mapped_column(String(100))
    position: Mapped[str | None] = mapped_column(String(32))
    load: Mapped[str | None] = mapped_column(String(32))
    start_s: Mapped[float] = mapped_column(Float(53))
    power_cut_s: Mapped[float | None] = mapped_column(Float(53))
    pa_per_fs: Mapped[float | None] = mapped_column(Float(53))
    size_bytes: Mapped[int] = mapped_column(BigInteger)
    sha256: Mapped[str] = mapped_column(String(64))
    duration_s: Mapped[float] = mapped_column(Float(53))
    rate_hz: Mapped[float | None] = mapped_column(Float(53))
    created_at: Mapped[datetime] = mapped_column(UtcDateTime)


class ChunkRow(Base):
    __tablename__ = "recording_chunks"

    recording_id: Mapped[int] = mapped_column(ForeignKey("recordings.id", ondelete="CASCADE"), primary_key=True)
    number: Mapped[int] = mapped_column(Integer, primary_key=True)
    content: Mapped[bytes] = mapped_column(MEDIUMBLOB)
