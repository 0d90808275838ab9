"""One entry of a job's diary, and which entries count.

The diary only grows. An entry that `replaces` another takes its place; with no body it withdraws it. An entry stays
out of the fold as long as one that counts replaces it: when the correction itself is withdrawn, the corrected entry
counts again, so that taking back is always one step back.
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
    standing: dict[str, bool] = {}
    for entry in reversed(ordered):
        _settle(entry, replacing, standing)
    return [e for e in ordered if standing[e.id] and e.body is not None]


def _settle(first: Entry, replacing: Mapping[str, list[Entry]], standing: dict[str, bool]) -> None:
    """Whether an entry stands, after all that replace it, without recursion: a chain of corrections may be long.

    Two that replace each other in a ring are settled from the later one: it stands.
    """
    path, waiting = [first], {first.id}
    while path:
        entry = path[-1]
        others = replacing.get(entry.id, ())
        unsettled = next((o for o in others if o.id not in standing and o.id not in waiting), None)
        if entry.id not in standing and unsettled is not None:
            path.append(unsettled)
            waiting.add(unsettled.id)
            continue
        standing.setdefault(entry.id, not any(standing.get(o.id, False) for o in others))
        waiting.discard(entry.id)
        path.pop()
