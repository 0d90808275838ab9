"""Whether an entry is taken: its own shape first, then what it refers to."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any, ClassVar

from eager_ear.core.diagnosis.knowledge import Knowledge
from eager_ear.core.errors import BadField, InputError, UnknownCode
from eager_ear.core.fields import Text, uuid_text, well_formed
from eager_ear.core.visit.entry import Entry
from eager_ear.core.visit.visit import Visit, kinds_of

CLOCK_TOLERANCE = timedelta(minutes=5)
ENTRY_KEYS = ("id", "kind", "made_at", "by", "device", "body", "replaces")
# What servers add is taken back in as it was written out, and made anew.
ADDED_KEYS = ("received_at", "seq", "clock_off")
EARLIEST_YEAR = 2000


@dataclass(eq=False, kw_only=True)
class SaidOtherwise(InputError):
    """The same id was sent before with other content."""

    code: ClassVar[str] = "said_otherwise"
    field: str = "id"

    def sentence(self) -> str:
        return "An entry with this id was sent before, and it says something else. It stays as it was."


@dataclass(eq=False, kw_only=True)
class NotNow(InputError):
    """The entry is well formed but cannot follow what the diary says so far."""

    code: ClassVar[str] = "not_now"
    field: str
    reason: str

    def sentence(self) -> str:
        return self.reason


@dataclass(frozen=True, kw_only=True)
class Draft:
    """An entry as its device wrote it, checked by itself."""

    id: str
    kind: str
    made_at: datetime
    by: str | None
    device: str
    body: Mapping[str, Any] | None
    replaces: str | None

    def received(self, *, at: datetime, seq: int, by: str | None, clock_off_s: float | None) -> Entry:
        """The entry as it is kept. `clock_off_s` is how far the device said that its clock is ahead, if it did."""
        off = timedelta(seconds=clock_off_s) if clock_off_s is not None else timedelta(0)
        ahead = self.made_at - at
        return Entry(
            id=self.id,
            kind=self.kind,
            made_at=self.made_at,
            received_at=at,
            seq=seq,
            body=self.body,
            by=by,
            device=self.device,
            replaces=self.replaces,
            clock_off=abs(off) > CLOCK_TOLERANCE or ahead > CLOCK_TOLERANCE,
        )

    def says_the_same_as(self, entry: Entry) -> bool:
        """Whether an entry that was kept holds the same content."""
        return (self.kind, self.made_at, self.device, self.body, self.replaces) == (
            entry.kind,
            entry.made_at,
            entry.device,
            entry.body,
            entry.replaces,
        )


def read_draft(data: Any, *, knowledge: Knowledge) -> Draft:
    """Check an entry by itself.

    Raises
    ------
    UnknownCode
        No such kind, or a code in its body that is not known.
    BadField
        A key that is missing, does not belong there or holds something else; names it.
    """
    if not isinstance(data, Mapping):
        raise BadField(field="entry", reason="is not an object with keys.")
    unknown = sorted(str(key)[:80] for key in data if key not in (*ENTRY_KEYS, *ADDED_KEYS))
    if unknown:
        raise BadField(field=unknown[0], reason="is not a key of an entry.")
    kinds = kinds_of(knowledge)
    entry_id = uuid_text(data.get("id"), field="id")
    kind_code = data.get("kind")
    if not isinstance(kind_code, str) or kind_code not in kinds:
        raise UnknownCode(field="kind", value=str(kind_code)[:80], known=tuple(kinds))
    kind = kinds[kind_code]
    replaces = data.get("replaces")
    body: dict[str, Any] | None
    if data.get("body") is None:
        if replaces is None:
            raise BadField(field="body", reason="is missing; only what replaces another entry may be without one.")
        body = None
    else:
        body = kind.body.read(data["body"], field="body")
        try:
            if kind.check is not None:
                kind.check(body)
            if kind.read is not None:
                body = kind.read(body)
        except BadField as exc:
            raise BadField(field=f"body.{exc.field}", reason=exc.reason) from exc
    return Draft(
        id=entry_id,
        kind=kind_code,
        made_at=_moment(data.get("made_at")),
        by=None,
        device=Text(longest=60).read(data.get("device") or "", field="device"),
        body=body,
        replaces=uuid_text(replaces, field="replaces") if replaces is not None else None,
    )


def require_admissible(draft: Draft, *, visit: Callable[[], Visit], by_id: Mapping[str, Entry]) -> None:
    """Check an entry against the diary so far, which is folded only for those that it matters to. Raises NotNow."""
    if draft.replaces is not None:
        _require_same_kind(draft, by_id)
    body = draft.body or {}
    if draft.kind == "closed" and draft.body is not None and (bridged := visit().any_time.bridged):
        where = ", ".join(b.where for b in bridged)
        raise NotNow(
            field="body.outcome",
            reason=f"An interlock is still bridged ({where}). Restore it and log that, then the job can be closed.",
        )
    for kind, key, of_kind in (("restored", "restored", "bridged"), ("timer_end", "timer", "timer")):
        if draft.kind == kind and draft.body is not None:
            named = by_id.get(body[key])
            if named is None or named.kind != of_kind:
                raise NotNow(field=f"body.{key}", reason=f"There is no entry of kind “{of_kind}” with this id.")


def _require_same_kind(draft: Draft, by_id: Mapping[str, Entry]) -> None:
    replaced = by_id.get(draft.replaces or "")
    if replaced is None:
        raise NotNow(field="replaces", reason="There is no such entry in this job to replace.")
    if replaced.kind != draft.kind:
        raise NotNow(field="replaces", reason=f"That entry is of kind “{replaced.kind}”, this one “{draft.kind}”.")


def _moment(value: Any) -> datetime:
    text = well_formed(value, field="made_at")
    try:
        moment = datetime.fromisoformat(text)
    except ValueError as exc:
        raise BadField(field="made_at", reason=f"“{text[:40]}” is not a time.") from exc
    if moment.tzinfo is None or moment.utcoffset() is None:
        raise BadField(field="made_at", reason="a time needs its zone.")
    if not EARLIEST_YEAR <= moment.year < 9000:
        raise BadField(field="made_at", reason=f"the year {moment.year} is out of reach.")
    return moment
