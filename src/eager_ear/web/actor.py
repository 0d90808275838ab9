"""Who acts: asked of every route and of the socket, before anything else is.

Where people sign in, a device's cookie says whose it is; what the role does not allow is refused here, in one place.
Where nobody does (the demo, at this machine alone), it is always the same person.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from fastapi import Depends
from starlette.requests import HTTPConnection

from eager_ear.core.people import in_job, may
from eager_ear.store import PersonRecord, UnitOfWork
from eager_ear.use_cases.shop.people import NotAllowed, NotSignedIn, who_is
from eager_ear.web.state import AppState

COOKIE = "ear_session"


@dataclass(frozen=True, kw_only=True)
class Actor:
    """A person, by the name that goes into the diary; None for a stranger. token : of the device's sign-in."""

    name: str | None
    role: str = "owner"
    person: PersonRecord | None = None
    token: str = ""


def who_acts(connection: HTTPConnection) -> Actor:
    """Raises NotSignedIn, NotAllowed."""
    state: AppState = connection.app.state.eager_ear
    if not state.people_sign_in:
        return Actor(name=None)
    token = connection.cookies.get(COOKIE, "")
    person = who_is(state.database, token) if token else None
    if person is None:
        raise NotSignedIn
    # A socket listens along and keeps what it hears: that is more than a look.
    method = "POST" if connection.scope["type"] == "websocket" else str(connection.scope["method"])
    path = connection.url.path
    if not may(person.role, method, path) and not _practises(state, person.role, path):
        raise NotAllowed
    return Actor(name=person.name, role=person.role, person=person, token=token)


def _practises(state: AppState, role: str, path: str) -> bool:
    """Whether somebody who may only look asks for a job that was opened to learn by, or opens one."""
    if role != "trainee":
        return False
    if path == "/api/jobs":
        return True
    job_id = in_job(path)
    if job_id is None:
        return False
    with UnitOfWork(state.database) as work:
        job = work.jobs.find(job_id)
    return job is not None and job.practice


Acting = Annotated[Actor, Depends(who_acts)]
