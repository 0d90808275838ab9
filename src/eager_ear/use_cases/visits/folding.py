"""A job as its diary tells it, read from the store."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.visit import Entry, Visit, fold_machine, fold_visit, part_due, waits_for, words_of
from eager_ear.store import CallSummary, JobRecord, JobSummary, UnitOfWork


@dataclass(frozen=True, kw_only=True)
class FoldedJob:
    """A job, its diary, and what that says."""

    job: JobRecord
    entries: Sequence[Entry]
    visit: Visit

    @property
    def case_id(self) -> str:
        return self.job.case_id or self.job.uuid

    def show(self, work: UnitOfWork, call: CallSummary | None, *, knowledge: Knowledge) -> None:
        """Tell the lists what they show of it, and by which words it is found. call : the newest"""
        headline = call.headline if call is not None else ""
        words = words_of(self.visit, headline=headline, knowledge=knowledge)
        work.jobs.show(self.job.id, self._summary(call), words=words)

    def _summary(self, call: CallSummary | None) -> JobSummary:
        story = self.visit.story
        return JobSummary(
            place=story.place,
            layout=story.facts.get("layout"),
            check_count=len(self.visit.hands.checks),
            recording_count=len(self.visit.spin.recordings),
            bridged=bool(self.visit.any_time.bridged),
            closed=self.visit.any_time.closed,
            rings_at=min((timer.rings_at for timer in self.visit.any_time.timers), default=None),
            due_on=self.visit.proof.next_due,
            waits_for=waits_for(self.visit, advice=call.advice if call is not None else None),
            part_on=part_due(self.visit),
            ours=self.visit.stock.taken_in is not None,
        )


def folded(work: UnitOfWork, job: JobRecord, *, knowledge: Knowledge) -> FoldedJob:
    """Fold a job's diary over what earlier visits to its machine told."""
    entries = work.entries.of_job(job.id)
    others = work.entries.about_machine(job.machine_id, but_job=job.id)
    earlier = [entry for entry in others if entry.counts_at < job.created_at]
    known = fold_machine(earlier, knowledge=knowledge) if earlier else {}
    return FoldedJob(job=job, entries=entries, visit=fold_visit(entries, knowledge=knowledge, known=known))
