"""A job's spin beside those of other visits."""

from __future__ import annotations

from dataclasses import dataclass

from eager_ear.core.curves import profile_of
from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.sound import ProfileComparison, compare_profiles
from eager_ear.store import JobRecord, NotFound, UnitOfWork

# How many visits to machines of one layout a spin is compared with, the newest.
MOST_BESIDE = 40
# How many of them at most are read and compared with: the spread of twenty is known to a sixth of itself.
MOST_AGAINST = 20


@dataclass(frozen=True, kw_only=True)
class OtherSpin:
    """Another visit whose spin can be laid beside this one's. same_machine : a visit to the very same one."""

    job: JobRecord
    same_machine: bool

    @property
    def is_sound(self) -> bool:
        """Whether it was called sound, more likely than not."""
        call = self.job.call
        return call is not None and call.leader == "none" and call.leader_probability > 0.5


@dataclass(frozen=True, kw_only=True)
class SpinsBeside:
    """What a job's spin can be compared with, the same machine first, and the comparison that was asked for.

    against : the visits compared with; reason : why there is no comparison
    """

    choices: tuple[OtherSpin, ...]
    against: tuple[OtherSpin, ...]
    comparison: ProfileComparison | None
    reason: str | None


def spins_beside(work: UnitOfWork, job_uuid: str, *, other: str | None) -> SpinsBeside:
    """Compare a job's spin with another visit's; with all that were called sound when `other` is None.

    Only machines of the same layout compare. Raises NotFound for a job or another visit that cannot be found.
    """
    job = work.jobs.get(job_uuid)
    layout = job.summary.layout
    others = [] if layout is None else work.jobs.of_layout(layout, limit=MOST_BESIDE)
    others = [o for o in others if o.id != job.id and o.call is not None]
    heard = work.measurements.with_profile([o.id for o in others])
    choices = [OtherSpin(job=o, same_machine=o.machine_id == job.machine_id) for o in others if o.id in heard]
    choices.sort(key=lambda c: not c.same_machine)
    against = [c for c in choices if (c.is_sound if other is None else c.job.uuid == other)][:MOST_AGAINST]
    # Only what is compared is read: a profile is long, and those of hundreds of machines are not.
    stored = work.measurements.profiles([job.id, *(c.job.id for c in against)])
    profiles = {job_id: profile_of({"profile": profile}) for job_id, profile in stored.items()}
    if other is not None and not against:
        raise NotFound(kind="spin of another visit to compare with", key=other)
    comparison, reason = None, None
    profile = profiles.get(job.id)
    if profile is None:
        reason = "No spin of this job has been measured by speed."
    else:
        try:
            comparison = compare_profiles(profile, [p for c in against if (p := profiles.get(c.job.id)) is not None])
        except NotMeasurable as problem:
            reason = problem.reason
    return SpinsBeside(choices=tuple(choices), against=tuple(against), comparison=comparison, reason=reason)
