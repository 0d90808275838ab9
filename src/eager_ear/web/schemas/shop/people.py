"""People, as the interface shows them; never a password or a token."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import BaseModel, StringConstraints

from eager_ear.web.schemas.base import Strict

Secret = Annotated[str, StringConstraints(max_length=1000)]
Name = Annotated[str, StringConstraints(max_length=200)]


class SignInIn(Strict):
    name: Name
    password: Secret
    device: Annotated[str, StringConstraints(max_length=80)] = ""


class JoinIn(Strict):
    """name : left empty where the code sets a password anew."""

    code: Annotated[str, StringConstraints(max_length=100)]
    name: Name = ""
    password: Secret
    device: Annotated[str, StringConstraints(max_length=80)] = ""


class PasswordIn(Strict):
    old: Secret
    new: Secret


class SignOutIn(Strict):
    everywhere: bool = False


class InviteIn(Strict):
    role: str


class PersonIn(Strict):
    role: str
    disabled: bool = False


class PaceIn(Strict):
    """pace : 1 for practised hands; None takes the shop's"""

    pace: float | None


class MeOut(BaseModel):
    """Who acts. mode : "people" where they sign in, "open" where nobody does; pace : None where the shop's holds."""

    mode: Literal["people", "open"]
    name: str | None
    role: str
    pace: float | None = None


class PersonOut(BaseModel):
    id: str
    name: str
    role: str
    disabled: bool


class CodeOut(BaseModel):
    """A code to be handed over: it is shown this once. picture : the same to point a phone at, as an SVG data URI"""

    code: str
    days: int
    picture: str


class AuditOut(BaseModel):
    at: datetime
    who: str
    what: str
    about: str


class PeopleOut(BaseModel):
    people: list[PersonOut]
    audit: list[AuditOut]
