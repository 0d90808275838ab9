"""Where the demo's repairs stand: what was offered, decided, taken off, counted and proved, as diary entries.

The plan of each repair is the product's own, so that a job in mid-strip stands where such a plan leads.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from datetime import datetime, timedelta
from typing import Any

from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.strip import PlannedStep
from eager_ear.ids import uuid7
from eager_ear.store import Database, JobRecord, UnitOfWork
from eager_ear.use_cases.clock import now_utc
from eager_ear.use_cases.repairs.offering import offer_for
from eager_ear.use_cases.repairs.stripping import strip_for
from eager_ear.use_cases.visits.diary import write_entries
from eager_ear.use_cases.visits.pen import Sender

SIGNED = "M40 120L80 60L110 130L150 70L190 120L260 90L330 118L420 80"
MINUTE = timedelta(minutes=1)
TABLET = "workshop tablet"
# What a note on an act that is no step of a plan is about.
ACTS = "strip:act"
BOATYARD = "Boatyard, workshop front loader"


class _Teller:
    """Writes entries of one job, a minute apart, up to now."""

    def __init__(self, database: Database, job: JobRecord, knowledge: Knowledge, *, began: datetime) -> None:
        self._database, self._job, self._knowledge, self._at = database, job, knowledge, began

    def say(self, kind: str, **body: Any) -> None:
        self._at = min(self._at + MINUTE, now_utc())
        entry = {
            "id": uuid7(self._at),
            "kind": kind,
            "made_at": self._at.isoformat(),
            "device": TABLET,
            "body": body,
        }
        written = write_entries(
            self._database, job_uuid=self._job.uuid, entries=[entry], sender=Sender(), knowledge=self._knowledge
        )
        refused = getattr(written.outcomes[0], "message", None)
        if refused is not None:
            raise ValueError(f"{kind}: {refused}")

    def offer(self, wanted: str, *, answer: str, **more: Any) -> None:
        """All options as the product makes them, and what the customer said to one."""
        with UnitOfWork(self._database) as work:
            offered = offer_for(work, work.jobs.get(self._job.uuid), knowledge=self._knowledge)
        currency = offered.shop.currency
        options = [
            {
                "path": list(o.paths) or [o.kind],
                "total": o.total.middle.minor,
                "currency": currency,
                "minutes": round(o.minutes.middle),
                "days_without": o.days_without,
            }
            for o in offered.offer.options
        ]
        codes = [o.code for o in offered.offer.options]
        self.say("offered", options=options)
        self.say("decided", option=codes.index(wanted), answer=answer, **more)

    def same_machine_as(self, case_id: str) -> None:
        """A visit to the machine of another job of the village."""
        with UnitOfWork(self._database) as work:
            other = next(job for job in work.jobs.newest(limit=50) if job.case_id == case_id)
            machine = work.machines.by_id(other.machine_id)
        self.say("machine", known_as=machine.uuid)

    def plan(self) -> tuple[list[tuple[str, str]], list[PlannedStep]]:
        """Steps off with the first group of each, and everything of the way back that is not left to choice."""
        with UnitOfWork(self._database) as work:
            plan = strip_for(work, work.jobs.get(self._job.uuid), knowledge=self._knowledge).plan
        off = [(p.step.id, p.step.fasteners[0].group if p.step.fasteners else "") for p in plan.off if p.step]
        return off, [p for p in (*plan.fit, *plan.on) if not p.optional]

    def fit(self, layout: str, back: Sequence[PlannedStep]) -> None:
        for planned in back:
            if planned.step is not None:
                self.step(layout, planned.step.id, "on")
            else:
                self.say("note", text=planned.says, about=ACTS)

    def step(self, layout: str, code: str, way: str) -> None:
        self.say("step", step=f"{layout}/{code}", way=way, state="done")


def _bearing_in_mid_strip(tell: _Teller, layout: str) -> None:
    tell.say("priced", part="bearing_front", amount=1450, currency="EUR", source="Quay bearings", returnable=True)
    tell.say("priced", part="bearing_rear", amount=1280, currency="EUR", source="Quay bearings", returnable=True)
    tell.say("priced", part="shaft_seal", amount=1890, currency="EUR", source="Weir spares")
    tell.say("priced", part="tub_gasket", amount=1620, currency="EUR", source="Weir spares")
    tell.offer("bearings_pressed", answer="yes", who="Boatyard office", consents=["risks_told"], signature=SIGNED)
    off, _ = tell.plan()
    counts = {"lid_panel_off": 3, "back_off": 7, "fascia_off": 5, "front_off": 4}
    upto = [code for code, _ in off].index("halves_apart")
    for code, group in off[:upto]:
        tell.step(layout, code, "off")
        if code in counts:
            tell.say("counted", step=f"{layout}/{code}", group=group, out=counts[code])
    tell.say("seen", part="damper_pegs", condition="sound")


def _refused_gearcase(tell: _Teller, _: str) -> None:
    tell.offer("gearcase_swap", answer="no", why="price", who="Lock keeper")
    tell.say("note", text="Unplugged, taps shut. Told: stop it at once if it binds or trips.", about="cost")
    tell.say("closed", outcome="declined", why="Dearer than half a new one.")


def _coupler_done_in_a_column(tell: _Teller, layout: str) -> None:
    tell.say("check", check="coupler_look", values={"broken": True})
    tell.say("priced", part="coupler_kit", amount=1950, currency="EUR", source="Weir spares")
    tell.offer("coupler_kit", answer="yes", who="Hostel warden", consents=["risks_told"], signature=SIGNED)
    off, back = tell.plan()
    for code, _ in off:
        tell.step(layout, code, "off")
    for way in ("out", "in"):
        tell.say("counted", **{"step": f"{layout}/motor_out", "group": "straps", way: 2})
    tell.fit(layout, back)
    tell.say("check", check="hand_turn", values={"feel": "smooth", "turns_after_flick": 3.0})
    tell.say("power_back")
    for test in ("wash_stroke", "drain_look", "p_empty", "p_load"):
        tell.say("proved", test=test, passed=True)
    tell.say("found", faults=["motor_coupler"], not_there=["gearcase", "pump_blocked"], sure=True)
    tell.say("closed", outcome="mended")


def _workaround_with_shims(tell: _Teller, layout: str) -> None:
    tell.say("check", check="axial_play", values={"play_mm": 1.6})
    tell.say("called", faults=["spindle_seat"], advice="commit", own_view="Flange not to be had before the regatta.")
    tell.offer("shim_and_lock", answer="yes", who="Rowing club", consents=["workaround"], signature=SIGNED)
    off, back = tell.plan()
    for code, _ in off:
        tell.step(layout, code, "off")
    tell.fit(layout, back)
    today = now_utc().date()
    for days, what in ((7, "Look at the marks after the first heavy loads"), (30, "Look at the marks")):
        tell.say("follow_up", due=(today + timedelta(days=days)).isoformat(), what=what)


def _a_year_ago(tell: _Teller, _: str) -> None:
    tell.same_machine_as(BOATYARD)
    tell.say("note", text="Whines. Play small. They want to wait: listen again every few weeks.", about="cost")
    tell.say("closed", outcome="declined", why="Waits until the season is over.")


def _taken_in(tell: _Teller, _: str) -> None:
    tell.say("taken_in", how="traded_in", paid=2500, currency="EUR", history="From the mill's flat, said to walk.")
    for row, result in (("clean", "bad"), ("lock", "good"), ("own_test", "good"), ("codes", "good"), ("spin", "bad")):
        tell.say("intake", row=row, result=result)


def _taken_apart(tell: _Teller, _: str) -> None:
    tell.say("taken_in", how="left_behind", paid=0, currency="EUR", history="Stood in the wet for two winters.")
    for row, result in (("clean", "bad"), ("lock", "bad"), ("spin", "bad")):
        tell.say("intake", row=row, result=result)
    tell.offer("donor", answer="yes", consents=[])
    tell.say("kept_part", part="motor", condition="tested", shelf="shelf 3", hours=2800)
    tell.say("kept_part", part="pump", condition="looks_sound", shelf="shelf 3", hours=2800)


STORIES: Mapping[str, Callable[[_Teller, str], None]] = {
    BOATYARD: _bearing_in_mid_strip,
    f"{BOATYARD}, a year ago": _a_year_ago,
    "Lock keeper's house": _refused_gearcase,
    "Hostel, basement column": _coupler_done_in_a_column,
    "Rowing club, boathouse": _workaround_with_shims,
    "Our shed, traded in by the mill": _taken_in,
    "Our shed, the wet one": _taken_apart,
}


def tell_repairs(database: Database, knowledge: Knowledge) -> None:
    """Tell how far the demo's repairs are. A job of which something was told already is left as it is."""
    for job in list(_untold(database)):
        layout = job.summary.layout
        if layout is not None:
            tell = _Teller(database, job, knowledge, began=job.created_at)
            STORIES[job.case_id](tell, layout)


def _untold(database: Database) -> Iterator[JobRecord]:
    with UnitOfWork(database) as work:
        jobs = work.jobs.newest(limit=50)
        untold = [
            job
            for job in jobs
            if job.case_id in STORIES and not any(e.device == TABLET for e in work.entries.of_job(job.id))
        ]
    yield from untold
