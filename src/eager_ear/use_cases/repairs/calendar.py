"""When somebody comes back to a job, as an iCalendar file (RFC 5545) that any calendar reads."""

from __future__ import annotations

import hashlib
from datetime import date, timedelta

from icalendar import Calendar, Event

from eager_ear import __version__
from eager_ear.core.diagnosis import Knowledge
from eager_ear.store import JobRecord, UnitOfWork
from eager_ear.use_cases.clock import now_utc
from eager_ear.use_cases.visits.folding import folded

MOST_JOBS = 500


def follow_ups_ics(work: UnitOfWork, *, knowledge: Knowledge) -> bytes:
    """All follow-ups that are not done, the next due first, one all-day event each."""
    calendar = Calendar()
    calendar.add("prodid", f"-//Eager Ear//{__version__}//EN")
    calendar.add("version", "2.0")
    for job in work.jobs.due(limit=MOST_JOBS):
        for follow_up in folded(work, job, knowledge=knowledge).visit.proof.follow_ups:
            if not follow_up.get("done"):
                day = date.fromisoformat(follow_up["due"])
                calendar.add_component(_event(job, day, str(follow_up["what"])))
    return bytes(calendar.to_ical())


def _event(job: JobRecord, day: date, what: str) -> Event:
    # The same follow-up is the same event, however often the file is read.
    told = hashlib.sha256(f"{job.uuid} {day} {what}".encode()).hexdigest()[:24]
    event = Event()
    event.add("uid", f"{told}@eager-ear")
    event.add("dtstamp", now_utc())
    event.add("dtstart", day)
    event.add("dtend", day + timedelta(days=1))
    event.add("summary", f"{job.summary.place or 'A washer'}: {what}")
    return event
