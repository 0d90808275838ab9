"""One entry after the other, each taken or refused by itself, against the diary as it stands by then."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, ClassVar

from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.errors import BadField, InputError, UnknownCode, sayable
from eager_ear.core.strip.progress import mended_refusal, power_refusal
from eager_ear.core.visit import (
    CLOCK_TOLERANCE,
    Draft,
    Entry,
    NotNow,
    SaidOtherwise,
    Visit,
    fold_visit,
    read_draft,
    require_admissible,
)
from eager_ear.store import AttachmentRecord, JobRecord, NotFound, UnitOfWork
from eager_ear.use_cases.clock import now_utc

# A long visit has a hundred; each is read and folded again with every further one.
MOST_OF_A_JOB = 10_000
UUID_LENGTH = 36


@dataclass(eq=False, kw_only=True)
class BytesMissing(InputError):
    """An entry names bytes that have not arrived whole."""

    code: ClassVar[str] = "bytes_missing"
    field: str
    reason: str

    def sentence(self) -> str:
        return self.reason


@dataclass(frozen=True, kw_only=True)
class Taken:
    """An entry that is kept, by its number."""

    id: str
    seq: int


@dataclass(frozen=True, kw_only=True)
class Refused:
    """An entry that was not taken, and why."""

    id: str | None
    code: str
    field: str | None
    message: str


@dataclass(frozen=True, kw_only=True)
class Sender:
    """Who sends, and what the device's clock said when it did."""

    by: str | None = None
    sent_at: datetime | None = None

    def clock_off_s(self, now: datetime) -> float | None:
        return (self.sent_at - now).total_seconds() if self.sent_at is not None else None


class Pen:
    """Writes one entry after the other, each checked against the diary as it stands by then."""

    def __init__(
        self, work: UnitOfWork, job: JobRecord, entries: Sequence[Any], *, sender: Sender, knowledge: Knowledge
    ) -> None:
        self._work, self._job, self._sender, self._knowledge = work, job, sender, knowledge
        self._kept = {entry.id: entry for entry in work.entries.of_job(job.id)}
        named = [data["id"] for data in entries if isinstance(data, Mapping) and _may_be_kept(data.get("id"))]
        self._elsewhere = {id_ for id_ in work.entries.find(named) if id_ not in self._kept}
        self.added: list[Entry] = []
        self.last_seq = job.last_seq
        self.ahead_s: float | None = None

    def visit(self) -> Visit:
        """What the diary says by now."""
        return fold_visit(self._kept.values(), knowledge=self._knowledge)

    def put(self, data: Any) -> Taken | Refused:
        named = data.get("id") if isinstance(data, Mapping) else None
        try:
            draft = read_draft(data, knowledge=self._knowledge)
            known = self._known(draft)
            if known is not None:
                return Taken(id=known.id, seq=known.seq)
            if len(self._kept) >= MOST_OF_A_JOB:
                raise BadField(
                    field="job", reason=f"holds {MOST_OF_A_JOB} entries: open another visit for further ones."
                )
            require_admissible(draft, visit=self.visit, by_id=self._kept)
            self._require_what_it_names(draft)
            self._require_closed_first(draft)
        except InputError as refusal:
            field = getattr(refusal, "field", None)
            return Refused(
                id=sayable(named) if isinstance(named, str) and len(named) <= 60 else None,
                code=refusal.code,
                field=sayable(field) if field is not None else None,
                message=sayable(refusal.sentence()),
            )
        return self._keep(draft)

    def _known(self, draft: Draft) -> Entry | None:
        """The same entry, if it was sent before. Raises SaidOtherwise."""
        entry = self._kept.get(draft.id)
        if entry is None:
            if draft.id in self._elsewhere:
                raise SaidOtherwise
            return None
        if not draft.says_the_same_as(entry):
            raise SaidOtherwise
        return entry

    def _keep(self, draft: Draft) -> Taken:
        now = now_utc()
        self.last_seq += 1
        entry = draft.received(at=now, seq=self.last_seq, by=self._sender.by, clock_off_s=self._sender.clock_off_s(now))
        if entry.made_at - now > CLOCK_TOLERANCE:
            self.ahead_s = (entry.made_at - now).total_seconds()
        self._work.entries.add(self._job.id, entry)
        self._kept[entry.id] = entry
        self.added.append(entry)
        return Taken(id=entry.id, seq=entry.seq)

    def _require_what_it_names(self, draft: Draft) -> None:
        """Recordings, photos and machines that an entry names have to be there. Raises InputError."""
        body = draft.body or {}
        if draft.kind == "recording" and draft.body is not None:
            sent = self._sent(body["recording"], field="body.recording")
            kinds = (sent.facts or {}).get("kinds", [])
            if body["kind"] not in kinds:
                raise UnknownCode(field="body.kind", value=body["kind"], known=tuple(kinds))
        for kind in ("photo", "restored", "compared"):
            if draft.kind == kind and body.get("photo") is not None:
                self._sent(body["photo"], field="body.photo")
        if draft.kind == "recording_removed" and draft.body is not None:
            noted = {r.recording for r in self.visit().spin.recordings}
            if body["recording"] not in noted:
                raise NotNow(field="body.recording", reason="There is no such recording to remove.")
        if draft.kind == "fitted_used" and draft.body is not None:
            self._require_on_the_shelf(body)
        if draft.kind == "machine" and body.get("column_with") is not None:
            self._require_another(body["column_with"])
        if draft.kind == "machine" and body.get("known_as") is not None:
            if self._job.practice:
                raise BadField(field="body.known_as", reason="cannot be told in a practice job: it stands by itself.")
            try:
                self._work.machines.get(body["known_as"])
            except NotFound as exc:
                raise BadField(field="body.known_as", reason="There is no such machine in the register.") from exc

    def _require_another(self, uuid: str) -> None:
        """The other machine of a column is one of the register, and not this one. Raises BadField."""
        own = self._work.machines.by_id(self._job.machine_id)
        try:
            other = self._work.machines.get(uuid)
        except NotFound as exc:
            raise BadField(field="body.column_with", reason="There is no such machine in the register.") from exc
        if other.id == own.id:
            raise BadField(field="body.column_with", reason="is this very machine.")

    def _require_on_the_shelf(self, body: Mapping[str, Any]) -> None:
        """A used part can be fitted once, as what it is. Raises InputError."""
        part = self._work.used_parts.find(body["kept"])
        if part is None or part.part != body["part"]:
            raise BadField(field="body.kept", reason="There is no such used part on the shelf.")
        if part.fitted_in not in (None, self._job.uuid):
            raise NotNow(field="body.kept", reason="That used part went into another machine in the meantime.")

    def _require_closed_first(self, draft: Draft) -> None:
        """Before power returns, and before a repair is called done, what was opened is closed. Raises NotNow."""
        body = draft.body
        if body is None or draft.kind not in ("power_back", "closed"):
            return
        repair = self._knowledge.repair
        if draft.kind == "power_back":
            refusal = power_refusal(self.visit(), repair=repair, why=str(body.get("why") or ""))
            if refusal is not None:
                raise NotNow(field="body.why", reason=refusal)
        elif body["outcome"] in ("mended", "workaround"):
            refusal = mended_refusal(self.visit(), repair=repair)
            if refusal is not None:
                raise NotNow(field="body.outcome", reason=refusal)

    def _sent(self, uuid: str, *, field: str) -> AttachmentRecord:
        sent = self._work.attachments.find(uuid)
        if sent is None or sent.job_id != self._job.id:
            raise BytesMissing(field=field, reason="Nothing has arrived under this id yet: send the bytes first.")
        if not sent.is_here:
            raise BytesMissing(
                field=field,
                reason=f"{sent.received_bytes} of {sent.total_bytes} bytes have arrived: send the rest first.",
            )
        return sent


def _may_be_kept(id_: Any) -> bool:
    """Whether an id, as it was sent, can be that of an entry."""
    return isinstance(id_, str) and len(id_) == UUID_LENGTH and id_.isascii()
