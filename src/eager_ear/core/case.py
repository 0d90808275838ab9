"""Everything known about one machine at one visit."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from eager_ear.core.errors import BadField, UnknownCode
from eager_ear.core.machine import Machine
from eager_ear.core.signals.types import Signal

RECORDING_KINDS = ("audio", "acceleration", "tacho", "current")
TESTS = ("spin", "ambient", "hand_turn", "bounce", "agitate", "hum")
POSITIONS = (
    "rear_panel",
    "front_panel",
    "top_centre",
    "top_front_left",
    "top_front_right",
    "top_rear_right",
    "top_rear_left",
    "under",
    "bench",
)
LOADS = ("empty", "light", "full", "lopsided")


def require_code(value: str, *, field_name: str, known: tuple[str, ...]) -> str:
    """The value itself, or UnknownCode."""
    if value not in known:
        raise UnknownCode(field=field_name, value=str(value), known=known)
    return value


@dataclass(frozen=True, kw_only=True)
class RecordingFacts:
    """What was noted about one recording, without its samples."""

    name: str
    kind: str
    test: str
    run: str | None = None
    position: str | None = None
    load: str | None = None
    start_s: float = 0.0
    power_cut_s: float | None = None

    def __post_init__(self) -> None:
        require_code(self.kind, field_name="recording.kind", known=RECORDING_KINDS)
        require_code(self.test, field_name="recording.test", known=TESTS)
        if self.position is not None:
            require_code(self.position, field_name="recording.position", known=POSITIONS)
        if self.load is not None:
            require_code(self.load, field_name="recording.load", known=LOADS)
        if not abs(self.start_s) <= 3600.0:
            raise BadField(field="recording.start_s", reason=f"{self.start_s:g} s is more than an hour away.")

    @property
    def run_key(self) -> str:
        """Recordings with equal keys were made at the same time and share one clock."""
        return f"{self.test}/{self.run}" if self.run is not None else f"{self.test}/load={self.load}"


@dataclass(frozen=True, kw_only=True)
class Recording:
    """One recording: what was noted and what the sensor delivered."""

    facts: RecordingFacts
    signal: Signal


@dataclass(frozen=True, kw_only=True)
class HandCheck:
    """One finished hand check; `values` have passed `hands.checks.validate_values`."""

    check: str
    values: Mapping[str, Any]


@dataclass(frozen=True, kw_only=True)
class Case:
    """One machine at one visit."""

    id: str
    machine: Machine
    symptoms: tuple[str, ...] = ()
    note: str = ""
    checks: tuple[HandCheck, ...] = ()
    recordings: tuple[Recording, ...] = field(default=())
