"""Entries as devices write them."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from itertools import count
from typing import Any

from eager_ear.ids import uuid7

# A moment of a day that is past, so that no clock is ahead.
BEGAN = datetime(2026, 3, 4, 8, 0, 0, tzinfo=UTC)
_seconds = count()


def new_id() -> str:
    return uuid7(datetime.now(UTC))


def entry(kind: str, body: dict[str, Any] | None, **more: Any) -> dict[str, Any]:
    """An entry a second later than the one before; `device`, `made_at`, `replaces`, `id` as wished."""
    made_at = more.pop("made_at", None) or BEGAN + timedelta(seconds=next(_seconds))
    return {
        "id": more.pop("id", None) or new_id(),
        "kind": kind,
        "made_at": made_at.isoformat() if isinstance(made_at, datetime) else made_at,
        "device": more.pop("device", "phone"),
        "body": body,
        **more,
    }


def machine(place: str = "Lock cottage 1", layout: str = "front_belt", **facts: Any) -> dict[str, Any]:
    return entry("machine", {"place": place, "layout": layout, **facts})


def told(symptom: str) -> dict[str, Any]:
    return entry("told", {"symptom": symptom, "present": True})


def check(code: str, **values: Any) -> dict[str, Any]:
    return entry("check", {"check": code, "values": values})
