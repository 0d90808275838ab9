"""Who acts: asked of every route and of the socket. Nobody signs in yet, so that it is always the same stranger."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from fastapi import Depends
from starlette.requests import HTTPConnection


@dataclass(frozen=True, kw_only=True)
class Actor:
    """A person, by the name that goes into the diary; None for a stranger."""

    name: str | None


def who_acts(_: HTTPConnection) -> Actor:
    return Actor(name=None)


Acting = Annotated[Actor, Depends(who_acts)]
