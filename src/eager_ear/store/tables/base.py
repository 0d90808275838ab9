"""Declarative base and column types."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

from sqlalchemy import Dialect, MetaData, String
from sqlalchemy.dialects.mysql import DATETIME
from sqlalchemy.orm import DeclarativeBase
from sqlalchemy.types import TypeDecorator

NAMING = {
    "ix": "ix_%(table_name)s_%(column_0_name)s",
    "uq": "uq_%(table_name)s_%(column_0_name)s",
    "fk": "fk_%(table_name)s_%(column_0_name)s",
    "pk": "pk_%(table_name)s",
}
# UUIDs, checksums and codes are compared byte by byte: no two spellings are the same name.
BYTEWISE = "ascii_bin"
# Names that people give are compared byte by byte too: `spin.wav` and `SPIN.wav` are two files.
NAMES = "utf8mb4_bin"


class Base(DeclarativeBase):
    metadata = MetaData(naming_convention=NAMING)


def may_be_id(text: str) -> bool:
    """Whether a text can be an id at all: others are not even compared, since the columns hold plain letters only."""
    return len(text) <= 36 and text.isascii() and "\0" not in text


def uuid_type() -> String:
    return String(36, collation=BYTEWISE)


def code_type(length: int = 32) -> String:
    return String(length, collation=BYTEWISE)


def name_type(length: int) -> String:
    return String(length, collation=NAMES)


class UtcDateTime(TypeDecorator[datetime]):
    """Time with a zone outside, UTC with microseconds inside; a naive time is an error."""

    impl = DATETIME(fsp=6)
    cache_ok = True

    def process_bind_param(self, value: datetime | None, dialect: Dialect) -> Any:  # noqa: ARG002
        if value is None:
            return None
        if value.tzinfo is None:
            raise ValueError("a time without a zone cannot be stored")
        return value.astimezone(UTC).replace(tzinfo=None)

    def process_result_value(self, value: Any, dialect: Dialect) -> datetime | None:  # noqa: ARG002
        return None if value is None else value.replace(tzinfo=UTC)
