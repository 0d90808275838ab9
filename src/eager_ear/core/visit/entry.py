"""One entry of a job's diary, and which entries count.

The diary only grows. An entry that `replaces` another takes its place; with no body it withdraws it. A correction that
is withdrawn takes nothing's place any more, so that what it corrected counts again: taking back is one step back. A
withdrawal can be withdrawn as well.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any


@dataclass(frozen=True, kw_only=True)
class Entry:
    """One entry as it was received.

    id : UUID, made by the device; kind : a code of `KINDS`
    made_at : by the device's clock, with its zone; received_at : by the server's; seq : rises by one within a job
    by, device : who wrote it, and on what
    body : checked by `read_body`; None withdraws what it `replaces`
    clock_off : the device's clock was off by more than `CLOCK_TOLERANCE`, so that `received_at` says when it counts
    """

    id: str
    kind: str
    made_at: datetime
    received_at: datetime
    seq: int
    body: Mapping[str, Any] | None
    by: str | None = None
    device: str = ""
    replaces: str | None = None
    clock_off: bool = False

    @property
    def counts_at(self) -> datetime:
        """When it counts: as it was made, or as it came where the device's clock cannot be believed."""
        return self.received_at if self.clock_off else self.made_at


def in_order(entries: Iterable[Entry]) -> list[Entry]:
    """By when they count; ties by id, so that any order of arrival gives the same."""
    return sorted(entries, key=lambda e: (e.counts_at, e.id))


def in_force(entries: Iterable[Entry]) -> list[Entry]:
    """The entries that count, in order: neither replaced nor withdrawn."""
    ordered = in_order(entries)
    replacing: dict[str, list[Entry]] = {}
    for entry in ordered:
        if entry.replaces is not None:
            replacing.setdefault(entry.replaces, []).append(entry)
    withdrawn = _withdrawn(ordered, replacing)
    return [
        e
        for e in ordered
        if e.body is not None
        and e.id not in withdrawn
        and all(other.body is None or other.id in withdrawn for other in replacing.get(e.id, ()))
    ]


def _withdrawn(ordered: list[Entry], replacing: Mapping[str, list[Entry]]) -> set[str]:
    """Ids of entries that a withdrawal takes out which is not taken back itself.

    Withdrawals of withdrawals are settled from the last one on; in a ring, which no device can write, none counts.
    """
    nulls = {id_: [e for e in others if e.body is None] for id_, others in replacing.items()}
    settled: dict[str, bool] = {}
    waiting = [e.id for e in ordered]
    while waiting:
        left = []
        for id_ in waiting:
            by = nulls.get(id_, [])
            if all(e.id in settled for e in by):
                settled[id_] = any(not settled[e.id] for e in by)
            else:
                left.append(id_)
        if len(left) == len(waiting):
            break
        waiting = left
    return {id_ for id_, gone in settled.items() if gone}
