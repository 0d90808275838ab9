"""Writing in a job's diary: each entry is taken or refused by itself, and what follows from them is done at once."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.errors import BadField
from eager_ear.core.fields import uuid_text
from eager_ear.core.visit import (
    CLOCK_TOLERANCE,
    Entry,
    Visit,
    fold_machine,
)
from eager_ear.ids import uuid7
from eager_ear.store import Conflict, Database, JobRecord, UnitOfWork, in_unit
from eager_ear.use_cases.clock import now_utc
from eager_ear.use_cases.diagnosis.weighing import refresh
from eager_ear.use_cases.shop.people import NotAllowed
from eager_ear.use_cases.shop.platform import remember_codes
from eager_ear.use_cases.shop.record import knowledge_of_shop, note_outcome
from eager_ear.use_cases.shop.shop import remember_prices
from eager_ear.use_cases.shop.stock import note_parts
from eager_ear.use_cases.visits.folding import FoldedJob, folded
from eager_ear.use_cases.visits.pen import Pen, Refused, Sender, Taken

MOST_ENTRIES = 500
# A job that was begun longer ago was begun by a clock that is off.
OLDEST_BEGUN = timedelta(days=1200)
# What changes the odds, or what is to be measured.
EVIDENCE = frozenset(
    {
        "machine",
        "told",
        "code_shown",
        "check",
        "recording",
        "recording_removed",
        "set_aside",
        "called",
        "seen",
        # From where closing begins, and whether a proof failed, decides which machine is weighed: found or mended.
        "step",
        "proved",
    }
)

# What tells how a job ended, without changing its odds.
ENDING = frozenset({"found", "closed", "reopened"})


# What comes onto the shelf of used parts or leaves it.
SHELF = frozenset({"kept_part", "fitted_used"})


@dataclass(frozen=True, kw_only=True)
class Written:
    """What became of each entry, and the job after them. clock_off_s : of the device, where it matters."""

    outcomes: tuple[Taken | Refused, ...]
    found: FoldedJob
    clock_off_s: float | None


def open_job(
    database: Database,
    *,
    uuid: str,
    entries: Sequence[Any],
    sender: Sender,
    knowledge: Knowledge,
    case_id: str = "",
    practice: bool = False,
) -> Written:
    """Open a job under the id that its device gave it, and write its first entries. The same id again: the same job.

    practice : to learn by, counting for nothing; one that counts is never written to as such
    """
    job_uuid = uuid_text(uuid, field="id")

    def opened(work: UnitOfWork) -> Written:
        job = work.jobs.find(job_uuid)
        if job is None:
            now = now_utc()
            begun = _first_moment(entries, now)
            machine = work.machines.add(uuid=uuid7(now), now=now)
            job = work.jobs.add(uuid=job_uuid, machine_id=machine.id, case_id=case_id, now=begun, practice=practice)
        elif practice and not job.practice:
            raise NotAllowed
        return write(work, job, entries=entries, sender=sender, knowledge=knowledge, always_refresh=True)

    try:
        return in_unit(database, opened)
    except Conflict:
        # Somebody opened it at the same moment: now it is there.
        return in_unit(database, opened)


def write_entries(
    database: Database, *, job_uuid: str, entries: Sequence[Any], sender: Sender, knowledge: Knowledge
) -> Written:
    """Write entries into a job's diary. Raises NotFound."""
    return in_unit(
        database,
        lambda work: write(work, work.jobs.get(job_uuid), entries=entries, sender=sender, knowledge=knowledge),
    )


def write(
    work: UnitOfWork,
    job: JobRecord,
    *,
    entries: Sequence[Any],
    sender: Sender,
    knowledge: Knowledge,
    always_refresh: bool = False,
) -> Written:
    """Write entries within a unit of work. Raises BadField for more than `MOST_ENTRIES` at once."""
    if len(entries) > MOST_ENTRIES:
        raise BadField(field="entries", reason=f"{len(entries)} at once are more than {MOST_ENTRIES}.")
    job = work.jobs.hold(job.id)
    pen = Pen(work, job, entries, sender=sender, knowledge=knowledge)
    outcomes = tuple(pen.put(data) for data in entries)
    if pen.added:
        work.jobs.wrote(job.id, last_seq=pen.last_seq, now=now_utc())
    if any(entry.kind == "machine" for entry in pen.added):
        _register(work, job, pen.visit(), knowledge=knowledge)
    job = work.jobs.by_id(job.id)
    if always_refresh or any(entry.kind in EVIDENCE for entry in pen.added):
        found = refresh(work, job, knowledge=knowledge)
    else:
        found = folded(work, job, knowledge=knowledge)
        if pen.added:
            found.show(work, job.call, knowledge=knowledge)
        if any(entry.kind in ENDING for entry in pen.added):
            note_outcome(work, found, knowledge=knowledge_of_shop(work, knowledge=knowledge))
    if any(entry.kind in ("machine", "code_shown") for entry in pen.added):
        remember_codes(work, found, pen.added)
    remember_prices(work, found, pen.added)
    if any(entry.kind in SHELF for entry in pen.added):
        note_parts(work, found)
    _stand_by(work, job, pen.added)
    work.session.expire_all()
    off_s = sender.clock_off_s(now_utc())
    off_s = off_s if off_s is not None and abs(off_s) > CLOCK_TOLERANCE.total_seconds() else pen.ahead_s
    return Written(
        outcomes=outcomes,
        found=FoldedJob(job=work.jobs.by_id(job.id), entries=found.entries, visit=found.visit),
        clock_off_s=off_s,
    )


def _register(work: UnitOfWork, job: JobRecord, visit: Visit, *, knowledge: Knowledge) -> None:
    """Keep the register: which machine this is a visit to, and what is known of it from now on."""
    now = now_utc()
    present = work.machines.by_id(job.machine_id)
    wanted = visit.story.known_as
    if wanted is not None and wanted != present.uuid:
        known = work.machines.get(wanted)
        work.jobs.visit(job.id, machine_id=known.id)
        work.session.expire_all()
        if not work.jobs.of_machine(present.id):
            work.machines.forget(present.id)
        present = known
    elif wanted is None and _said_to_be(work, job, present.uuid):
        # Nobody says any more that it is that one.
        present = work.machines.add(uuid=uuid7(now), now=now)
        work.jobs.visit(job.id, machine_id=present.id)
        work.session.expire_all()
    said = work.entries.about_machine(present.id)
    # Met when somebody stood before it, however late that was sent.
    met = min(now, max((entry.counts_at for entry in said), default=now))
    work.machines.know(present.id, fold_machine(said, knowledge=knowledge), now=met)


def _said_to_be(work: UnitOfWork, job: JobRecord, machine_uuid: str) -> bool:
    """Whether this job ever said that it is a visit to that machine, taken back since or not."""
    said = (e.body or {} for e in work.entries.of_job(job.id) if e.kind == "machine")
    return any(body.get("known_as") == machine_uuid for body in said)


def _stand_by(work: UnitOfWork, job: JobRecord, added: Sequence[Entry]) -> None:
    """A call that somebody made on a product's call keeps that as it was."""
    newest = work.jobs.by_id(job.id).call
    for entry in added:
        if entry.kind == "called" and entry.body is not None:
            named = str(entry.body.get("analysis") or (newest.id if newest is not None else ""))
            if named.isdigit():
                work.calls.stand_by(job.id, int(named))


def _first_moment(entries: Sequence[Any], now: datetime) -> datetime:
    """When a job was begun: its first entry, where the device's clock can be believed."""
    moments: list[datetime] = []
    for data in entries:
        try:
            moment = datetime.fromisoformat(str(data["made_at"]))
        except (ValueError, KeyError, TypeError):
            continue
        if moment.tzinfo is not None and timedelta(0) <= now - moment <= OLDEST_BEGUN:
            moments.append(moment)
    return min(moments, default=now)
