"""What the store hands out: frozen values, no rows."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum
from typing import Any

from eager_ear.core.case import HandCheck, RecordingFacts
from eager_ear.core.machine import Machine


class AnalysisState(StrEnum):
    QUEUED = "queued"
    RUNNING = "running"
    DONE = "done"
    FAILED = "failed"
    CANCELLED = "cancelled"


@dataclass(frozen=True, kw_only=True)
class JobRecord:
    """One visit to one machine."""

    id: int
    machine_id: int
    place: str
    machine: Machine
    case_id: str
    symptoms: tuple[str, ...]
    note: str
    checks: tuple[HandCheck, ...]
    created_at: datetime
    changed_at: datetime


@dataclass(frozen=True, kw_only=True)
class RecordingRecord:
    """One stored recording, without its bytes."""

    id: int
    job_id: int
    facts: RecordingFacts
    pa_per_fs: float | None
    size_bytes: int
    sha256: str
    duration_s: float
    rate_hz: float | None
    created_at: datetime


@dataclass(frozen=True, kw_only=True)
class AnalysisSummary:
    """An analysis without its long texts."""

    id: int
    job_id: int
    state: AnalysisState
    stage: str | None
    error: str | None
    headline: str | None
    advice: str | None
    leader: str | None
    leader_probability: float | None
    code_version: str
    knowledge_version: str
    queued_at: datetime
    finished_at: datetime | None


@dataclass(frozen=True, kw_only=True)
class AnalysisRecord:
    """An analysis with its result and the curves behind the pictures."""

    summary: AnalysisSummary
    result: Mapping[str, Any] | None
    curves: Mapping[str, Any] | None
