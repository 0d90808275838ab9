"""What entries say: each says something of one or more subjects, and of each subject the latest counts.

A subject is what two entries would have to agree on: the same check at the same corner, the same step, the same fact
of the machine. Where two devices say different things of one subject within ten minutes, a person picks.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from datetime import timedelta
from typing import Any

from eager_ear.core.fields import Record
from eager_ear.core.visit.entry import Entry, in_force

AT_ONCE = timedelta(minutes=10)

Body = Mapping[str, Any]


def of_its_own(_: Body) -> dict[str, Any]:
    """Says nothing that another entry could take the place of."""
    return {}


def of(*keys: str) -> Callable[[Body], dict[str, Any]]:
    """Says all of its body about what these keys name; with no key, about one thing of which the latest counts."""

    def says(body: Body) -> dict[str, Any]:
        return {".".join(str(body.get(key, "")) for key in keys): dict(body)}

    return says


def each_key(body: Body) -> dict[str, Any]:
    """Says something of every key of its body, of parts of an object too."""
    out: dict[str, Any] = {}
    for key, value in body.items():
        if isinstance(value, Mapping):
            out.update({f"{key}.{part}": inner for part, inner in value.items()})
        else:
            out[key] = value
    return out


@dataclass(frozen=True, kw_only=True)
class Kind:
    """One kind of entry: whose it is, what its body holds, what it says of which subject.

    station : a station's code, or "any"
    check : refuses with an InputError what `body` alone cannot see
    """

    code: str
    station: str
    body: Record
    says: Callable[[Body], dict[str, Any]] = of_its_own
    check: Callable[[Body], None] | None = None
    read: Callable[[Body], dict[str, Any]] | None = None


@dataclass(frozen=True, kw_only=True)
class Statement:
    """What one entry says of one subject."""

    subject: str
    value: Any
    entry: Entry


@dataclass(frozen=True, kw_only=True)
class Disagreement:
    """Two devices that say different things of one subject at about the same time; `entries` are their ids."""

    kind: str
    subject: str
    entries: tuple[str, ...]
    values: tuple[Any, ...]
    devices: tuple[str, ...]


class Said:
    """The entries that count, by kind, and of every subject the latest statement."""

    def __init__(self, entries: Iterable[Entry], *, kinds: Mapping[str, Kind]) -> None:
        self.entries = in_force(entries)
        self._kinds = kinds
        self._by_subject: dict[tuple[str, str], list[Statement]] = {}
        for entry in self.entries:
            for subject, value in kinds[entry.kind].says(entry.body or {}).items():
                statement = Statement(subject=subject, value=value, entry=entry)
                self._by_subject.setdefault((entry.kind, subject), []).append(statement)

    def all(self, *kinds: str) -> list[Entry]:
        """Every entry of these kinds that counts, in order."""
        return [entry for entry in self.entries if entry.kind in kinds]

    def last(self, *kinds: str) -> Entry | None:
        """The latest of these kinds."""
        return next((entry for entry in reversed(self.entries) if entry.kind in kinds), None)

    def newest(self, kind: str) -> dict[str, Statement]:
        """The latest statement of every subject of a kind, in the order in which those were first spoken of."""
        return {subject: said[-1] for (of_kind, subject), said in self._by_subject.items() if of_kind == kind}

    def earlier(self, kind: str, subject: str) -> list[Statement]:
        """What was said of a subject before its latest statement, oldest first."""
        return self._by_subject.get((kind, subject), [])[:-1]

    def disagreements(self) -> tuple[Disagreement, ...]:
        """Subjects of which two devices say different things within ten minutes."""
        out: list[Disagreement] = []
        for (kind, subject), said in self._by_subject.items():
            newest = said[-1]
            theirs = {s.entry.device: s for s in said if s.entry.device != newest.entry.device}
            for other in theirs.values():
                near = newest.entry.counts_at - other.entry.counts_at <= AT_ONCE
                if near and other.value != newest.value:
                    out.append(
                        Disagreement(
                            kind=kind,
                            subject=subject,
                            entries=(other.entry.id, newest.entry.id),
                            values=(other.value, newest.value),
                            devices=(other.entry.device, newest.entry.device),
                        )
                    )
        return tuple(out)
