"""The village's past: two years of ended jobs, told by a simulated technician who went by the product.

Made once by `./ear past`, shipped as data, and told again at loading as diary entries of long ago. Each machine's
faults are drawn as house calls meet them; the technician hears the story, makes the checks that the call asks for until
it decides, opens or leaves it accordingly, and notes at last what it really was. Some calls are wrong, as they are.
"""

from __future__ import annotations

import gzip
import json
from collections.abc import Iterable, Mapping
from datetime import datetime, timedelta
from importlib import resources
from typing import Any

import numpy as np

from eager_ear.core.case import Case, HandCheck
from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.diagnosis.posterior import hypotheses_for
from eager_ear.core.machine import LAYOUT_CODES, Machine
from eager_ear.core.simulate.customer import story_of
from eager_ear.core.simulate.technician import ACTS, Truth, hands_on
from eager_ear.core.weigh import weigh
from eager_ear.ids import uuid7
from eager_ear.store import Database, UnitOfWork, in_unit
from eager_ear.use_cases.clock import now_utc
from eager_ear.use_cases.visits.diary import open_job
from eager_ear.use_cases.visits.pen import Sender

FILE = "past.json.gz"
PAST = "past-"
FIRST_SEED = 40_000
JOBS = 66
DAYS = 720
MOST_CHECKS = 9
ASKED_LATER = 0.6
PLACES = (
    "Lock cottage 1, scullery",
    "Lock cottage 2, scullery",
    "Lock cottage 5, cellar",
    "Weir house, laundry",
    "Mill flat, ground floor",
    "Mill flat, attic",
    "Toll house",
    "Bargee's rest, kitchen",
    "Towpath farm, dairy",
    "Old ferry landing",
    "School by the sluice",
    "Reed cutter's barn",
    "Boat hire, drying room",
    "Eel smoker's yard",
    "Upper lock, pump room",
    "Chapel house",
    "Rope walk 4",
    "Rope walk 11",
    "Swing bridge house",
    "Willow court, flat 2",
    "Willow court, flat 6",
    "Fish ladder cabin",
    "Basin side, bakery",
    "Winding hole inn",
)


def make_past(knowledge: Knowledge, *, count: int = JOBS, first_seed: int = FIRST_SEED) -> list[dict[str, Any]]:
    """The jobs as plain data: place, days ago, what was entered after how many minutes, and what was true."""
    return [job for seed in range(first_seed, first_seed + count) for job in _visits(seed, knowledge)]


def _visits(seed: int, knowledge: Knowledge) -> list[dict[str, Any]]:
    """One machine's visit, and a second one where the fault was left in it."""
    rng = np.random.default_rng([seed, 21])
    layout = str(rng.choice(LAYOUT_CODES))
    hypotheses = hypotheses_for(layout, knowledge=knowledge)
    faults = tuple(sorted(hypotheses.sets[int(rng.choice(len(hypotheses.sets), p=hypotheses.prior))]))
    truth = Truth(layout=layout, faults=faults, strength=float(rng.uniform(0.3, 1.0)))
    place = str(rng.choice(PLACES))
    age = round(float(rng.uniform(2.0, 15.0)))
    days_ago = float(rng.uniform(90.0, DAYS))
    first = _visit(f"{PAST}{seed}", truth, place, age, days_ago, knowledge, rng)
    if not first["left"]:
        return [first]
    days_later = float(rng.uniform(10, 70))
    if not any(knowledge.faults[f].teardown != "none" for f in faults):
        # Some are asked weeks later whether it is quiet still.
        return [_known_later(first, ["none"], days_later) if rng.random() < ASKED_LATER else first]
    back = _visit(f"{PAST}{seed}-again", truth, place, age, days_ago - days_later, knowledge, rng)
    seen = next((body["faults"] for _, kind, body in back["entries"] if kind == "found"), None)
    # What the second visit found had been there at the first.
    return [_known_later(first, seen, days_later) if seen else first, {**back, "known_as": f"{PAST}{seed}"}]


def _known_later(job: dict[str, Any], faults: list[str], days_later: float) -> dict[str, Any]:
    """The job with what it was, as it turned out after so many days."""
    found = (round(days_later * 24 * 60 + 200.0, 1), "found", {"faults": faults, "not_there": [], "sure": True})
    return {**job, "entries": [*job["entries"], found]}


def _visit(
    case_id: str, truth: Truth, place: str, age: int, days_ago: float, knowledge: Knowledge, rng: np.random.Generator
) -> dict[str, Any]:
    told = story_of(truth, knowledge=knowledge, rng=rng)
    machine = Machine(layout=truth.layout)
    checks: list[HandCheck] = []
    entries: list[tuple[float, str, dict[str, Any]]] = [
        (0.0, "machine", {"place": place, "layout": truth.layout, "age_years": age})
    ]
    entries += [(1.0, "told", {"symptom": symptom, "present": True}) for symptom in told]
    minute = 2.0
    while True:
        case = Case(id=case_id, machine=machine, symptoms=told, checks=tuple(checks))
        call = weigh(case, shown=(), knowledge=knowledge).call
        asked = next((c for c in call.next_checks if c.check in ACTS), None)
        if call.advice in ("commit", "no_teardown") or asked is None or len(checks) >= MOST_CHECKS:
            break
        made = hands_on(truth, [asked.check], rng=rng)[0]
        minute += knowledge.checks[asked.check].minutes + 2.0
        checks.append(made)
        entries.append((minute, "check", {"check": made.check, "values": dict(made.values)}))
    leader = call.suspects[0].fault
    opens = call.advice == "commit"
    own = call.suspects[1].fault if opens and rng.random() < 0.08 else None
    named = {"faults": [own or leader], "advice": call.advice}
    entries.append((minute + 1, "called", {**named, "own_view": "It sounds like that to me."} if own else named))
    there = list(truth.faults) or ["none"]
    from_outside = all(knowledge.faults[f].teardown == "none" for f in truth.faults)
    left = not opens and not from_outside
    if opens:
        entries.append((minute + 4, "offered", {"options": [{"path": [], "total": 0, "currency": "EUR"}]}))
        entries.append((minute + 6, "decided", {"option": 0, "answer": "yes"}))
        minute += 90.0
    if not left:
        outcome = "mended" if truth.faults else "no_fault"
        entries.append((minute + 20, "found", {"faults": there, "not_there": [], "sure": True}))
        entries.append((minute + 25, "closed", {"outcome": outcome}))
    else:
        entries.append((minute + 20, "closed", {"outcome": "no_fault", "why": "nothing that could be shown"}))
    return {"case": case_id, "days_ago": round(days_ago, 2), "left": left, "entries": entries}


def past_as_bytes(jobs: Iterable[Mapping[str, Any]]) -> bytes:
    """The file: the same jobs are the same bytes."""
    return gzip.compress(json.dumps(list(jobs), separators=(",", ":")).encode(), mtime=0)


def read_past() -> list[dict[str, Any]]:
    """The jobs that ship with the product."""
    content = resources.files("eager_ear.host.village").joinpath(FILE).read_bytes()
    return list(json.loads(gzip.decompress(content)))


def tell_past(database: Database, knowledge: Knowledge, *, jobs: Iterable[Mapping[str, Any]] | None = None) -> None:
    """Tell the jobs that are not there yet, the oldest first, each at its own time."""
    now = now_utc()
    told = list(jobs if jobs is not None else read_past())
    with UnitOfWork(database) as work:
        missing = [job for job in told if not work.jobs.has_case(job["case"])]
    machines: dict[str, str] = {}
    for job in sorted(missing, key=lambda job: -job["days_ago"]):
        began = now - timedelta(days=job["days_ago"])
        entries = [_entry(kind, body, began + timedelta(minutes=minute)) for minute, kind, body in job["entries"]]
        if (known_as := machines.get(job.get("known_as", ""))) is not None:
            entries[0]["body"] = {**entries[0]["body"], "known_as": known_as}
        written = open_job(
            database, uuid=uuid7(began), entries=entries, sender=Sender(), knowledge=knowledge, case_id=job["case"]
        )
        refused = [o for o in written.outcomes if hasattr(o, "message")]
        if refused:
            raise ValueError(f"{job['case']}: {refused[0].message}")
        machine_id = written.found.job.machine_id
        machines[job["case"]] = in_unit(database, lambda work, id_=machine_id: work.machines.by_id(id_).uuid)  # type: ignore[misc]


def _entry(kind: str, body: Mapping[str, Any], at: datetime) -> dict[str, Any]:
    return {"id": uuid7(at), "kind": kind, "made_at": at.isoformat(), "device": "workshop tablet", "body": dict(body)}
