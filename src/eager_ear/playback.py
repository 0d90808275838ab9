"""A stretch of a job's sound, made audible as asked: from the store, through the core, to samples for the ear."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from eager_ear.casefile import SoundHead, sound_head, sound_stretch
from eager_ear.core.curves import track_of
from eager_ear.core.diagnosis import leading_run
from eager_ear.core.errors import BadField, NotMeasurable, UnknownCode
from eager_ear.core.signals.angle import SpeedTrack
from eager_ear.core.signals.sound import (
    Heard,
    alternated,
    at_rate,
    band_passed,
    beat_on_a_tone,
    envelope_on_a_tone,
    faded,
    for_the_ear,
    one_turn_again,
    orders_alone,
    samples_between,
    slowed_down,
)
from eager_ear.core.units import FloatArray
from eager_ear.store import AttachmentRecord, Database, FileReader, FileRecord, NotFound, UnitOfWork
from eager_ear.use_cases.visits.shown import shown_of

WAYS = (
    "as_recorded",
    "band",
    "without_orders",
    "orders",
    "beat",
    "slowed",
    "envelope",
    "one_turn",
    "beside",
    "before_after",
)
LONGEST_S = 20.0
LONGEST_SLOWED_S = 60.0
LOOP_S = 6.0
PIECE_S = 1.6
SLOWEST = 16.0
HIGHEST_ORDER = 1000.0
# Two spins are at one speed when neither strays further from it: a ramp passes by in less.
SAME_SPEED = 0.08
FEWER_STEPS = 24


@dataclass(frozen=True, kw_only=True)
class Wish:
    """What somebody wants to hear.

    way : one of `WAYS`; begin_s, end_s : on the run's clock
    low_hz, high_hz : for a band and its envelope; orders : for orders, all that are known when empty
    times : how many times slower; beside : the other job
    """

    way: str
    begin_s: float
    end_s: float
    low_hz: float
    high_hz: float
    orders: tuple[float, ...] = ()
    times: float = 4.0
    beside: str | None = None

    def __post_init__(self) -> None:
        if self.way not in WAYS:
            raise UnknownCode(field="way", value=self.way, known=WAYS)
        if not 0.0 < self.end_s - self.begin_s <= LONGEST_S:
            raise BadField(field="stretch", reason=f"it has to last more than nothing and at most {LONGEST_S:.0f} s.")
        if not 1.0 <= self.times <= SLOWEST:
            raise BadField(field="times", reason=f"sound is slowed 1 to {SLOWEST:.0f} times.")
        if self.way == "slowed" and self.times * (self.end_s - self.begin_s) > LONGEST_SLOWED_S:
            raise BadField(field="stretch", reason=f"slowed, it may last {LONGEST_SLOWED_S:.0f} s at most.")
        if not all(0.0 < order < HIGHEST_ORDER for order in self.orders):
            raise BadField(
                field="order", reason=f"a multiple of the drum's rate lies between 0 and {HIGHEST_ORDER:.0f}."
            )
        if self.way == "beside" and self.beside is None:
            raise BadField(field="beside", reason="which other visit?")


@dataclass(frozen=True)
class _Sound:
    """A job's sound in the store, of which only the stretches that are wanted are read."""

    database: Database
    file: FileRecord
    name: str
    head: SoundHead

    @property
    def sample_rate_hz(self) -> float:
        return self.head.sample_rate_hz

    @property
    def duration_s(self) -> float:
        return self.head.samples / self.head.sample_rate_hz

    def read(self, first: int, last: int) -> FloatArray:
        reader = FileReader(self.database, self.file.id, size_bytes=self.file.size_bytes)
        return sound_stretch(reader, name=self.name, first=first, last=last)


@dataclass(frozen=True)
class _Spin:
    """A job's sound with what was measured of it, on one clock."""

    audio: _Sound
    start_s: float
    track: SpeedTrack | None
    orders: tuple[float, ...]

    def stretch(self, begin_s: float, end_s: float) -> FloatArray:
        """Between two moments, faded in and out. Raises NotMeasurable."""
        rate = self.audio.sample_rate_hz
        first, last = samples_between(
            begin_s, end_s, start_s=self.start_s, samples=self.audio.head.samples, sample_rate_hz=rate
        )
        return faded(self.audio.read(first, last), sample_rate_hz=rate)

    def turns(self, count: int, begin_s: float) -> FloatArray:
        """Revolutions at every sample of a stretch. Raises NotMeasurable where the speed is not known."""
        first_s = max(begin_s, self.start_s)
        times_s = first_s + np.arange(count) / self.audio.sample_rate_hz
        if self.track is None or not np.isfinite(self.track.at(times_s[[0, count // 2, -1]])).all():
            raise NotMeasurable(quantity="drum's turning", reason="the speed is not known through that stretch.")
        return self.track.turns_at(times_s)

    def usual_hz(self, begin_s: float, end_s: float) -> float | None:
        """Median rate of a stretch, None where it is not known."""
        rates = self.track.at(np.linspace(begin_s, end_s, 9)) if self.track is not None else np.full(9, np.nan)
        return float(np.nanmedian(rates)) if np.isfinite(rates).any() else None

    def when_at(self, rate_hz: float, within: tuple[float, float]) -> float | None:
        """When it turns at a rate for as long as a piece lasts, nearest to it; None where it never does."""
        track = self.track
        if track is None:
            return None
        frames = int(PIECE_S / float(np.median(np.diff(track.t_s)))) + 1
        off = np.where(track.known, np.abs(track.rate_hz / rate_hz - 1.0), np.inf)
        begin_s, end_s = max(within[0], self.start_s), min(within[1], self.start_s + self.audio.duration_s)
        off[(track.t_s < begin_s) | (track.t_s > end_s)] = np.inf
        if off.size < frames:
            return None
        worst = np.lib.stride_tricks.sliding_window_view(off, frames).max(axis=1)
        best = int(worst.argmin())
        return float(track.t_s[best]) if worst[best] < SAME_SPEED else None


def listen(database: Database, *, job_uuid: str, wish: Wish) -> Heard:
    """A stretch of the job's leading spin as wished; `before_after` needs no stretch, it finds what both spins have.

    Raises
    ------
    NotFound
        No such job, or no finished analysis with sound.
    NotMeasurable
        The stretch, or the other spin, does not hold what the way needs.
    """
    if wish.way == "before_after":
        found, mended = (_own_spin(database, job_uuid, after=after) for after in (False, True))
        both, speed_rpm = _beside(found, mended, wish)
        return replace(for_the_ear(both, sample_rate_hz=found.audio.sample_rate_hz), speed_rpm=speed_rpm)
    spin = _spin(database, job_uuid)
    rate = spin.audio.sample_rate_hz
    if wish.way == "beside" and wish.beside is not None:
        both, speed_rpm = _beside(spin, _spin(database, wish.beside), wish)
        return replace(for_the_ear(both, sample_rate_hz=rate), speed_rpm=speed_rpm)
    return for_the_ear(_made(spin, spin.stretch(wish.begin_s, wish.end_s), wish), sample_rate_hz=rate)


def _made(spin: _Spin, plain: FloatArray, wish: Wish) -> FloatArray:
    rate = spin.audio.sample_rate_hz
    if wish.way == "band":
        return band_passed(plain, sample_rate_hz=rate, low_hz=wish.low_hz, high_hz=wish.high_hz)
    if wish.way == "envelope":
        return envelope_on_a_tone(plain, sample_rate_hz=rate, low_hz=wish.low_hz, high_hz=wish.high_hz)
    if wish.way == "slowed":
        return slowed_down(plain.astype(np.float32), sample_rate_hz=rate, times=wish.times)
    if wish.way == "as_recorded":
        return plain
    turns = spin.turns(plain.size, wish.begin_s)
    if wish.way == "one_turn":
        return one_turn_again(plain, sample_rate_hz=rate, turns=turns, seconds=LOOP_S)
    alone = orders_alone(plain, sample_rate_hz=rate, turns=turns, orders=wish.orders or spin.orders)
    if wish.way == "beat":
        return beat_on_a_tone(alone, sample_rate_hz=rate)
    return alone if wish.way == "orders" else plain - alone


def _beside(spin: _Spin, other: _Spin, wish: Wish) -> tuple[FloatArray, float]:
    """This spin and another's, in turns, at one loudness and one speed [rpm].

    The speed is the stretch's own where the other has it too, otherwise the fastest that both have.
    """
    wanted_hz = spin.usual_hz(wish.begin_s, wish.end_s)
    common = None if wanted_hz is None else _together(spin, other, wanted_hz, wish)
    if common is None:
        tops = [s.track.max_rpm / 60.0 for s in (spin, other) if s.track is not None]
        steps = min(tops, default=0.0) * 0.97 ** np.arange(1, FEWER_STEPS)
        common = next((found for hz in steps if (found := _together(spin, other, float(hz), None))), None)
    if common is None:
        raise NotMeasurable(
            quantity="comparison by ear", reason="the two spins share no speed that both keep for long enough."
        )
    own_s, other_s, speed_hz = common
    own = spin.stretch(own_s, own_s + PIECE_S)
    theirs = other.stretch(other_s, other_s + PIECE_S)
    rate = spin.audio.sample_rate_hz
    theirs = at_rate(theirs, from_hz=other.audio.sample_rate_hz, to_hz=rate)
    return alternated(own, theirs, sample_rate_hz=rate, piece_s=PIECE_S), 60.0 * speed_hz


def _together(spin: _Spin, other: _Spin, rate_hz: float, wish: Wish | None) -> tuple[float, float, float] | None:
    """When either turns at a rate; within the stretch that was wished for, if one was."""
    within = (wish.begin_s, wish.end_s) if wish is not None else (-np.inf, np.inf)
    own_s, other_s = spin.when_at(rate_hz, within), other.when_at(rate_hz, (-np.inf, np.inf))
    return (own_s, other_s, rate_hz) if own_s is not None and other_s is not None else None


def _spin(database: Database, job_uuid: str) -> _Spin:
    with UnitOfWork(database) as work:
        job = work.jobs.get(job_uuid)
        curves: Mapping[str, Any] = work.measurements.curves(job.id)
        sound = curves.get("sound")
        if sound is None:
            raise NotFound(kind="measured sound of job", key=job_uuid)
        sent = next((a for a in work.attachments.of_job(job.id).values() if _is_of(a, sound)), None)
        if sent is None:
            raise NotFound(kind="measured sound of job", key=job_uuid)
        file = work.files.get(sent.file_id)
    return _opened(database, file, sent.name, sound, curves)


def _own_spin(database: Database, job_uuid: str, *, after: bool) -> _Spin:
    """The job's leading spin of the machine as it was found, or as it was mended. Raises NotMeasurable."""
    missing = NotMeasurable(
        quantity="comparison by ear",
        reason=f"no spin with sound was measured {'after' if after else 'before'} the repair.",
    )
    with UnitOfWork(database) as work:
        job = work.jobs.get(job_uuid)
        lead = leading_run([s for s in shown_of(work, job.id, after=after) if s.test == "spin"])
        if lead is None:
            raise missing
        curves = work.measurements.curves(job.id, run=lead.key)
        sound = curves.get("sound")
        measured = work.measurements.of_job(job.id)[lead.key].request["recordings"]
        sums = {r["sha256"] for r in measured if sound is not None and r["name"] == sound["name"]}
        sent = next((a for a in work.attachments.of_job(job.id).values() if a.is_here and a.sha256 in sums), None)
        if sent is None or sound is None:
            raise missing
        file = work.files.get(sent.file_id)
    return _opened(database, file, sent.name, sound, curves)


def _opened(
    database: Database, file: FileRecord, name: str, sound: Mapping[str, Any], curves: Mapping[str, Any]
) -> _Spin:
    head = sound_head(FileReader(database, file.id, size_bytes=file.size_bytes), name=name)
    orders = tuple(float(order) for order in sound["orders"])
    audio = _Sound(database=database, file=file, name=name, head=head)
    return _Spin(audio, float(sound["start_s"]), track_of(curves), orders)


def _is_of(sent: AttachmentRecord, sound: Mapping[str, Any]) -> bool:
    """Whether this is the recording that was heard."""
    return sent.is_here and sent.name == sound["name"]
