"""People of the shop, their sign-ins, invitations, and the audit list."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import delete, func, select, update
from sqlalchemy.orm import Session

from eager_ear.store.errors import NotFound
from eager_ear.store.records import AuditRecord, PersonRecord, SignInRecord
from eager_ear.store.tables import AuditRow, InvitationRow, PersonRow, SignInRow, may_be_id


class People:
    def __init__(self, session: Session) -> None:
        self._session = session

    def count(self) -> int:
        return int(self._session.scalar(select(func.count(PersonRow.id))) or 0)

    def owners(self) -> int:
        """How many owners can sign in."""
        mine = select(func.count(PersonRow.id)).where(PersonRow.role == "owner", PersonRow.disabled.is_(False))
        return int(self._session.scalar(mine) or 0)

    def everybody(self) -> list[PersonRecord]:
        return [_person(row) for row in self._session.scalars(select(PersonRow).order_by(PersonRow.name))]

    def add(self, *, uuid: str, name: str, role: str, password: str, now: datetime) -> PersonRecord:
        """Raises Conflict (at the end of the unit) where the name is taken."""
        row = PersonRow(uuid=uuid, name=name, role=role, password=password, disabled=False, failures=0, created_at=now)
        self._session.add(row)
        self._session.flush()
        return _person(row)

    def find(self, name: str, *, hold: bool = False) -> PersonRecord | None:
        """By name; held against others who sign in at the same moment where wished."""
        wanted = select(PersonRow).where(PersonRow.name == name)
        row = self._session.scalar(wanted.with_for_update() if hold else wanted)
        return _person(row) if row is not None else None

    def get(self, uuid: str) -> PersonRecord:
        """Raises NotFound."""
        row = self._session.scalar(select(PersonRow).where(PersonRow.uuid == uuid)) if may_be_id(uuid) else None
        if row is None:
            raise NotFound(kind="person", key=uuid[:60])
        return _person(row)

    def by_id(self, person_id: int) -> PersonRecord:
        row = self._session.get(PersonRow, person_id)
        if row is None:
            raise NotFound(kind="person", key=str(person_id))
        return _person(row)

    def tried(self, person_id: int, *, failures: int, locked_until: datetime | None) -> None:
        """How many wrong passwords in a row, and until when nobody is let in for it."""
        self._change(person_id, failures=failures, locked_until=locked_until)

    def set_password(self, person_id: int, password: str) -> None:
        self._change(person_id, password=password, failures=0, locked_until=None)

    def set_role(self, person_id: int, role: str) -> None:
        self._change(person_id, role=role)

    def set_pace(self, person_id: int, pace: float | None) -> None:
        self._change(person_id, pace=pace)

    def disable(self, person_id: int, *, disabled: bool) -> None:
        self._change(person_id, disabled=disabled)

    def _change(self, person_id: int, **values: object) -> None:
        self._session.execute(update(PersonRow).where(PersonRow.id == person_id).values(**values))
        self._session.expire_all()

    def sign_in(self, token: str, person_id: int, *, device: str, now: datetime) -> None:
        """Keep a sign-in by its token's checksum."""
        self._session.add(SignInRow(token=token, person_id=person_id, device=device, created_at=now, seen_at=now))
        self._session.flush()

    def signed_in(self, token: str) -> SignInRecord | None:
        row = self._session.get(SignInRow, token)
        if row is None:
            return None
        return SignInRecord(
            token=row.token,
            person_id=row.person_id,
            device=row.device,
            created_at=row.created_at,
            seen_at=row.seen_at,
        )

    def seen(self, token: str, *, now: datetime) -> None:
        self._session.execute(update(SignInRow).where(SignInRow.token == token).values(seen_at=now))

    def sign_out(self, token: str) -> None:
        self._session.execute(delete(SignInRow).where(SignInRow.token == token))

    def sign_out_everywhere(self, person_id: int, *, but: str | None = None) -> None:
        """End a person's sign-ins, all but one where named."""
        mine = delete(SignInRow).where(SignInRow.person_id == person_id)
        self._session.execute(mine if but is None else mine.where(SignInRow.token != but))

    def sweep(self, *, created_before: datetime, seen_before: datetime, now: datetime) -> None:
        """Forget sign-ins and invitations that have ended."""
        over = (SignInRow.created_at < created_before) | (SignInRow.seen_at < seen_before)
        self._session.execute(delete(SignInRow).where(over))
        self._session.execute(delete(InvitationRow).where(InvitationRow.until < now))

    def invite(self, code: str, *, role: str, person_id: int | None, until: datetime) -> None:
        """Keep an invitation by its code's checksum."""
        self._session.add(InvitationRow(code=code, role=role, person_id=person_id, until=until))
        self._session.flush()

    def invited(self, code: str, *, now: datetime) -> tuple[str, int | None] | None:
        """Role and person of an invitation that holds, which is used up by asking."""
        row = self._session.scalar(select(InvitationRow).where(InvitationRow.code == code).with_for_update())
        if row is None or row.until < now:
            return None
        told = (row.role, row.person_id)
        self._session.delete(row)
        self._session.flush()
        return told

    def note(self, *, who: str, what: str, about: str, now: datetime) -> None:
        """Write into the audit list."""
        self._session.add(AuditRow(at=now, who=who[:80], what=what, about=about[:200]))

    def audit(self, *, limit: int) -> list[AuditRecord]:
        """The newest first."""
        rows = self._session.scalars(select(AuditRow).order_by(AuditRow.id.desc()).limit(limit))
        return [AuditRecord(at=row.at, who=row.who, what=row.what, about=row.about) for row in rows]


def _person(row: PersonRow) -> PersonRecord:
    return PersonRecord(
        id=row.id,
        uuid=row.uuid,
        name=row.name,
        role=row.role,
        password=row.password,
        disabled=row.disabled,
        failures=row.failures,
        locked_until=row.locked_until,
        pace=row.pace,
    )
