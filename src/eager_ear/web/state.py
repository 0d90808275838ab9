"""What every route needs, made once by the application."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from fastapi import Depends
from starlette.requests import HTTPConnection

from eager_ear.core.diagnosis import Knowledge
from eager_ear.store import Database


@dataclass(frozen=True, kw_only=True)
class AppState:
    database: Database
    knowledge: Knowledge
    upload_limit_bytes: int


def _state(connection: HTTPConnection) -> AppState:
    state: AppState = connection.app.state.eager_ear
    return state


State = Annotated[AppState, Depends(_state)]
