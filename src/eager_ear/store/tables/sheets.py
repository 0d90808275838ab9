"""Service sheets: one for each platform whose sheet somebody photographed."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import JSON
from sqlalchemy.orm import Mapped, mapped_column

from eager_ear.store.tables.base import Base, UtcDateTime, code_type, name_type, uuid_type


class SheetRow(Base):
    """photo_job : the visit at which the sheet was photographed."""

    __tablename__ = "service_sheets"

    id: Mapped[str] = mapped_column(uuid_type(), primary_key=True)
    layout: Mapped[str] = mapped_column(code_type(), index=True)
    name: Mapped[str] = mapped_column(name_type(120))
    slots: Mapped[dict[str, Any]] = mapped_column(JSON)
    photo_job: Mapped[str] = mapped_column(uuid_type())
    changed_by: Mapped[str] = mapped_column(name_type(80))
    changed_at: Mapped[datetime] = mapped_column(UtcDateTime)
