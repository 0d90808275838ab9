"""A stretch of a job's sound, made audible as asked: from the store, through the core, to samples for the ear."""

from __future__ import annotations

import tempfile
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from eager_ear.casefile import RecordingEntry, read_signal
from eager_ear.core.curves import track_of
from eager_ear.core.errors import BadField, NotMeasurable, UnknownCode
from eager_ear.core.signals.listening import (
    Heard,
    alternated,
    at_rate,
    band_passed,
    cut,
    envelope_on_a_tone,
    for_the_ear,
    one_turn_again,
    orders_alone,
)
from eager_ear.core.signals.speed_track import SpeedTrack
from eager_ear.core.signals.time_stretch import slowed_down
from eager_ear.core.signals.types import AudioSignal
from eager_ear.core.units import FloatArray
from eager_ear.store import Database, NotFound, UnitOfWork

WAYS = ("as_recorded", "band", "without_orders", "orders", "slowed", "envelope", "one_turn", "beside")
LONGEST_S = 20.0
LONGEST_SLOWED_S = 60.0
LOOP_S = 6.0
PIECE_S = 1.6
SLOWEST = 16.0
HIGHEST_ORDER = 1000.0
# Two spins are at one speed when they differ by no more than an ear notices.
SAME_SPEED = 0.04


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
    beside: int | None = None

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
class _Spin:
    """A job's sound with what was measured of it, on one clock."""

    audio: AudioSignal
    start_s: float
    track: SpeedTrack | None
    orders: tuple[float, ...]

    def stretch(self, begin_s: float, end_s: float) -> FloatArray:
        return cut(self.audio, start_s=self.start_s, begin_s=begin_s, end_s=end_s)

    def turns(self, count: int, begin_s: float) -> FloatArray:
        """Revolutions at every sample of a stretch. Raises NotMeasurable where the speed is not known."""
        first_s = max(begin_s, self.start_s)
        times_s = first_s + np.arange(count) / self.audio.sample_rate_hz
        if self.track is None or not np.isfinite(self.track.at(times_s[[0, count // 2, -1]])).all():
            raise NotMeasurable(quantity="drum's turning", reason="the speed is not known through that stretch.")
        return self.track.turns_at(times_s)


def listen(database: Database, *, job_id: int, wish: Wish) -> Heard:
    """A stretch of the job's leading spin as wished.

    Raises
    ------
    NotFound
        No such job, or no finished analysis with sound.
    NotMeasurable
        The stretch, or the other spin, does not hold what the way needs.
    """
    spin = _spin(database, job_id)
    plain = spin.stretch(wish.begin_s, wish.end_s)
    rate = spin.audio.sample_rate_hz
    if wish.way == "beside" and wish.beside is not None:
        plain = _beside(spin, plain, _spin(database, wish.beside), wish)
    else:
        plain = _made(spin, plain, wish)
    return for_the_ear(plain, sample_rate_hz=rate)


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
    return alone if wish.way == "orders" else plain - alone


def _beside(spin: _Spin, plain: FloatArray, other: _Spin, wish: Wish) -> FloatArray:
    """This spin and another's, in turns, at one speed and one loudness."""
    rate = spin.audio.sample_rate_hz
    if spin.track is None or other.track is None:
        raise NotMeasurable(quantity="comparison by ear", reason="the speed of one of the spins is not known.")
    own_hz = spin.track.at(np.linspace(wish.begin_s, wish.end_s, 9))
    if not np.isfinite(own_hz).any():
        raise NotMeasurable(quantity="comparison by ear", reason="the speed is not known through that stretch.")
    wanted_hz = float(np.nanmedian(own_hz))
    begin_s = _when_at(other, wanted_hz)
    if begin_s is None:
        raise NotMeasurable(
            quantity="comparison by ear",
            reason=f"the other spin does not stay near {60.0 * wanted_hz:.0f} rpm for long enough.",
        )
    theirs = other.stretch(begin_s, begin_s + PIECE_S)
    theirs = at_rate(theirs, from_hz=other.audio.sample_rate_hz, to_hz=rate)
    return alternated(plain, theirs, sample_rate_hz=rate, piece_s=PIECE_S)


def _when_at(spin: _Spin, rate_hz: float) -> float | None:
    """When a spin turns at a rate for as long as a piece lasts, nearest to it; None where it never does."""
    track = spin.track
    if track is None:
        return None
    frames = int(PIECE_S / float(np.median(np.diff(track.t_s)))) + 1
    off = np.where(track.known, np.abs(track.rate_hz / rate_hz - 1.0), np.inf)
    end_s = spin.start_s + spin.audio.duration_s
    off[(track.t_s < spin.start_s) | (track.t_s > end_s)] = np.inf
    if off.size < frames:
        return None
    worst = np.lib.stride_tricks.sliding_window_view(off, frames).max(axis=1)
    best = int(worst.argmin())
    return float(track.t_s[best]) if worst[best] < SAME_SPEED else None


def _spin(database: Database, job_id: int) -> _Spin:
    with UnitOfWork(database) as work, tempfile.TemporaryDirectory(prefix="eager-ear-ear-") as scratch:
        work.jobs.get(job_id)
        analysis = work.analyses.newest_done(job_id)
        curves: Mapping[str, Any] = (analysis.curves if analysis is not None else None) or {}
        sound = curves.get("sound")
        record = next((r for r in work.recordings.of_job(job_id) if sound and r.facts.name == sound["name"]), None)
        if sound is None or record is None:
            raise NotFound(kind="measured sound of job", key=str(job_id))
        path = Path(scratch) / record.facts.name
        with path.open("wb") as sink:
            work.recordings.copy_to(record, sink)
        signal = read_signal(path, RecordingEntry(facts=record.facts, file=record.facts.name))
    if not isinstance(signal, AudioSignal):
        raise NotFound(kind="measured sound of job", key=str(job_id))
    orders = tuple(float(order) for order in sound["orders"])
    return _Spin(signal, float(sound["start_s"]), track_of(curves), orders)
