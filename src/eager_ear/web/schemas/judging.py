"""What one hand check says by itself."""

from __future__ import annotations

from typing import Any

from pydantic import ConfigDict

from eager_ear.core.diagnosis.verdict import Judged, Meaning, Verdict
from eager_ear.web.schemas.base import Strict


class JudgeIn(Strict):
    """Values of a check, on a machine of that layout where it is known."""

    check: str
    values: dict[str, Any]
    layout: str | None = None


class MeaningOut(Strict):
    """How usual such a reading is with one fault."""

    model_config = ConfigDict(from_attributes=True)

    fault: str
    name: str
    chance: float

    @classmethod
    def of(cls, meaning: Meaning) -> MeaningOut:
        return cls(fault=meaning.fault, name=meaning.name, chance=round(meaning.chance, 4))


class VerdictOut(Strict):
    """One finding against its limits, on a machine without such a fault (`calm`) and with one."""

    finding: str
    name: str
    text: str
    level: str
    levels: list[str]
    unit: str
    value: float | None
    sigma: float | None
    limits: list[float]
    reason: str
    says: str
    calm: float
    speaks_for: list[MeaningOut]
    clears: list[MeaningOut]

    @classmethod
    def of(cls, verdict: Verdict) -> VerdictOut:
        return cls(
            finding=verdict.finding,
            name=verdict.name,
            text=verdict.text,
            level=verdict.level,
            levels=list(verdict.levels),
            unit=verdict.unit,
            value=verdict.value,
            sigma=verdict.sigma,
            limits=list(verdict.limits),
            reason=verdict.reason,
            says=verdict.says,
            calm=round(verdict.calm, 4),
            speaks_for=[MeaningOut.of(m) for m in verdict.speaks_for],
            clears=[MeaningOut.of(m) for m in verdict.clears],
        )


class JudgedOut(Strict):
    """All findings of one check, the sums behind them, and what to do next."""

    verdicts: list[VerdictOut]
    sums: dict[str, float]
    then: str | None

    @classmethod
    def of(cls, judged: Judged) -> JudgedOut:
        return cls(
            verdicts=[VerdictOut.of(v) for v in judged.verdicts],
            sums={name: round(value, 4) for name, value in judged.sums.items()},
            then=judged.then,
        )
