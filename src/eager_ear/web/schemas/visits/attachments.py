"""Bytes on their way in."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel

from eager_ear.store import AttachmentRecord


class ArrivedOut(BaseModel):
    """How much has arrived, and what it was found to be once all has."""

    id: str
    name: str
    received_bytes: int
    total_bytes: int
    is_here: bool
    sha256: str | None
    facts: dict[str, Any] | None

    @classmethod
    def of(cls, found: AttachmentRecord) -> ArrivedOut:
        facts = {k: v for k, v in (found.facts or {}).items() if k != "sent_sha256"}
        return cls(
            id=found.id,
            name=found.name,
            received_bytes=found.received_bytes,
            total_bytes=found.total_bytes,
            is_here=found.is_here,
            sha256=found.sha256,
            facts=facts if found.facts is not None else None,
        )
