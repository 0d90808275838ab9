"""People of the shop, their sign-ins, invitations, and what was done that concerns who may do what."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import Boolean, Float, ForeignKey, Integer, String
from sqlalchemy.orm import Mapped, mapped_column

from eager_ear.store.tables.base import Base, UtcDateTime, code_type, uuid_type


class PersonRow(Base):
    """`name` is compared without case: nobody is taken for somebody else by a capital. failures : in a row.

    pace : how long they take, 1 for practised hands; None where the shop's holds
    """

    __tablename__ = "people"

    id: Mapped[int] = mapped_column(primary_key=True)
    uuid: Mapped[str] = mapped_column(uuid_type(), unique=True)
    name: Mapped[str] = mapped_column(String(80), unique=True)
    role: Mapped[str] = mapped_column(code_type())
    password: Mapped[str] = mapped_column(code_type(200))
    disabled: Mapped[bool] = mapped_column(Boolean)
    failures: Mapped[int] = mapped_column(Integer)
    locked_until: Mapped[datetime | None] = mapped_column(UtcDateTime)
    created_at: Mapped[datetime] = mapped_column(UtcDateTime)
    pace: Mapped[float | None] = mapped_column(Float(53))


class SignInRow(Base):
    """One device that is signed in. token : checksum of what its cookie holds."""

    __tablename__ = "sign_ins"

    token: Mapped[str] = mapped_column(code_type(64), primary_key=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("people.id", ondelete="CASCADE"), index=True)
    device: Mapped[str] = mapped_column(String(80))
    created_at: Mapped[datetime] = mapped_column(UtcDateTime)
    seen_at: Mapped[datetime] = mapped_column(UtcDateTime)


class InvitationRow(Base):
    """A code that lets somebody in once. code : its checksum; person_id : whose password it sets anew, if anybody's."""

    __tablename__ = "invitations"

    code: Mapped[str] = mapped_column(code_type(64), primary_key=True)
    role: Mapped[str] = mapped_column(code_type())
    person_id: Mapped[int | None] = mapped_column(ForeignKey("people.id", ondelete="CASCADE"))
    until: Mapped[datetime] = mapped_column(UtcDateTime)


class AuditRow(Base):
    """What was done, by whom, about whom or what."""

    __tablename__ = "audit"

    id: Mapped[int] = mapped_column(primary_key=True)
    at: Mapped[datetime] = mapped_column(UtcDateTime, index=True)
    who: Mapped[str] = mapped_column(String(80))
    what: Mapped[str] = mapped_column(code_type())
    about: Mapped[str] = mapped_column(String(200))
