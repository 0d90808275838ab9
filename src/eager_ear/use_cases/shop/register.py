"""The register of machines: suggestions for a person to choose from, and a machine with its visits."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from eager_ear.core.curves import profile_of
from eager_ear.core.signals.sound import LevelAtSpeed, levels_at_speeds
from eager_ear.store import JobRecord, MachineRecord, UnitOfWork

MOST_SUGGESTED, MOST_LISTED = 6, 24


@dataclass(frozen=True, kw_only=True)
class KnownMachine:
    """A machine with its visits, newest first, what was surely found at each, by its id, and notes on its platform.

    column_with : the machine that stands in one column with it
    """

    machine: MachineRecord
    visits: tuple[JobRecord, ...]
    found: Mapping[str, tuple[str, ...]]
    platform_notes: tuple[str, ...]
    column_with: MachineRecord | None


def known_machine(work: UnitOfWork, uuid: str) -> KnownMachine:
    """Raises NotFound."""
    (known,) = _with_visits(work, [work.machines.get(uuid)])
    return known


def machines_like(work: UnitOfWork, *, place: str) -> list[KnownMachine]:
    """Machines at a place that sounds like this one; the last changed ones when no place is given.

    Where all its words are met comes first, however long ago that was.
    """
    if not place.strip():
        return _real(work, work.machines.newest(limit=MOST_LISTED))
    met = _visited(work, place, limit=MOST_SUGGESTED)
    words = place.casefold().split()
    found = {m.id: m for m in met if all(word in m.place.casefold() for word in words)}
    found |= {m.id: m for m in work.machines.like(place, limit=MOST_SUGGESTED) if m.id not in found}
    return _real(work, list(found.values())[:MOST_SUGGESTED])


def machines_found(work: UnitOfWork, *, looked_for: str) -> list[KnownMachine]:
    """Machines of which a visit holds all these words, each as the beginning of one; last visited first."""
    return _real(work, _visited(work, looked_for, limit=MOST_LISTED))


def _visited(work: UnitOfWork, looked_for: str, *, limit: int) -> list[MachineRecord]:
    return work.machines.by_ids(work.jobs.machines_visited(looked_for, limit=limit))


def _real(work: UnitOfWork, found: Sequence[MachineRecord]) -> list[KnownMachine]:
    # Machines that only stand in practice jobs are none.
    return [m for m in _with_visits(work, found) if not m.visits or not all(job.practice for job in m.visits)]


def _with_visits(work: UnitOfWork, machines: Sequence[MachineRecord]) -> list[KnownMachine]:
    """All of them in four questions to the database, however many they are."""
    visits = work.jobs.of_machines([machine.id for machine in machines])
    machine_of = {job.id: machine_id for machine_id, jobs in visits.items() for job in jobs}
    found = work.outcomes.found_at(list(machine_of))
    columns = work.machines.in_columns(machines)
    notes: dict[int, list[str]] = defaultdict(list)
    for job_id, text in work.entries.notes_about(list(machine_of), about="platform"):
        notes[machine_of[job_id]].append(text)
    return [
        KnownMachine(
            machine=machine,
            visits=tuple(visits[machine.id]),
            found={job.uuid: found[job.id] for job in visits[machine.id] if job.id in found},
            platform_notes=tuple(notes[machine.id]),
            column_with=columns.get(machine.id),
        )
        for machine in machines
    ]


@dataclass(frozen=True, kw_only=True)
class SpinOfVisit:
    """The spin of one visit, by speed."""

    job: JobRecord
    levels: tuple[LevelAtSpeed, ...]


def spins_of(work: UnitOfWork, uuid: str) -> list[SpinOfVisit]:
    """The spins of all visits to a machine, oldest first. Raises NotFound."""
    machine = work.machines.get(uuid)
    visits = {job.id: job for job in work.jobs.of_machine(machine.id)}
    out = []
    for job_id, stored in work.measurements.profiles(list(visits)).items():
        profile = profile_of({"profile": stored})
        if profile is None:
            continue
        levels = levels_at_speeds(profile)
        if levels:
            out.append(SpinOfVisit(job=visits[job_id], levels=levels))
    return sorted(out, key=lambda spin: spin.job.created_at)
