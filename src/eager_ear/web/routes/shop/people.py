"""Signing in and out, and the shop's people."""

from __future__ import annotations

import segno
from fastapi import APIRouter, Request, Response

from eager_ear.core.people import ABSOLUTE, INVITED_FOR
from eager_ear.store import PersonRecord, UnitOfWork
from eager_ear.use_cases.shop.people import (
    CONSOLE,
    Entered,
    NotSignedIn,
    change_password,
    invite,
    join,
    recover,
    set_pace,
    set_role,
    sign_in,
    sign_out,
)
from eager_ear.web.actor import COOKIE, Acting, Actor
from eager_ear.web.schemas.shop.people import (
    AuditOut,
    CodeOut,
    InviteIn,
    JoinIn,
    MeOut,
    PaceIn,
    PasswordIn,
    PeopleOut,
    PersonIn,
    PersonOut,
    SignInIn,
    SignOutIn,
)
from eager_ear.web.state import State

# Before anybody is known.
door = APIRouter(prefix="/api", tags=["people"])
router = APIRouter(prefix="/api", tags=["people"])
MOST_AUDIT = 200


@door.get("/health")
def health(state: State) -> dict[str, str]:
    """Answers when the database does; whoever asks."""
    with state.database.engine.connect() as connection:
        connection.exec_driver_sql("SELECT 1")
    return {"state": "well"}


@door.post("/sign-in")
def sign_in_(body: SignInIn, state: State, request: Request, response: Response) -> MeOut:
    """Sign this device in."""
    entered = sign_in(state.database, name=body.name, password=body.password, device=body.device)
    return _let_in(entered, request, response)


@door.post("/join")
def join_(body: JoinIn, state: State, request: Request, response: Response) -> MeOut:
    """Come in by an invitation, or set a password anew by a code for that."""
    entered = join(state.database, code=body.code, name=body.name, password=body.password, device=body.device)
    return _let_in(entered, request, response)


@router.get("/me")
def me(acting: Acting, state: State) -> MeOut:
    """Who acts on this device."""
    return MeOut(
        mode="people" if state.people_sign_in else "open",
        name=acting.name,
        role=acting.role,
        pace=acting.person.pace if acting.person is not None else None,
    )


@router.post("/sign-out")
def sign_out_(body: SignOutIn, acting: Acting, state: State, response: Response) -> None:
    """End this device's sign-in, or all of this person's."""
    sign_out(state.database, token=acting.token, everywhere=body.everywhere)
    response.delete_cookie(COOKIE, path="/")


@router.put("/me/password")
def password(body: PasswordIn, acting: Acting, state: State) -> None:
    """Set another password; other devices are signed out."""
    change_password(state.database, person=_person(acting), token=acting.token, old=body.old, new=body.new)


@router.put("/me/pace")
def pace(body: PaceIn, acting: Acting, state: State) -> None:
    """Say how long one takes: plans count with it."""
    set_pace(state.database, person=_person(acting), pace=body.pace)


@router.get("/people")
def people(state: State) -> PeopleOut:
    """Everybody, and the newest of the audit list; for owners."""
    with UnitOfWork(state.database) as work:
        return PeopleOut(
            people=[
                PersonOut(id=p.uuid, name=p.name, role=p.role, disabled=p.disabled) for p in work.people.everybody()
            ],
            audit=[
                AuditOut(at=a.at, who=a.who, what=a.what, about=a.about) for a in work.people.audit(limit=MOST_AUDIT)
            ],
        )


@router.post("/people/invitations")
def invitation(body: InviteIn, acting: Acting, state: State, request: Request) -> CodeOut:
    """A code by which somebody comes in once."""
    return _handed(invite(state.database, role=body.role, by=acting.name or CONSOLE), request)


@router.post("/people/{person_id}/recovery")
def recovery(person_id: str, acting: Acting, state: State, request: Request) -> CodeOut:
    """A code by which somebody sets a password anew."""
    return _handed(recover(state.database, person_uuid=person_id, by=acting.name or CONSOLE), request)


@router.put("/people/{person_id}")
def change(person_id: str, body: PersonIn, acting: Acting, state: State) -> PeopleOut:
    """What somebody may do, and whether they may come in at all."""
    set_role(state.database, person_uuid=person_id, role=body.role, disabled=body.disabled, by=_person(acting))
    return people(state)


def _handed(code: str, request: Request) -> CodeOut:
    """The code, and a picture of the door with it: behind the hash, which no browser sends and no log holds."""
    door = f"{str(request.base_url).rstrip('/')}/#code={code}"
    picture = segno.make(door, micro=False).svg_data_uri(scale=5, border=3, dark="#12343b", light="#ffffff")
    return CodeOut(code=code, days=INVITED_FOR.days, picture=picture)


def _person(acting: Actor) -> PersonRecord:
    if acting.person is None:
        raise NotSignedIn(reason="Nobody signs in here: this is the demo, or the server is open on purpose.")
    return acting.person


def _let_in(entered: Entered, request: Request, response: Response) -> MeOut:
    response.set_cookie(
        COOKIE,
        entered.token,
        max_age=int(ABSOLUTE.total_seconds()),
        httponly=True,
        samesite="strict",
        secure=request.url.scheme == "https",
        path="/",
    )
    person = entered.person
    return MeOut(mode="people", name=person.name, role=person.role, pace=person.pace)
