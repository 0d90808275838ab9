"""What all bodies share."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict


class Strict(BaseModel):
    """Refuses keys that do not belong there."""

    model_config = ConfigDict(extra="forbid")


class TroubleOut(BaseModel):
    """Every error: a code for programs, a sentence for people, and the field where there is one."""

    code: str
    message: str
    field: str | None = None
