"""Ids that devices and servers make by themselves: UUIDs of version 7 (RFC 9562), which sort by their moments."""

from __future__ import annotations

import secrets
from datetime import datetime
from uuid import UUID


def uuid7(made_at: datetime) -> str:
    """A new id for something made at that moment."""
    milliseconds = int(made_at.timestamp() * 1000) & ((1 << 48) - 1)
    value = milliseconds << 80 | secrets.randbits(80)
    value = value & ~(0xF << 76) | 0x7 << 76
    value = value & ~(0x3 << 62) | 0x2 << 62
    return str(UUID(int=value))
