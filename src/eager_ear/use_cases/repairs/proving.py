"""The proof of a job: which tests its repair asks for, how each stands, and the machine before and after."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from eager_ear.core.curves import profile_of
from eager_ear.core.diagnosis import Knowledge, leading_run
from eager_ear.core.diagnosis.evidence import Shown
from eager_ear.core.proof import BeforeAfter, Look, Witness, compare_before_after, witness
from eager_ear.core.repair import Path, ProofTest, Word
from eager_ear.core.visit import Proved, Visit
from eager_ear.store import JobRecord, UnitOfWork
from eager_ear.use_cases.clock import now_utc
from eager_ear.use_cases.repairs.stripping import strip_for
from eager_ear.use_cases.visits.shown import shown_of

# A note about a proof says why it was left out.
LEFT_OUT = "proof:"
MOST_LOADS = 1000


@dataclass(frozen=True, kw_only=True)
class TestState:
    """One test: passed, failed, left out with its reason, or still open."""

    test: ProofTest
    optional: bool
    passed: bool | None
    left_out: str


@dataclass(frozen=True, kw_only=True)
class DueProposed:
    """When the shop would come back, and for what."""

    due: date
    what: str


@dataclass(frozen=True, kw_only=True)
class Proving:
    """proved : every test that is not optional passed; before_after : None until both spins are measured.

    waiting : why there is no comparison yet
    parts : that the repair renews
    cloths, marks : what a loaded spin and painted marks are led through with
    """

    tests: tuple[TestState, ...]
    proved: bool
    before_after: BeforeAfter | None
    waiting: str
    follow_ups: tuple[DueProposed, ...]
    advice: tuple[str, ...]
    gates_open: tuple[str, ...]
    parts: tuple[Word, ...]
    cloths: tuple[Word, ...]
    marks: Witness


def proof_for(work: UnitOfWork, job: JobRecord, *, knowledge: Knowledge) -> Proving:
    """How far the proof of a job is. Raises NothingToOffer where the layout is not known."""
    stripping = strip_for(work, job, knowledge=knowledge)
    visit, repair = stripping.visit, knowledge.repair
    tests = tuple(
        _state(repair.proofs[code.removesuffix("?")], visit, optional=code.endswith("?"))
        for code in stripping.plan.proofs
    )
    before_after, waiting = _before_after(work, job, visit, knowledge)
    return Proving(
        tests=tests,
        proved=bool(tests) and all(t.passed or t.optional for t in tests),
        before_after=before_after,
        waiting=waiting,
        follow_ups=_due(stripping.paths, visit, knowledge),
        advice=tuple(dict.fromkeys(repair.advice[f] for p in stripping.paths for f in p.faults if f in repair.advice)),
        gates_open=tuple(
            f"{g.gate.asks}: {g.missing}" for g in stripping.gates if g.missing and g.gate.code != "no_way_back"
        ),
        parts=tuple(Word(code=code, name=repair.parts[code].name, says="") for code in stripping.plan.parts),
        cloths=tuple(Word(code=c.code, name=c.name, says=c.reason) for c in repair.guides.cloths.values()),
        marks=witness([_look(mark) for mark in visit.proof.marks], repair.guides.witness),
    )


def _look(mark: Proved) -> Look:
    """One look at the marks as it was entered: numbers that are none are left out."""
    loads, play, photo = (mark.values.get(key) for key in ("loads", "play_mm", "photo"))
    return Look(
        at=mark.at,
        loads=int(loads) if isinstance(loads, int | float) and 0 <= loads <= MOST_LOADS else 0,
        moved=not mark.passed or mark.values.get("moved") is True,
        play_mm=float(play) if isinstance(play, int | float) and not isinstance(play, bool) else None,
        photo=photo if isinstance(photo, str) else None,
        entry=mark.entry,
    )


def _state(test: ProofTest, visit: Visit, *, optional: bool) -> TestState:
    said = next((p for p in visit.proof.proved if p.test == test.code), None)
    return TestState(
        test=test,
        optional=optional,
        passed=said.passed if said is not None else None,
        left_out=visit.any_time.notes_about(f"{LEFT_OUT}{test.code}"),
    )


def _before_after(
    work: UnitOfWork, job: JobRecord, visit: Visit, knowledge: Knowledge
) -> tuple[BeforeAfter | None, str]:
    if visit.repair_from is None:
        return None, "Nothing was closed yet: what is recorded now is the machine before its repair."
    spins = {after: _lead(shown_of(work, job.id, after=after)) for after in (False, True)}
    before, after = spins[False], spins[True]
    if before is None:
        return None, "No spin was recorded before the repair: there is nothing to hold the new one against."
    if after is None and visit.any_time.closed is not None:
        return None, "No spin was recorded after the repair, so before and after are not compared."
    if after is None:
        return None, "Record an empty spin now: same place, same floor, phone where it lay before."
    profiles = work.measurements.profiles_of(job.id)
    pair = tuple(profile_of({"profile": profiles[s.key]}) if s.key in profiles else None for s in (before, after))
    compared = compare_before_after(before, after, findings=knowledge.findings, profiles=(pair[0], pair[1]))
    return compared, ""


def _lead(shown: Sequence[Shown]) -> Shown | None:
    return leading_run([s for s in shown if s.test == "spin"])


def _due(paths: Sequence[Path], visit: Visit, knowledge: Knowledge) -> tuple[DueProposed, ...]:
    """What each path asks for later, without what is on the board already."""
    today = now_utc().date()
    known = {f["what"] for f in visit.proof.follow_ups}
    due: Mapping[str, DueProposed] = {
        d.what: DueProposed(due=today + timedelta(days=d.days), what=d.what)
        for p in paths
        for d in knowledge.repair.follow_ups[p.follow_up]
        if d.what not in known
    }
    return tuple(sorted(due.values(), key=lambda d: d.due))
