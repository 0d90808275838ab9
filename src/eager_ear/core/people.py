"""Who may do what, what a password has to be, and how long a sign-in holds."""

from __future__ import annotations

import re
from datetime import timedelta
from typing import Literal, get_args

from eager_ear.core.errors import BadField, UnknownCode
from eager_ear.core.fields import Number

Role = Literal["owner", "technician", "trainee"]
ROLES: tuple[str, ...] = get_args(Role)
LONGEST_NAME = 80
# Long rather than intricate (NIST SP 800-63B, section 5.1.1): any letters, no rules of composition.
LEAST_PASSWORD, MOST_PASSWORD = 10, 200
COMMON = frozenset({"1234567890", "0123456789", "password123", "passwordpassword", "qwertyuiop", "iloveyou123"})
# A phone that lay in the van for a week is asked once more; a month is the most.
IDLE = timedelta(days=7)
ABSOLUTE = timedelta(days=30)
INVITED_FOR = timedelta(days=3)
# So many wrong passwords are a slip; from then on each doubles the wait.
FREE_TRIES = 5
FIRST_WAIT = timedelta(seconds=30)
LONGEST_WAIT = timedelta(minutes=15)

# Twice as fast as practised hands is a record; five times as long is learning.
PACE = Number(low=0.5, high=5)

SAFE = ("GET", "HEAD", "OPTIONS")
# What is asked with a body and keeps nothing.
ONLY_ASKS = re.compile(r"/api/(judge|wet-load|hear/[a-z-]+|feel/[a-z-]+|bench/[a-z-]+|jobs/[^/]+/(decision|offer))")
IN_JOB = re.compile(r"/api/jobs/([^/]+)/.+")
OWN = re.compile(r"/api/(me|sign-out)(/.*)?")
OWNERS = re.compile(r"/api/(people|audit)(/.*)?")
OWNERS_TO_CHANGE = re.compile(r"/api/(shop|record/.*|machines/[^/]+/forget)")
# What holds customers' names and telephones is not handed to whoever only looks.
NOT_TO_TRAINEES = re.compile(r"/api/machines/[^/]+/all\.zip")


def may(role: str, method: str, path: str) -> bool:
    """Whether a role may do that: owners everything, technicians all but the shop's own affairs, trainees look.

    What trainees may do in practice jobs is for whoever knows the job.
    """
    if role == "owner" or OWN.fullmatch(path):
        return True
    if OWNERS.fullmatch(path):
        return False
    if role == "trainee" and NOT_TO_TRAINEES.fullmatch(path):
        return False
    if method in SAFE or ONLY_ASKS.fullmatch(path):
        return True
    return role == "technician" and not OWNERS_TO_CHANGE.fullmatch(path)


def in_job(path: str) -> str | None:
    """The id of the job that a route belongs to, None where it belongs to none."""
    found = IN_JOB.fullmatch(path)
    return found[1] if found else None


def read_name(name: str) -> str:
    """A person's name as it is kept. Raises BadField."""
    told = " ".join(name.split())
    if not told or len(told) > LONGEST_NAME or not told.isprintable():
        raise BadField(field="name", reason=f"a name of 1 to {LONGEST_NAME} letters is needed.")
    return told


def read_pace(pace: float) -> float:
    """How long somebody takes, 1 for practised hands. Raises BadField."""
    return float(PACE.read(pace, field="pace"))


def read_role(role: str) -> str:
    """Raises UnknownCode."""
    if role not in ROLES:
        raise UnknownCode(field="role", value=role[:40], known=ROLES)
    return role


def read_password(password: str, *, name: str) -> str:
    """A password that may be kept. Raises BadField."""
    if len(password) < LEAST_PASSWORD:
        raise BadField(field="password", reason=f"at least {LEAST_PASSWORD} characters: a short sentence is easiest.")
    if len(password) > MOST_PASSWORD:
        raise BadField(field="password", reason=f"at most {MOST_PASSWORD} characters.")
    plain = password.casefold()
    if plain in COMMON or plain == name.casefold() or len(set(plain)) < 4:
        raise BadField(field="password", reason="that one is guessed first: take a short sentence of your own.")
    return password


def wait_after(failures: int) -> timedelta:
    """How long nobody can sign in after so many wrong passwords in a row.

    >>> wait_after(4).total_seconds(), wait_after(5).total_seconds(), wait_after(7).total_seconds()
    (0.0, 30.0, 120.0)
    """
    if failures < FREE_TRIES:
        return timedelta(0)
    doubled: int = 2 ** min(failures - FREE_TRIES, 10)
    return min(LONGEST_WAIT, FIRST_WAIT * doubled)
