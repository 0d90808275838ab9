"""The diary beside a case: `diary.jsonl`, one entry a line, as it went over the wire."""

from __future__ import annotations

import json
from collections.abc import Iterable
from pathlib import Path
from typing import Any

from eager_ear.casefile.errors import UnreadableFile
from eager_ear.core.visit import Entry

DIARY = "diary.jsonl"
PHOTOS = "photos"
MOST_LINES = 20_000
LONGEST_LINE_BYTES = 1_000_000


def entry_to_json(entry: Entry) -> dict[str, Any]:
    """An entry by its contract's keys, with what the server added."""
    return {
        "id": entry.id,
        "kind": entry.kind,
        "made_at": entry.made_at.isoformat(),
        "received_at": entry.received_at.isoformat(),
        "seq": entry.seq,
        "by": entry.by,
        "device": entry.device,
        "body": dict(entry.body) if entry.body is not None else None,
        "replaces": entry.replaces,
    }


def diary_text(entries: Iterable[Entry]) -> str:
    """All entries, in the order of their numbers."""
    ordered = sorted(entries, key=lambda e: e.seq)
    return "".join(json.dumps(entry_to_json(e), ensure_ascii=False) + "\n" for e in ordered)


def read_diary(folder: Path) -> list[dict[str, Any]] | None:
    """The entries of a case folder as they stand there, None where it has no diary. Raises UnreadableFile."""
    path = folder / DIARY
    if not path.is_file():
        return None
    out: list[dict[str, Any]] = []
    with path.open("rb") as file:
        for number, line in enumerate(file, start=1):
            if number > MOST_LINES or len(line) > LONGEST_LINE_BYTES:
                raise UnreadableFile(file=DIARY, reason=f"line {number} is beyond what a diary holds.")
            try:
                data = json.loads(line)
            except (ValueError, RecursionError) as exc:
                raise UnreadableFile(file=DIARY, reason=f"line {number} is not JSON.") from exc
            if not isinstance(data, dict):
                raise UnreadableFile(file=DIARY, reason=f"line {number} is no entry.")
            out.append(data)
    return out
