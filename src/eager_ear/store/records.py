"""What the store hands out: frozen values, no rows."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, datetime
from enum import StrEnum
from typing import Any


class MeasuringState(StrEnum):
    """`none`: nothing to measure; `asked`: it is still to be found out what there is to measure."""

    NONE = "none"
    ASKED = "asked"
    QUEUED = "queued"
    RUNNING = "running"
    DONE = "done"
    FAILED = "failed"
    CANCELLED = "cancelled"


@dataclass(frozen=True, kw_only=True)
class MachineRecord:
    """One machine of the register. sheet : id of the service sheet that it goes by"""

    id: int
    uuid: str
    place: str
    layout: str | None
    facts: Mapping[str, Any]
    sheet: str | None
    changed_at: datetime


@dataclass(frozen=True, kw_only=True)
class SheetRecord:
    """A service sheet as somebody read it. photo_job : the visit at which it was photographed."""

    uuid: str
    layout: str
    name: str
    slots: Mapping[str, Any]
    photo_job: str
    changed_by: str
    changed_at: datetime


@dataclass(frozen=True, kw_only=True)
class JobSummary:
    """What lists show of a job, kept beside its diary. rings_at : when its next wait is over, or was;
    due_on : when somebody comes back to it; waits_for : what comes next; part_on : when its last part comes;
    ours : the machine was taken in, it has no customer."""

    place: str
    layout: str | None
    check_count: int
    recording_count: int
    bridged: bool
    closed: str | None
    rings_at: datetime | None
    due_on: date | None
    waits_for: str
    part_on: date | None
    ours: bool = False


@dataclass(frozen=True, kw_only=True)
class CallSummary:
    """The newest call in short."""

    id: int
    headline: str
    advice: str
    leader: str
    leader_probability: float


@dataclass(frozen=True, kw_only=True)
class JobRecord:
    """One visit to one machine, without its diary."""

    id: int
    uuid: str
    machine_id: int
    case_id: str
    created_at: datetime
    changed_at: datetime
    last_seq: int
    revision: int
    practice: bool
    measuring: MeasuringState
    summary: JobSummary
    call: CallSummary | None


@dataclass(frozen=True, kw_only=True)
class FileRecord:
    """Bytes that are complete."""

    id: int
    sha256: str
    size_bytes: int


@dataclass(frozen=True, kw_only=True)
class AttachmentRecord:
    """Something sent to a job under its own id. received_bytes : how much of it has arrived."""

    id: str
    job_id: int
    purpose: str
    name: str
    total_bytes: int
    received_bytes: int
    file_id: int
    sha256: str | None
    small_file_id: int | None
    facts: Mapping[str, Any] | None
    created_at: datetime

    @property
    def is_here(self) -> bool:
        """Whether all bytes have arrived and were checked."""
        return self.sha256 is not None and self.facts is not None


@dataclass(frozen=True, kw_only=True)
class MeasurementRecord:
    """One run of recordings, measured or not yet, without the long results."""

    id: int
    content: str
    code_version: str
    state: MeasuringState
    stage: str | None
    error: str | None
    owner: str | None
    request: Mapping[str, Any]
    queued_at: datetime
    finished_at: datetime | None


@dataclass(frozen=True, kw_only=True)
class CallRecord:
    """A call with its whole result; `curves` only where it was made before measurements were kept by themselves."""

    id: int
    job_id: int
    seq: int
    code_version: str
    knowledge_version: str
    result: Mapping[str, Any]
    curves: Mapping[str, Any] | None
    weighed_at: datetime


@dataclass(frozen=True, kw_only=True)
class PriceRecord:
    """What a part or service costs, in the currency's smallest unit, and who said so when.

    platform : the service sheet or the layout that it was said for, empty where neither was known
    """

    code: str
    amount: int
    currency: str
    source: str
    available_on: date | None
    returnable: bool
    said_at: datetime
    platform: str = ""


@dataclass(frozen=True, kw_only=True)
class UsedPartRecord:
    """A used part on the shelf.

    job : from which it came, by its id; place : of that machine; hours : that it has run, as was said
    fitted_in : a job's id
    """

    entry: str
    job: str
    place: str
    layout: str | None
    sheet: str | None
    part: str
    condition: str
    shelf: str
    hours: int | None
    kept_at: datetime
    fitted_in: str | None = None


@dataclass(frozen=True, kw_only=True)
class ShownCodeRecord:
    """What a code on the display of a layout's machines means, and when that was said."""

    layout: str
    text: str
    means: str
    said_at: datetime


@dataclass(frozen=True, kw_only=True)
class PersonRecord:
    """Somebody of the shop. password : its hash; failures : wrong ones in a row."""

    id: int
    uuid: str
    name: str
    role: str
    password: str
    disabled: bool
    failures: int
    locked_until: datetime | None
    pace: float | None = None


@dataclass(frozen=True, kw_only=True)
class SignInRecord:
    """A device that is signed in. token : checksum of what it holds."""

    token: str
    person_id: int
    device: str
    created_at: datetime
    seen_at: datetime


@dataclass(frozen=True, kw_only=True)
class AuditRecord:
    at: datetime
    who: str
    what: str
    about: str
