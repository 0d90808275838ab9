"""What every route needs, made once by the application."""

from __future__ import annotations

import asyncio
from dataclasses import dataclass, field
from typing import Annotated

from anyio import CapacityLimiter
from fastapi import Depends
from starlette.requests import HTTPConnection

from eager_ear.core.diagnosis import Knowledge
from eager_ear.store import Database
from eager_ear.use_cases.shop.room import Room
from eager_ear.web.watch import Watch

# Files are looked over so many at a time: each takes memory.
AT_ONCE = 2
LIVE_THREADS = 4


@dataclass(kw_only=True)
class Live:
    """Who listens along now, and the threads that they share."""

    sockets: int = 0
    limiter: CapacityLimiter = field(default_factory=lambda: CapacityLimiter(LIVE_THREADS))


@dataclass(frozen=True, kw_only=True)
class AppState:
    """looking : held while a file is looked over; watch : tells of changes; people_sign_in : strangers are
    kept out."""

    database: Database
    knowledge: Knowledge
    upload_limit_bytes: int
    watch: Watch
    room: Room
    people_sign_in: bool
    live: Live = field(default_factory=Live)
    looking: asyncio.Semaphore = field(default_factory=lambda: asyncio.Semaphore(AT_ONCE))


def _state(connection: HTTPConnection) -> AppState:
    state: AppState = connection.app.state.eager_ear
    return state


State = Annotated[AppState, Depends(_state)]
