"""Keeping a job's call up to date: what is to be measured is queued, what is known is weighed, at once."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable, Iterable
from dataclasses import asdict, dataclass
from typing import Any

from eager_ear.core.case import RecordingFacts
from eager_ear.core.diagnosis import ENERGISED, Knowledge
from eager_ear.core.machine import Machine
from eager_ear.core.result import result_dict
from eager_ear.core.visit import Visit
from eager_ear.core.weigh import weigh
from eager_ear.store import (
    CallSummary,
    Database,
    JobRecord,
    MeasurementRecord,
    MeasuringState,
    Need,
    UnitOfWork,
    in_unit,
)
from eager_ear.use_cases.clock import now_utc
from eager_ear.use_cases.diagnosis.versions import code_version
from eager_ear.use_cases.shop.record import knowledge_of_shop, note_outcome
from eager_ear.use_cases.shop.shop import shop_of
from eager_ear.use_cases.visits.folding import FoldedJob, folded
from eager_ear.use_cases.visits.shown import AFTER, shown_of

# What a measurement of a moving machine depends on; age and place of a machine change nothing that is heard.
MEASURED_BY = ("layout", "mains_hz", "max_spin_rpm", "pulley_ratio", "front_bearing", "rear_bearing", "spider_arms")
MOVING = ("spin", *ENERGISED)


def refresh(work: UnitOfWork, job: JobRecord, *, knowledge: Knowledge) -> FoldedJob:
    """Fold a job, queue what its recordings want measured, weigh what is known, and tell the lists.

    The job is held by whoever calls.
    """
    found = folded(work, job, knowledge=knowledge)
    work.measurements.need(job.id, needs_of(work, found), code_version=code_version(), now=now_utc())
    sharpened = knowledge_of_shop(work, knowledge=knowledge)
    weigh_job(work, found, knowledge=sharpened)
    if found.visit.any_time.closed is not None:
        note_outcome(work, found, knowledge=sharpened)
    note_measuring(work, job.id)
    return found


def needs_of(work: UnitOfWork, found: FoldedJob) -> list[Need]:
    """The runs of a job's recordings, each with all that its measurement depends on."""
    machine = found.visit.story.machine
    if machine is None:
        return []
    sent = work.attachments.of_job(found.job.id)
    runs: dict[str, list[dict[str, Any]]] = {}
    for noted in found.visit.spin.recordings:
        attachment = sent.get(noted.recording)
        if attachment is None or not attachment.is_here:
            continue
        entry = {"sha256": attachment.sha256, "pa_per_fs": noted.pa_per_fs, **asdict(noted.facts)}
        run = noted.facts.run_key
        # The mended machine is measured by itself, whatever its recordings are called.
        runs.setdefault(f"{AFTER}{run}" if found.visit.is_after(noted.at) else run, []).append(entry)
    return [need_of(run, recordings, machine) for run, recordings in sorted(runs.items())]


def need_of(run: str, recordings: list[dict[str, Any]], machine: Machine) -> Need:
    """What the measuring of one run depends on, under the checksum of all of it."""
    moving = recordings[0]["test"] in MOVING
    request: dict[str, Any] = {
        "machine": {key: getattr(machine, key) for key in MEASURED_BY} if moving else None,
        "recordings": recordings,
    }
    text = json.dumps(request, sort_keys=True, ensure_ascii=True)
    return Need(run=run, content=hashlib.sha256(text.encode()).hexdigest(), request=request)


def facts_of_request(recording: dict[str, Any]) -> RecordingFacts:
    """The facts of one recording of a request."""
    return RecordingFacts(**{k: v for k, v in recording.items() if k not in ("sha256", "pa_per_fs")})


def weigh_job(work: UnitOfWork, found: FoldedJob, *, knowledge: Knowledge) -> CallSummary | None:
    """Weigh what is known of a job, keep the call and tell the lists; None as long as the layout is not known.

    A job that came from before measurements were kept by themselves keeps its call until they are made.
    """
    call = _weighed(work, found, knowledge=knowledge)
    found.show(work, call, knowledge=knowledge)
    return call


def _weighed(work: UnitOfWork, found: FoldedJob, *, knowledge: Knowledge) -> CallSummary | None:
    job = found.job
    case = found.visit.case(found.case_id)
    shown = shown_of(work, job.id, after=found.visit.proof_failed)
    if case is None:
        work.jobs.called(job.id, None)
        return None
    if _awaits_first_measurement(work, found, shown=len(shown)):
        return job.call
    weighed = weigh(
        case,
        shown=shown,
        knowledge=knowledge,
        set_aside=[s.finding for s in found.visit.call.set_aside],
        shop=shop_of(work, repair=knowledge.repair),
    )
    result = result_dict(weighed)
    leader = result["suspects"][0]
    call_id = work.calls.put(
        job.id,
        newest_id=job.call.id if job.call is not None else None,
        seq=max((e.seq for e in found.entries), default=0),
        code_version=code_version(),
        knowledge_version=knowledge.version,
        result=result,
        now=now_utc(),
    )
    call = CallSummary(
        id=call_id,
        headline=result["headline"],
        advice=result["advice"],
        leader=leader["fault"],
        leader_probability=leader["probability"],
    )
    work.measurements.lead(job.id, weighed.lead.key if weighed.lead is not None else None)
    work.jobs.called(job.id, call)
    return call


def _awaits_first_measurement(work: UnitOfWork, found: FoldedJob, *, shown: int) -> bool:
    """Whether a call made of recordings stands, and none of those has been measured yet under the present keeping."""
    job = found.job
    if shown or job.call is None or not found.visit.spin.recordings:
        return False
    return work.calls.get(job.call.id).curves is not None


@dataclass(frozen=True, kw_only=True)
class Measuring:
    """How far the measuring of a job's recordings is; `stage` and `error` of the run that has them."""

    state: MeasuringState
    stage: str | None
    error: str | None


def measuring_of(measurements: Iterable[MeasurementRecord]) -> Measuring:
    """All runs of a job as one state: what is under way first, then what went wrong."""
    runs = list(measurements)
    order = (
        MeasuringState.RUNNING,
        MeasuringState.QUEUED,
        MeasuringState.FAILED,
        MeasuringState.CANCELLED,
        MeasuringState.DONE,
    )
    for state in order:
        of_state = [m for m in runs if m.state is state]
        if of_state:
            return Measuring(state=state, stage=of_state[0].stage, error=of_state[0].error)
    return Measuring(state=MeasuringState.NONE, stage=None, error=None)


def note_measuring(work: UnitOfWork, job_id: int) -> None:
    """Tell the lists how far measuring is."""
    work.jobs.measuring(job_id, measuring_of(work.measurements.of_job(job_id).values()).state)


@dataclass(frozen=True, kw_only=True)
class Change:
    """What weighing again changed of one job."""

    place: str
    before: CallSummary | None
    after: CallSummary | None

    @property
    def is_one(self) -> bool:
        """Whether anybody would notice: another leader, other advice, or a percent more or less."""
        if self.before is None or self.after is None:
            return self.before is not self.after
        moved = abs(self.before.leader_probability - self.after.leader_probability)
        same = (self.before.leader, self.before.advice) == (self.after.leader, self.after.advice)
        return not same or moved >= 0.01


def reweigh_all(database: Database, *, knowledge: Knowledge, on_change: Callable[[Change], None]) -> int:
    """Weigh every job again by the present knowledge, measuring nothing; returns how many there are."""
    with UnitOfWork(database) as work:
        ids = work.jobs.ids()
    for job_id in ids:
        change = in_unit(database, lambda work, job_id=job_id: _reweighed(work, job_id, knowledge))  # type: ignore[misc]
        if change.is_one:
            on_change(change)
    return len(ids)


def _reweighed(work: UnitOfWork, job_id: int, knowledge: Knowledge) -> Change:
    job = work.jobs.hold(job_id)
    sharpened = knowledge_of_shop(work, knowledge=knowledge)
    after = weigh_job(work, folded(work, job, knowledge=knowledge), knowledge=sharpened)
    return Change(place=job.summary.place, before=job.call, after=after)


def visit_of(work: UnitOfWork, job: JobRecord, *, knowledge: Knowledge) -> Visit:
    return folded(work, job, knowledge=knowledge).visit
