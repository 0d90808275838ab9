"""Signing in and out, inviting, recovering: who somebody is, and what of that is written down."""

from __future__ import annotations

import hashlib
import secrets
from dataclasses import dataclass
from datetime import datetime
from functools import cache
from typing import ClassVar

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError

from eager_ear.core.errors import BadField, InputError
from eager_ear.core.people import (
    ABSOLUTE,
    IDLE,
    INVITED_FOR,
    read_name,
    read_pace,
    read_password,
    read_role,
    wait_after,
)
from eager_ear.ids import uuid7
from eager_ear.store import Conflict, Database, PersonRecord, UnitOfWork, in_unit
from eager_ear.use_cases.clock import now_utc

# Argon2id with 19 MiB and two passes (OWASP Password Storage Cheat Sheet): a phone's owner waits a tenth of a second.
HASHER = PasswordHasher(time_cost=2, memory_cost=19_456, parallelism=1)
LETTERS = "ABCDEFGHJKLMNPQRSTUVWXYZ23456789"
CODE_LENGTH = 16
# How often a device's being there is written down.
SEEN_EVERY_S = 300.0
CONSOLE = "console"


@dataclass(eq=False, kw_only=True)
class NotSignedIn(InputError):
    code: ClassVar[str] = "not_signed_in"
    reason: str = "Sign in first. What you entered is kept on this device."

    def sentence(self) -> str:
        return self.reason


@dataclass(eq=False, kw_only=True)
class WrongPassword(InputError):
    code: ClassVar[str] = "wrong_password"

    def sentence(self) -> str:
        return "That name and password do not belong together."


@dataclass(eq=False, kw_only=True)
class LockedOut(InputError):
    code: ClassVar[str] = "locked_out"
    seconds: int

    def sentence(self) -> str:
        return f"Too many wrong passwords: try again in {max(1, round(self.seconds / 60))} minutes, or ask the owner."


@dataclass(eq=False, kw_only=True)
class NotAllowed(InputError):
    code: ClassVar[str] = "not_allowed"
    reason: str = "Your role does not allow that: ask the owner."

    def sentence(self) -> str:
        return self.reason


@dataclass(frozen=True, kw_only=True)
class Entered:
    """Somebody who has just come in. token : for the device's cookie, kept nowhere else."""

    person: PersonRecord
    token: str


def sign_in(database: Database, *, name: str, password: str, device: str) -> Entered:
    """Raises WrongPassword, LockedOut."""
    _nobodys()  # there before the name is looked up, so that the first who signs in tells nothing by how long it takes
    told = in_unit(database, lambda work: _tried(work, name=name, password=password, device=device))
    if isinstance(told, InputError):
        raise told
    return told


@cache
def _nobodys() -> str:
    """What a name that nobody has is held against, so that both take as long."""
    return HASHER.hash(secrets.token_urlsafe(16))


def _tried(work: UnitOfWork, *, name: str, password: str, device: str) -> Entered | InputError:
    """What came of it; a failure is an answer, so that the unit it is counted in is kept."""
    now = now_utc()
    person = work.people.find(" ".join(name.split())[:80], hold=True)
    if person is None or person.disabled:
        _matches(_nobodys(), password)
        return WrongPassword()
    if person.locked_until is not None and person.locked_until > now:
        return LockedOut(seconds=round((person.locked_until - now).total_seconds()))
    if not _matches(person.password, password):
        failures = person.failures + 1
        wait = wait_after(failures)
        work.people.tried(person.id, failures=failures, locked_until=now + wait if wait else None)
        work.people.note(who=person.name, what="wrong_password", about=device, now=now)
        return WrongPassword()
    work.people.tried(person.id, failures=0, locked_until=None)
    return _entered(work, person, device=device, now=now)


def join(database: Database, *, code: str, name: str, password: str, device: str) -> Entered:
    """Come in by an invitation, as somebody new or with a password of one's own anew.

    Raises
    ------
    NotAllowed, InputError, Conflict
        The code does not hold, the name or password cannot be, or the name is taken.
    """

    def joined(work: UnitOfWork) -> Entered:
        now = now_utc()
        invitation = work.people.invited(_checksum(_plain_code(code)), now=now)
        if invitation is None:
            raise NotAllowed(reason="That code does not hold, or was used already: ask for a new one.")
        role, person_id = invitation
        if person_id is not None:
            person = work.people.by_id(person_id)
            work.people.set_password(person.id, HASHER.hash(read_password(password, name=person.name)))
            work.people.sign_out_everywhere(person.id)
            work.people.note(who=person.name, what="password_reset", about="", now=now)
            return _entered(work, person, device=device, now=now)
        told = read_name(name)
        if work.people.find(told) is not None:
            raise BadField(field="name", reason="somebody has that name already: add a letter.")
        hashed = HASHER.hash(read_password(password, name=told))
        person = work.people.add(uuid=uuid7(now), name=told, role=role, password=hashed, now=now)
        work.people.note(who=person.name, what="joined", about=role, now=now)
        return _entered(work, person, device=device, now=now)

    return in_unit(database, joined)


def who_is(database: Database, token: str) -> PersonRecord | None:
    """Whose device that is, None where its sign-in has ended."""

    def asked(work: UnitOfWork) -> PersonRecord | None:
        now, held = now_utc(), work.people.signed_in(_checksum(token))
        if held is None:
            return None
        if now - held.created_at > ABSOLUTE or now - held.seen_at > IDLE:
            work.people.sign_out(held.token)
            return None
        if (now - held.seen_at).total_seconds() > SEEN_EVERY_S:
            work.people.seen(held.token, now=now)
        person = work.people.by_id(held.person_id)
        return None if person.disabled else person

    return in_unit(database, asked)


def sign_out(database: Database, *, token: str, everywhere: bool) -> None:
    """End this device's sign-in, or all of its person's."""

    def out(work: UnitOfWork) -> None:
        held = work.people.signed_in(_checksum(token))
        if held is None:
            return
        if everywhere:
            work.people.sign_out_everywhere(held.person_id)
            person = work.people.by_id(held.person_id)
            work.people.note(who=person.name, what="signed_out_everywhere", about="", now=now_utc())
        work.people.sign_out(held.token)

    in_unit(database, out)


def change_password(database: Database, *, person: PersonRecord, token: str, old: str, new: str) -> None:
    """Set another password; other devices are signed out. Raises WrongPassword, BadField."""
    if not _matches(person.password, old):
        raise WrongPassword
    hashed = HASHER.hash(read_password(new, name=person.name))

    def changed(work: UnitOfWork) -> None:
        work.people.set_password(person.id, hashed)
        work.people.sign_out_everywhere(person.id, but=_checksum(token))
        work.people.note(who=person.name, what="password_changed", about="", now=now_utc())

    in_unit(database, changed)


def invite(database: Database, *, role: str, by: str) -> str:
    """A code by which somebody comes in as that, once, within three days. Raises UnknownCode."""
    return _invited(database, role=read_role(role), person=None, by=by, what="invited", about=role)


def recover(database: Database, *, person_uuid: str, by: str) -> str:
    """A code by which somebody sets a password anew. Raises NotFound."""
    with UnitOfWork(database) as work:
        person = work.people.get(person_uuid)
    return _invited(database, role=person.role, person=person, by=by, what="recovery", about=person.name)


def recover_by_name(database: Database, *, name: str) -> str:
    """The same from the machine's console. Raises BadField."""
    with UnitOfWork(database) as work:
        person = work.people.find(name)
    if person is None:
        raise BadField(field="name", reason="nobody has that name.")
    return recover(database, person_uuid=person.uuid, by=CONSOLE)


def first_owner_code(database: Database) -> str | None:
    """A code for the owner where nobody is there yet, None where somebody is."""
    with UnitOfWork(database) as work:
        there = work.people.count()
    return None if there else invite(database, role="owner", by=CONSOLE)


def set_role(database: Database, *, person_uuid: str, role: str, disabled: bool, by: PersonRecord) -> None:
    """Change what somebody may do. Raises NotFound, UnknownCode, NotAllowed where no owner would be left."""

    def changed(work: UnitOfWork) -> None:
        person, now = work.people.get(person_uuid), now_utc()
        work.people.set_role(person.id, read_role(role))
        work.people.disable(person.id, disabled=disabled)
        if work.people.owners() == 0:
            raise NotAllowed(reason="Somebody has to be the owner: make another one first.")
        if disabled:
            work.people.sign_out_everywhere(person.id)
        if role != person.role:
            work.people.note(who=by.name, what="role", about=f"{person.name}: {role}", now=now)
        if disabled != person.disabled:
            what = "shut_out" if disabled else "let_in"
            work.people.note(who=by.name, what=what, about=person.name, now=now)

    in_unit(database, changed)


def set_pace(database: Database, *, person: PersonRecord, pace: float | None) -> None:
    """How long somebody takes, by their own word; None goes back to the shop's. Raises InputError."""
    told = None if pace is None else read_pace(pace)
    in_unit(database, lambda work: work.people.set_pace(person.id, told))


def _entered(work: UnitOfWork, person: PersonRecord, *, device: str, now: datetime) -> Entered:
    token = secrets.token_urlsafe(32)
    work.people.sign_in(_checksum(token), person.id, device=device[:80], now=now)
    work.people.sweep(created_before=now - ABSOLUTE, seen_before=now - IDLE, now=now)
    work.people.note(who=person.name, what="signed_in", about=device, now=now)
    return Entered(person=person, token=token)


def _invited(database: Database, *, role: str, person: PersonRecord | None, by: str, what: str, about: str) -> str:
    code = "".join(secrets.choice(LETTERS) for _ in range(CODE_LENGTH))
    now = now_utc()

    def invited(work: UnitOfWork) -> None:
        work.people.invite(
            _checksum(code), role=role, person_id=person.id if person is not None else None, until=now + INVITED_FOR
        )
        work.people.note(who=by, what=what, about=about, now=now)

    in_unit(database, invited)
    return "-".join(code[i : i + 4] for i in range(0, CODE_LENGTH, 4))


def _plain_code(code: str) -> str:
    """As it was made, however it was typed."""
    return "".join(c for c in code.upper() if c in LETTERS)[: CODE_LENGTH + 1]


def _matches(hashed: str, password: str) -> bool:
    try:
        return HASHER.verify(hashed, password[:1000])
    except (VerificationError, InvalidHashError):
        return False


def _checksum(secret: str) -> str:
    return hashlib.sha256(secret.encode("utf-8", "surrogatepass")).hexdigest()


__all__ = [
    "CONSOLE",
    "Conflict",
    "Entered",
    "LockedOut",
    "NotAllowed",
    "NotSignedIn",
    "WrongPassword",
    "change_password",
    "first_owner_code",
    "invite",
    "join",
    "recover",
    "recover_by_name",
    "set_role",
    "sign_in",
    "sign_out",
    "who_is",
]
