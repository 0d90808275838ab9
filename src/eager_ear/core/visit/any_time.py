"""What may be entered at any station: notes, photos, safety, timers, opening and closing of the job."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

from eager_ear.core.diagnosis.knowledge import Knowledge
from eager_ear.core.fields import Code, Flag, Id, Number, Record, Text
from eager_ear.core.visit.said import Kind, Said, each_key, of

PHOTO_ROLES = (
    "plate",
    "sheet",
    "before",
    "after",
    "connector",
    "found",
    "part_old",
    "part_new",
    "count",
)
TIMERS = ("dwell", "cure", "calibration", "cool_down", "settle")
TIMER_ENDS = ("rang", "cut_short")
OUTCOMES = ("mended", "workaround", "declined", "scrapped", "no_fault", "referred")
SAFE = ("unplugged", "proved_dead", "taps_shut", "drained", "second_person")
ENDED_BY_POWER = ("unplugged", "proved_dead")


@dataclass(frozen=True, kw_only=True)
class Note:
    text: str
    about: str | None
    entry: str


@dataclass(frozen=True, kw_only=True)
class Photo:
    photo: str
    about: str | None
    role: str | None
    entry: str


@dataclass(frozen=True, kw_only=True)
class Bridged:
    """An interlock that somebody bridged and nobody has restored yet."""

    where: str
    entry: str
    at: datetime


@dataclass(frozen=True, kw_only=True)
class Timer:
    """A timer that runs, or has rung and nobody ended it; `rings_at` by the clock that began it."""

    what: str
    minutes: float
    about: str | None
    entry: str
    rings_at: datetime


@dataclass(frozen=True, kw_only=True)
class AnyTime:
    """safe : what was done before touching; without `unplugged` and `proved_dead` once the power is back."""

    notes: tuple[Note, ...]
    photos: tuple[Photo, ...]
    safe: tuple[str, ...]
    bridged: tuple[Bridged, ...]
    timers: tuple[Timer, ...]
    closed: str | None

    def notes_about(self, about: str) -> str:
        """All notes about one thing as one text."""
        return "\n".join(n.text for n in self.notes if n.about == about)


def kinds(_: Knowledge) -> tuple[Kind, ...]:
    """What may be entered at any station."""
    about = Code()
    return (
        Kind(
            code="note",
            station="any",
            body=Record(keys={"text": Text(longest=10_000, shortest=1), "about": about}, needs=("text",)),
        ),
        Kind(
            code="photo",
            station="any",
            says=of("photo"),
            body=Record(
                keys={"photo": Id(), "about": about, "role": Code(choices=PHOTO_ROLES)},
                needs=("photo",),
            ),
        ),
        Kind(
            code="made_safe",
            station="any",
            says=each_key,
            body=Record(keys={key: Flag(only_true=True) for key in SAFE}),
        ),
        Kind(code="power_back", station="any", body=Record(keys={"why": Text(longest=500)})),
        Kind(
            code="bridged",
            station="any",
            body=Record(keys={"where": Text(longest=200, shortest=1)}, needs=("where",)),
        ),
        Kind(
            code="restored",
            station="any",
            body=Record(keys={"restored": Id(), "photo": Id()}, needs=("restored",)),
        ),
        Kind(
            code="timer",
            station="any",
            body=Record(
                keys={"for": Code(choices=TIMERS), "minutes": Number(low=0, high=20_160), "about": about},
                needs=("for", "minutes"),
            ),
        ),
        Kind(
            code="timer_end",
            station="any",
            body=Record(keys={"timer": Id(), "how": Code(choices=TIMER_ENDS)}, needs=("timer", "how")),
        ),
        Kind(
            code="closed",
            station="any",
            body=Record(keys={"outcome": Code(choices=OUTCOMES), "why": Text(longest=2000)}, needs=("outcome",)),
        ),
        Kind(code="reopened", station="any", body=Record(keys={"why": Text(longest=2000)})),
    )


def fold(said: Said) -> AnyTime:
    """Notes and photos as they are, safety and timers as they stand, closed or not."""
    ended = {(e.body or {})["timer"] for e in said.all("timer_end")}
    restored = {(e.body or {})["restored"] for e in said.all("restored")}
    power = said.last("power_back")
    safe = [
        key
        for key, s in said.newest("made_safe").items()
        if key not in ENDED_BY_POWER or power is None or power.counts_at < s.entry.counts_at
    ]
    last = said.last("closed", "reopened")
    return AnyTime(
        notes=tuple(
            Note(text=(e.body or {})["text"], about=(e.body or {}).get("about"), entry=e.id) for e in said.all("note")
        ),
        photos=tuple(
            Photo(photo=subject, about=s.value.get("about"), role=s.value.get("role"), entry=s.entry.id)
            for subject, s in said.newest("photo").items()
        ),
        safe=tuple(key for key in SAFE if key in safe),
        bridged=tuple(
            Bridged(where=(e.body or {})["where"], entry=e.id, at=e.counts_at)
            for e in said.all("bridged")
            if e.id not in restored
        ),
        timers=tuple(
            Timer(
                what=(e.body or {})["for"],
                minutes=(e.body or {})["minutes"],
                about=(e.body or {}).get("about"),
                entry=e.id,
                rings_at=e.counts_at + timedelta(minutes=(e.body or {})["minutes"]),
            )
            for e in said.all("timer")
            if e.id not in ended
        ),
        closed=(last.body or {})["outcome"] if last is not None and last.kind == "closed" else None,
    )
