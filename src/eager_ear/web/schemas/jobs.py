"""Jobs, machines, recordings, analyses as the interface sees them."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from eager_ear.core.case import HandCheck
from eager_ear.core.machine import Machine
from eager_ear.store import AnalysisSummary, JobRecord, RecordingRecord


class Strict(BaseModel):
    model_config = ConfigDict(extra="forbid")


class MachineIn(Strict):
    layout: str
    mains_hz: int | None = None
    max_spin_rpm: float | None = None
    pulley_ratio: float | None = None
    front_bearing: str | None = None
    rear_bearing: str | None = None
    spider_arms: int = 3
    age_years: float | None = None
    stacked: bool | None = None

    def to_core(self) -> Machine:
        return Machine(**self.model_dump())


class CheckIn(Strict):
    check: str
    values: dict[str, Any]


class JobIn(Strict):
    place: str = Field(min_length=1, max_length=200)
    machine: MachineIn
    symptoms: list[str] = []
    note: str = Field(default="", max_length=10_000)


class JobChange(Strict):
    """What is left out stays as it is."""

    place: str | None = Field(default=None, min_length=1, max_length=200)
    machine: MachineIn | None = None
    symptoms: list[str] | None = None
    note: str | None = Field(default=None, max_length=10_000)
    checks: list[CheckIn] | None = None


class RecordingOut(BaseModel):
    id: int
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

    @classmethod
    def of(cls, record: RecordingRecord) -> RecordingOut:
        facts = record.facts
        return cls(
            id=record.id,
            name=facts.name,
            kind=facts.kind,
            test=facts.test,
            run=facts.run,
            position=facts.position,
            load=facts.load,
            start_s=facts.start_s,
            power_cut_s=facts.power_cut_s,
            size_bytes=record.size_bytes,
            sha256=record.sha256,
            duration_s=record.duration_s,
            rate_hz=record.rate_hz,
        )


State = Literal["queued", "running", "done", "failed", "cancelled"]


class AnalysisOut(BaseModel):
    """State of an analysis; `stage` is one of `stages`, told while it runs."""

    id: int
    state: State
    stage: str | None
    error: str | None
    headline: str | None
    advice: str | None
    leader: str | None
    leader_probability: float | None
    code_version: str
    knowledge_version: str
    queued_at: datetime
    finished_at: datetime | None

    @classmethod
    def of(cls, summary: AnalysisSummary) -> AnalysisOut:
        return cls(
            id=summary.id,
            state=summary.state.value,
            stage=summary.stage,
            error=summary.error,
            headline=summary.headline,
            advice=summary.advice,
            leader=summary.leader,
            leader_probability=summary.leader_probability,
            code_version=summary.code_version,
            knowledge_version=summary.knowledge_version,
            queued_at=summary.queued_at,
            finished_at=summary.finished_at,
        )


class MachineOut(MachineIn):
    pass


class JobOut(BaseModel):
    id: int
    place: str
    case_id: str
    machine: MachineOut
    symptoms: list[str]
    note: str
    checks: list[CheckIn]
    created_at: datetime
    changed_at: datetime
    recordings: list[RecordingOut]
    analysis: AnalysisOut | None
    call: AnalysisOut | None = Field(description="the newest finished analysis")

    @classmethod
    def of(
        cls,
        job: JobRecord,
        recordings: list[RecordingRecord],
        newest: AnalysisSummary | None,
        done: AnalysisSummary | None,
    ) -> JobOut:
        machine = job.machine
        return cls(
            id=job.id,
            place=job.place,
            case_id=job.case_id,
            machine=MachineOut(**{name: getattr(machine, name) for name in MachineOut.model_fields}),
            symptoms=list(job.symptoms),
            note=job.note,
            checks=[_check_out(c) for c in job.checks],
            created_at=job.created_at,
            changed_at=job.changed_at,
            recordings=[RecordingOut.of(r) for r in recordings],
            analysis=AnalysisOut.of(newest) if newest else None,
            call=AnalysisOut.of(done) if done else None,
        )


def _check_out(check: HandCheck) -> CheckIn:
    return CheckIn(check=check.check, values=dict(check.values))


class BoardOut(BaseModel):
    jobs: list[JobOut]
