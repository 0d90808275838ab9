"""Jobs as the interface sees them: what the diary says, how far measuring is, the call in short."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date, datetime
from typing import Any, cast

from pydantic import BaseModel

from eager_ear.core.visit import WAITS, AnyTime, Cost, Disagreement, Proof, Strip, Visit, WaitsFor
from eager_ear.core.visit.call import Called, SetAside
from eager_ear.core.visit.stock import Stock
from eager_ear.core.visit.story import CodeShown, Told
from eager_ear.store import AttachmentRecord, CallSummary, JobRecord, MachineRecord, MeasuringState
from eager_ear.use_cases.diagnosis.weighing import Measuring
from eager_ear.web.schemas.base import Strict

__all__ = ["BoardOut", "JobOut", "JobShortOut", "MachineFacts", "RecordingOut", "Strict"]


class Bearings(BaseModel):
    front: str | None = None
    rear: str | None = None


class MachineFacts(BaseModel):
    """What is known of the machine, by the case format's keys."""

    layout: str | None = None
    mains_hz: int | None = None
    max_spin_rpm: float | None = None
    pulley_ratio: float | None = None
    bearings: Bearings = Bearings()
    spider_arms: int | None = None
    age_years: float | None = None
    stacked: bool | None = None
    serial_note: str | None = None
    acquired: str | None = None
    column_with: str | None = None


class RecordingOut(BaseModel):
    """id : under which its bytes are found; entry : that of the diary which names it."""

    id: str
    entry: str
    name: str
    kind: str
    test: str
    run: str | None
    position: str | None
    load: str | None
    start_s: float
    power_cut_s: float | None
    size_bytes: int
    sha256: str
    duration_s: float
    rate_hz: float | None
    warnings: list[str]


class PhotoOut(BaseModel):
    id: str
    entry: str
    about: str | None
    role: str | None
    width: int | None
    height: int | None


class CheckOut(BaseModel):
    """A hand check with its latest values, those before, and the entry that holds it."""

    check: str
    values: dict[str, Any]
    entry: str
    before: list[dict[str, Any]]


class MeasuringOut(BaseModel):
    """How far the measuring of the recordings is."""

    state: MeasuringState
    stage: str | None
    error: str | None

    @classmethod
    def of(cls, measuring: Measuring) -> MeasuringOut:
        return cls(state=measuring.state, stage=measuring.stage, error=measuring.error)


class CallShort(BaseModel):
    """The call in short; `id` changes only with the call that somebody stands by, `weighed` with every weighing."""

    id: int
    weighed: int
    headline: str
    advice: str
    leader: str
    leader_probability: float
    code_version: str = ""
    knowledge_version: str = ""

    @classmethod
    def of(cls, call: CallSummary | None, *, weighed: int, versions: tuple[str, str] = ("", "")) -> CallShort | None:
        if call is None:
            return None
        return cls(
            id=call.id,
            weighed=weighed,
            headline=call.headline,
            advice=call.advice,
            leader=call.leader,
            leader_probability=call.leader_probability,
            code_version=versions[0],
            knowledge_version=versions[1],
        )


class JobOut(BaseModel):
    """One job as its diary tells it. machine_id : in the register of machines."""

    id: str
    number: int
    practice: bool
    case_id: str
    created_at: datetime
    changed_at: datetime
    seq: int
    revision: int
    place: str
    machine_id: str
    known_as: str | None
    machine: MachineFacts
    learnt_here: list[str]
    contact: dict[str, Any]
    told: list[Told]
    codes_shown: list[CodeShown]
    symptoms: list[str]
    note: str
    checks: list[CheckOut]
    recordings: list[RecordingOut]
    photos: list[PhotoOut]
    set_aside: list[SetAside]
    called: Called | None
    cost: Cost
    strip: Strip
    proof: Proof
    any_time: AnyTime
    stock: Stock
    disagreements: list[Disagreement]
    measuring: MeasuringOut
    call: CallShort | None

    @classmethod
    def of(
        cls,
        job: JobRecord,
        visit: Visit,
        *,
        sent: Mapping[str, AttachmentRecord],
        measuring: Measuring,
        machine: MachineRecord,
        versions: tuple[str, str],
    ) -> JobOut:
        story = visit.story
        return cls(
            id=job.uuid,
            number=job.id,
            practice=job.practice,
            case_id=job.case_id,
            created_at=job.created_at,
            changed_at=job.changed_at,
            seq=job.last_seq,
            revision=job.revision,
            place=story.place,
            machine_id=machine.uuid,
            known_as=story.known_as,
            machine=MachineFacts.model_validate(story.facts),
            learnt_here=list(story.learnt_here),
            contact=dict(story.contact),
            told=list(story.told),
            codes_shown=list(story.codes_shown),
            symptoms=list(story.symptoms),
            note=visit.any_time.notes_about("story"),
            checks=[
                CheckOut(check=c.check, values=dict(c.values), entry=c.entry, before=[dict(b) for b in c.before])
                for c in visit.hands.checks
            ],
            recordings=_recordings(visit, sent),
            photos=_photos(visit, sent),
            set_aside=list(visit.call.set_aside),
            called=visit.call.called,
            cost=visit.cost,
            strip=visit.strip,
            proof=visit.proof,
            any_time=visit.any_time,
            stock=visit.stock,
            disagreements=list(visit.disagreements),
            measuring=MeasuringOut.of(measuring),
            call=CallShort.of(job.call, weighed=job.revision, versions=versions),
        )


def _recordings(visit: Visit, sent: Mapping[str, AttachmentRecord]) -> list[RecordingOut]:
    out: list[RecordingOut] = []
    for noted in visit.spin.recordings:
        attachment = sent.get(noted.recording)
        if attachment is None or attachment.facts is None:
            continue
        facts = noted.facts
        out.append(
            RecordingOut(
                id=noted.recording,
                entry=noted.entry,
                name=facts.name,
                kind=facts.kind,
                test=facts.test,
                run=facts.run,
                position=facts.position,
                load=facts.load,
                start_s=facts.start_s,
                power_cut_s=facts.power_cut_s,
                size_bytes=attachment.received_bytes,
                sha256=attachment.sha256 or "",
                duration_s=attachment.facts.get("duration_s") or 0.0,
                rate_hz=attachment.facts.get("rate_hz"),
                warnings=list(attachment.facts.get("warnings") or ()),
            )
        )
    return out


def _photos(visit: Visit, sent: Mapping[str, AttachmentRecord]) -> list[PhotoOut]:
    return [
        PhotoOut(
            id=p.photo,
            entry=p.entry,
            about=p.about,
            role=p.role,
            width=(attachment.facts or {}).get("width"),
            height=(attachment.facts or {}).get("height"),
        )
        for p in visit.any_time.photos
        if (attachment := sent.get(p.photo)) is not None
    ]


class JobShortOut(BaseModel):
    """What lists show of a job."""

    id: str
    number: int
    practice: bool
    created_at: datetime
    changed_at: datetime
    place: str
    layout: str | None
    check_count: int
    recording_count: int
    bridged: bool
    closed: str | None
    rings_at: datetime | None
    due_on: date | None
    waits_for: WaitsFor
    part_on: date | None
    ours: bool
    measuring: MeasuringState
    call: CallShort | None

    @classmethod
    def of(cls, job: JobRecord) -> JobShortOut:
        summary = job.summary
        return cls(
            id=job.uuid,
            number=job.id,
            practice=job.practice,
            created_at=job.created_at,
            changed_at=job.changed_at,
            place=summary.place,
            layout=summary.layout,
            check_count=summary.check_count,
            recording_count=summary.recording_count,
            bridged=summary.bridged,
            closed=summary.closed,
            rings_at=summary.rings_at,
            due_on=summary.due_on,
            waits_for=cast(WaitsFor, summary.waits_for if summary.waits_for in WAITS else "nothing"),
            part_on=summary.part_on,
            ours=summary.ours,
            measuring=job.measuring,
            call=CallShort.of(job.call, weighed=job.revision),
        )


class BoardOut(BaseModel):
    """waiting : how many jobs of all that have not ended wait for what, None where only some were asked for

    after : names the next page, None on the last
    """

    jobs: list[JobShortOut]
    waiting: dict[WaitsFor, int] | None
    after: str | None
