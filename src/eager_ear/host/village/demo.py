"""Demo data: an invented river-lock village, its washers simulated, its jobs analysed by the real pipeline."""

from __future__ import annotations

import tempfile
import time
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from datetime import timedelta
from pathlib import Path
from typing import Any

from eager_ear.casefile import write_case_folder
from eager_ear.core.case import Case, HandCheck
from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.simulate import simulate_case, simulate_corners, with_clamp
from eager_ear.host.running.supervisor import a_worker
from eager_ear.host.village.demo_repairs import tell_repairs
from eager_ear.host.village.past import PAST, tell_past
from eager_ear.knowledge import load_knowledge
from eager_ear.store import Database, UnitOfWork
from eager_ear.use_cases.clock import now_utc
from eager_ear.use_cases.visits.cases import import_case_folder

LOAD_TIMEOUT_S = 120.0


@dataclass(frozen=True, kw_only=True)
class DemoJob:
    """One visit. `fault` None: nothing recorded yet."""

    place: str
    layout: str
    hours_ago: float
    seed: int
    fault: str | None
    strength: float = 0.8
    symptoms: tuple[str, ...] = ()
    note: str = ""
    checks: tuple[tuple[str, dict[str, Any]], ...] = field(default=())
    age_years: float = 8.0
    with_acceleration: bool = True
    corners: bool = False
    stacked: bool | None = None
    clamp: bool = False


DEMO_JOBS = (
    DemoJob(
        place="Boatyard, workshop front loader",
        layout="front_belt",
        hours_ago=0.6,
        seed=7,
        fault="drum_bearing",
        strength=0.6,
        symptoms=("growl_in_spin", "roar_rises_with_speed", "leak_rear"),
        note="Growls since the winter lay-up. Puddle under the rear once.",
        checks=(("hand_turn", {"feel": "rumble", "turns_after_flick": 1.0}),),
        age_years=9,
    ),
    DemoJob(
        place="Boatyard, workshop front loader, a year ago",
        layout="front_belt",
        hours_ago=24.0 * 370,
        seed=7,
        fault="drum_bearing",
        strength=0.2,
        symptoms=("whine_in_spin",),
        note="Whines a little at full speed.",
        checks=(("hand_turn", {"feel": "smooth", "turns_after_flick": 2.0}),),
        age_years=8,
    ),
    DemoJob(
        place="Campsite laundry hut, machine 2",
        layout="front_direct",
        hours_ago=2.0,
        seed=31,
        fault="spider",
        strength=0.9,
        symptoms=("thump_in_spin", "shakes", "walks"),
        note="Walks out of its row whatever is in it.",
        age_years=11,
    ),
    DemoJob(
        place="Campsite laundry hut, machine 4",
        layout="front_belt",
        hours_ago=2.4,
        seed=48,
        fault="none",
        symptoms=(),
        note="Recorded beside machine 2 for comparison.",
        age_years=4,
    ),
    DemoJob(
        place="Lock cottage 3, scullery",
        layout="top_shifter",
        hours_ago=5.0,
        seed=102,
        fault="belt",
        strength=0.9,
        symptoms=("squeal", "slow_spin"),
        note="Squeals while it gathers speed. Clamp meter around the motor's lead.",
        age_years=6,
        clamp=True,
    ),
    DemoJob(
        place="Hostel, basement column",
        layout="top_coupler",
        stacked=True,
        hours_ago=26.0,
        seed=12,
        fault="motor_coupler",
        symptoms=("no_spin", "no_agitation", "grinding"),
        note="Drains, hums, drum stands.",
        age_years=13,
    ),
    DemoJob(
        place="Lock keeper's house",
        layout="top_pulsator",
        hours_ago=28.0,
        seed=102,
        fault="gearcase_bearing",
        strength=0.9,
        symptoms=("growl_in_spin", "rust_marks"),
        age_years=10,
    ),
    DemoJob(
        place="Ferry café, back kitchen",
        layout="front_belt",
        hours_ago=50.0,
        seed=104,
        fault="foreign_object",
        strength=0.9,
        symptoms=("scrape_or_tick",),
        note="Ticks since the aprons were washed with a corkscrew.",
        age_years=3,
    ),
    DemoJob(
        place="Sailing club, changing room",
        layout="top_splined",
        hours_ago=0.1,
        seed=5,
        fault=None,
        symptoms=("suds_code", "no_spin"),
        note="Just arrived. Nothing recorded yet.",
        age_years=5,
    ),
    DemoJob(
        place="Chandler's shop, upstairs",
        layout="top_pulsator",
        hours_ago=30.0,
        seed=12,
        fault="suspension_off",
        strength=1.0,
        symptoms=("bang_at_spin_start", "drum_off_centre"),
        note="Bangs as it picks up speed. Spun four times, the phone moved from corner to corner.",
        checks=(("bounce", {"corner": "rear_left", "swings": 5.0}),),
        age_years=12,
        corners=True,
    ),
    DemoJob(
        place="Rowing club, boathouse",
        layout="top_pulsator",
        hours_ago=75.0,
        seed=3,
        fault=None,
        symptoms=("clank_metal", "drum_off_centre"),
        note="Basket knocks. The regatta is on Saturday.",
        checks=(("axial_play", {"play_mm": 1.6}),),
        age_years=7,
    ),
    DemoJob(
        place="Our shed, traded in by the mill",
        layout="top_shifter",
        hours_ago=7.0,
        seed=9,
        fault=None,
        symptoms=("walks", "bang_at_spin_start"),
        checks=(
            ("bounce", {"corner": "front_left", "swings": 5.0}),
            ("bounce", {"corner": "rear_left", "swings": 4.5}),
        ),
        age_years=4,
    ),
    DemoJob(
        place="Our shed, the wet one",
        layout="top_coupler",
        hours_ago=90.0,
        seed=10,
        fault=None,
        symptoms=("roar_rises_with_speed", "leak_centre"),
        checks=(("residue", {"where": "clutch_bell"}),),
        age_years=17,
    ),
)


def load_demo(database: Database) -> None:
    """Load the demo jobs that are missing and wait until all are analysed.

    A database that holds any other job is left alone; one whose loading was interrupted is completed.
    """
    with UnitOfWork(database) as work:
        newest = {job.case_id for job in work.jobs.newest(limit=2 * len(DEMO_JOBS) + 1)}
    present = {case_id for case_id in newest if not case_id.startswith(PAST)}
    missing = [job for job in DEMO_JOBS if job.place not in present]
    if present - {job.place for job in DEMO_JOBS}:
        return
    if missing:
        _load_jobs(database, missing)
    tell_past(database, load_knowledge())


def _load_jobs(database: Database, missing: Sequence[DemoJob]) -> None:
    knowledge = load_knowledge()
    worker = a_worker(database.url)
    worker.begin()
    try:
        for job in missing:
            _load(database, job, knowledge)
        deadline = time.monotonic() + LOAD_TIMEOUT_S
        while time.monotonic() < deadline and worker.runs():
            with UnitOfWork(database) as work:
                if work.measurements.unfinished() == 0:
                    break
            time.sleep(0.2)
    finally:
        worker.end()
    tell_repairs(database, knowledge)


def _load(database: Database, job: DemoJob, knowledge: Knowledge) -> None:
    created = now_utc() - timedelta(hours=job.hours_ago)
    with tempfile.TemporaryDirectory(prefix="eager-ear-demo-") as scratch:
        folder = Path(scratch)
        simulated = _simulated(job)
        case = replace(
            simulated,
            id=job.place,
            machine=replace(simulated.machine, age_years=job.age_years, stacked=job.stacked),
            symptoms=job.symptoms,
            note=job.note,
            checks=tuple(HandCheck(check=code, values=values) for code, values in job.checks),
            recordings=simulated.recordings if job.fault is not None else (),
        )
        write_case_folder(folder, case)
        import_case_folder(database, folder=folder, place=job.place, knowledge=knowledge, created_at=created)


def _simulated(job: DemoJob) -> Case:
    faults = [job.fault or "none"]
    if job.corners:
        return simulate_corners(layout=job.layout, faults=faults, seed=job.seed, strength=job.strength)
    simulated = simulate_case(
        layout=job.layout,
        faults=faults,
        seed=job.seed,
        strength=job.strength,
        with_acceleration=job.with_acceleration,
    )
    return with_clamp(simulated, seed=job.seed).case if job.clamp else simulated.case
