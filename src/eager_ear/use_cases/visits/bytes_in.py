"""Bytes from devices: taken in pieces that can be resumed, looked over when they are whole, kept once.

Each piece is committed by itself, so that a lost connection loses at most the piece that was under way; sending the
same bytes again after a lost answer changes nothing.
"""

from __future__ import annotations

import hashlib
import tempfile
from collections.abc import Callable, Mapping
from dataclasses import asdict, dataclass
from datetime import timedelta
from pathlib import Path
from typing import Any, ClassVar

from eager_ear.casefile import inspect_photo, inspect_recording
from eager_ear.casefile.errors import FileProblem
from eager_ear.core.errors import BadField
from eager_ear.core.fields import Text, uuid_text
from eager_ear.store import CHUNK_BYTES, AttachmentRecord, Conflict, Database, UnitOfWork, in_unit
from eager_ear.store.errors import StoreError
from eager_ear.use_cases.clock import now_utc

# What stopped arriving so long ago is not waited for any more.
KEPT_UNFINISHED = timedelta(days=30)
MOST_PHOTO_BYTES = 20_000_000


@dataclass(eq=False, kw_only=True)
class NotThere(StoreError):
    """A piece that does not begin where the last one ended."""

    code: ClassVar[str] = "wrong_offset"
    received_bytes: int

    def sentence(self) -> str:
        return f"{self.received_bytes} bytes have arrived: send the rest from there."


@dataclass(frozen=True, kw_only=True)
class Parcel:
    """What is being sent: under which id, to which job, as what, how much of it there is."""

    job_uuid: str
    uuid: str
    purpose: str
    name: str
    total_bytes: int

    def __post_init__(self) -> None:
        uuid_text(self.uuid, field="id")
        name = Text(longest=200, shortest=1).read(self.name, field="name")
        if any(c in name for c in "/\\") or not name.isprintable():
            raise BadField(field="name", reason=f"“{name[:60]}” cannot be the name of a file.")
        if self.total_bytes < 0:
            raise BadField(field="size", reason="is less than nothing.")


def begin(database: Database, parcel: Parcel, *, afresh: bool) -> AttachmentRecord:
    """The parcel as far as it has arrived; begun where nothing has, or `afresh` where it is not whole yet.

    Raises
    ------
    NotFound
        No such job.
    Conflict
        The id belongs to something else.
    """

    def begun(work: UnitOfWork) -> AttachmentRecord:
        job = work.jobs.hold(work.jobs.get(parcel.job_uuid).id)
        found = work.attachments.find(parcel.uuid)
        if found is not None and (found.job_id, found.purpose) != (job.id, parcel.purpose):
            raise Conflict(message="This id belongs to something else.")
        if found is not None and not found.is_here and (afresh or found.total_bytes != parcel.total_bytes):
            forget_bytes(work, found)
            found = None
        if found is None:
            found = work.attachments.add(
                uuid=parcel.uuid,
                job_id=job.id,
                purpose=parcel.purpose,
                name=parcel.name,
                total_bytes=parcel.total_bytes,
                file_id=work.files.begin(now=now_utc()),
                now=now_utc(),
            )
        return found

    return in_unit(database, begun)


def take_piece(database: Database, uuid: str, *, offset: int, content: bytes) -> int:
    """Keep a piece; returns how much has arrived then. Raises NotThere, NotFound."""

    def kept(work: UnitOfWork) -> int:
        found = work.attachments.get(uuid)
        work.jobs.hold(found.job_id)
        found = work.attachments.get(uuid)
        if found.received_bytes != offset or found.is_here:
            raise NotThere(received_bytes=found.received_bytes)
        if offset + len(content) > found.total_bytes:
            raise BadField(field="size", reason=f"more than the {found.total_bytes} bytes announced have come.")
        return work.files.append(found.file_id, content)

    return in_unit(database, kept)


def look_over(database: Database, uuid: str) -> AttachmentRecord:
    """Read a parcel whose bytes are all there; what cannot be used is sent back whole.

    Raises
    ------
    FileProblem
        It is not what it should be; nothing of it is kept.
    """
    with UnitOfWork(database) as work:
        found = work.attachments.get(uuid)
    if found.is_here:
        return found
    if found.received_bytes != found.total_bytes:
        raise NotThere(received_bytes=found.received_bytes)
    try:
        with tempfile.TemporaryDirectory(prefix="eager-ear-") as scratch:
            path = Path(scratch) / "bytes"
            digest = _fetch(database, found, path)
            keep = _photo(path, found) if found.purpose == "photo" else _recording(path, found)
            return in_unit(database, lambda work: keep(work, found, digest))
    except FileProblem:
        in_unit(database, lambda work: forget_bytes(work, work.attachments.get(uuid)))
        raise


Keep = Callable[[UnitOfWork, AttachmentRecord, str], AttachmentRecord]


def _recording(path: Path, found: AttachmentRecord) -> Keep:
    read = inspect_recording(path, name=found.name)

    def keep(work: UnitOfWork, found: AttachmentRecord, digest: str) -> AttachmentRecord:
        work.jobs.hold(found.job_id)
        if (now := work.attachments.get(found.id)).is_here:
            return now
        work.files.finish(found.file_id)
        work.attachments.checked(found.id, facts={**asdict(read), "sent_sha256": digest})
        return work.attachments.get(found.id)

    return keep


def _photo(path: Path, found: AttachmentRecord) -> Keep:
    photo = inspect_photo(path, name=found.name)

    def keep(work: UnitOfWork, found: AttachmentRecord, digest: str) -> AttachmentRecord:
        work.jobs.hold(found.job_id)
        if (now := work.attachments.get(found.id)).is_here:
            return now
        upright = work.files.keep(photo.upright(), now=now_utc())
        small = work.files.keep(photo.small(), now=now_utc())
        work.attachments.points_to(found.id, upright.id)
        work.files.forget(found.file_id)
        facts: Mapping[str, Any] = {"width": photo.width, "height": photo.height, "sent_sha256": digest}
        work.attachments.checked(found.id, facts=facts, small_file_id=small.id)
        return work.attachments.get(found.id)

    return keep


def _fetch(database: Database, found: AttachmentRecord, path: Path) -> str:
    """The bytes as a file; returns their checksum. A connection is held for one chunk at a time."""
    digest = hashlib.sha256()
    with path.open("wb") as sink:
        position = 0
        while position < found.received_bytes:
            with UnitOfWork(database) as work:
                chunk = work.files.chunk_at(found.file_id, position)
            if chunk is None:
                break
            sink.write(chunk[1])
            digest.update(chunk[1])
            position = chunk[0] + len(chunk[1])
    return digest.hexdigest()


def forget_bytes(work: UnitOfWork, found: AttachmentRecord) -> None:
    """Take a recording or photo out, and its bytes unless something else stands for the same."""
    work.attachments.forget(found.id)
    for file_id in (found.file_id, found.small_file_id):
        if file_id is not None:
            work.files.forget_unused(file_id)


def sweep(database: Database) -> int:
    """Forget bytes that began to arrive long ago and never came whole; returns how many of them there were.

    A device that still holds such a file begins it anew: to it nothing was ever said to be here.
    """
    with UnitOfWork(database) as work:
        left = work.attachments.never_came(before=now_utc() - KEPT_UNFINISHED)
        for found in left:
            forget_bytes(work, found)
    return len(left)


def is_the_same(found: AttachmentRecord, sha256: str) -> bool:
    """Whether bytes with this checksum are those that were sent under the id before."""
    return bool((found.facts or {}).get("sent_sha256", found.sha256) == sha256)


def store_whole(
    work: UnitOfWork, *, job_id: int, uuid: str, name: str, path: Path, facts: Mapping[str, Any]
) -> AttachmentRecord:
    """Keep a recording that was looked over already, such as one out of a case."""
    with path.open("rb") as source:
        file = work.files.keep(source, now=now_utc())
    return work.attachments.add(
        uuid=uuid,
        job_id=job_id,
        purpose="recording",
        name=name,
        total_bytes=file.size_bytes,
        file_id=file.id,
        now=now_utc(),
        facts=facts,
    )


__all__ = [
    "CHUNK_BYTES",
    "MOST_PHOTO_BYTES",
    "NotThere",
    "Parcel",
    "begin",
    "is_the_same",
    "look_over",
    "store_whole",
    "take_piece",
]
