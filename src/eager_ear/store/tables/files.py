"""Bytes, apart from what they mean: each content once, in chunks that fit a packet, so that a backup holds all."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, BigInteger, ForeignKey, Index, Integer
from sqlalchemy.dialects.mysql import INTEGER, MEDIUMBLOB
from sqlalchemy.orm import Mapped, mapped_column

from eager_ear.store.tables.base import Base, UtcDateTime, code_type, name_type, uuid_type


class FileRow(Base):
    """`sha256` is none as long as bytes are still arriving."""

    __tablename__ = "files"

    id: Mapped[int] = mapped_column(primary_key=True)
    sha256: Mapped[str | None] = mapped_column(code_type(64), unique=True)
    size_bytes: Mapped[int] = mapped_column(BigInteger)
    begun_at: Mapped[datetime] = mapped_column(UtcDateTime)


class ChunkRow(Base):
    """A stretch of a file from `start` on, with the checksum that every read is held against."""

    __tablename__ = "file_chunks"

    file_id: Mapped[int] = mapped_column(ForeignKey("files.id", ondelete="CASCADE"), primary_key=True)
    start: Mapped[int] = mapped_column(BigInteger, primary_key=True, autoincrement=False)
    crc32: Mapped[int] = mapped_column(INTEGER(unsigned=True))
    content: Mapped[bytes] = mapped_column(MEDIUMBLOB)


class AttachmentRow(Base):
    """What a device sent to a job under an id of its own: a recording, a photo.

    name : as the device called it; total_bytes : as announced; small_file_id : a small copy for lists
    facts : what was read off the bytes when they were complete, none before
    """

    __tablename__ = "attachments"
    __table_args__ = (Index("ix_attachments_job_id", "job_id", "purpose"), Index("ix_attachments_file_id", "file_id"))

    id: Mapped[str] = mapped_column(uuid_type(), primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"))
    purpose: Mapped[str] = mapped_column(code_type(16))
    name: Mapped[str] = mapped_column(name_type(200))
    total_bytes: Mapped[int] = mapped_column(BigInteger)
    file_id: Mapped[int] = mapped_column(ForeignKey("files.id"))
    small_file_id: Mapped[int | None] = mapped_column(Integer)
    facts: Mapped[dict[str, Any] | None] = mapped_column(JSON(none_as_null=True))
    created_at: Mapped[datetime] = mapped_column(UtcDateTime)
