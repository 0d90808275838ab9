"""Spin: the recordings of this visit and what was noted of each."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from eager_ear.core.case import LOADS, POSITIONS, RECORDING_KINDS, TESTS, RecordingFacts
from eager_ear.core.diagnosis.knowledge import Knowledge
from eager_ear.core.fields import Code, Id, Number, Record, Text
from eager_ear.core.visit.said import Body, Kind, Said, of

HOUR_S = 3600.0
DAY_S = 86400.0


@dataclass(frozen=True, kw_only=True)
class RecordingNoted:
    """One recording: where its bytes are found, what was noted, how loud its full scale is."""

    recording: str
    entry: str
    at: datetime
    facts: RecordingFacts
    pa_per_fs: float | None


@dataclass(frozen=True, kw_only=True)
class Spin:
    recordings: tuple[RecordingNoted, ...]


def facts_of_body(body: Body) -> RecordingFacts:
    """The facts that a recording's entry holds. Raises InputError."""
    return RecordingFacts(
        name=body["file"],
        kind=body["kind"],
        test=body["test"],
        run=body.get("run"),
        position=body.get("position"),
        load=body.get("load"),
        start_s=body.get("start_s", 0.0),
        power_cut_s=body.get("power_cut_s"),
    )


def kinds(_: Knowledge) -> tuple[Kind, ...]:
    """What may be entered at this station."""
    return (
        Kind(
            code="recording",
            station="spin",
            says=of("recording"),
            body=Record(
                keys={
                    "recording": Id(),
                    "kind": Code(choices=RECORDING_KINDS),
                    "file": Text(longest=200, shortest=1),
                    "test": Code(choices=TESTS),
                    "run": Text(longest=100),
                    "position": Code(choices=POSITIONS),
                    "load": Code(choices=LOADS),
                    "start_s": Number(low=-HOUR_S, high=HOUR_S),
                    "power_cut_s": Number(low=-HOUR_S, high=DAY_S),
                    "pa_per_fs": Number(low=1e-6, high=1e6),
                },
                needs=("recording", "kind", "file", "test"),
            ),
        ),
        Kind(
            code="recording_removed",
            station="spin",
            body=Record(keys={"recording": Id(), "why": Text(longest=500)}, needs=("recording",)),
        ),
    )


def fold(said: Said) -> Spin:
    """The recordings that were not removed, in the order in which they were first noted.

    Whoever notes a removed recording again afterwards has it back.
    """
    removed_at = {(e.body or {})["recording"]: e.counts_at for e in said.all("recording_removed")}
    return Spin(
        recordings=tuple(
            RecordingNoted(
                recording=subject,
                entry=s.entry.id,
                at=s.entry.counts_at,
                facts=facts_of_body(s.value),
                pa_per_fs=s.value.get("pa_per_fs"),
            )
            for subject, s in said.newest("recording").items()
            if subject not in removed_at or removed_at[subject] < s.entry.counts_at
        )
    )
