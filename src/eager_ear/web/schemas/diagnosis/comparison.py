"""A spin beside others, typed for the interface."""

from __future__ import annotations

from datetime import datetime

from pydantic import BaseModel

from eager_ear.core.signals.sound import Difference, ProfileComparison
from eager_ear.use_cases.diagnosis.beside import OtherSpin, SpinsBeside


class OtherSpinOut(BaseModel):
    job_id: str
    place: str
    created_at: datetime
    same_machine: bool
    is_sound: bool

    @classmethod
    def of(cls, other: OtherSpin) -> OtherSpinOut:
        return cls(
            job_id=other.job.uuid,
            place=other.job.summary.place,
            created_at=other.job.created_at,
            same_machine=other.same_machine,
            is_sound=other.is_sound,
        )


class DifferenceOut(BaseModel):
    """Decibels above the others, the standard error, how many of them are clearly exceeded, and whether it is clear."""

    db: float
    sigma_db: float
    above: int
    is_clear: bool

    @classmethod
    def of(cls, found: Difference) -> DifferenceOut:
        return cls(db=round(found.db, 1), sigma_db=round(found.sigma_db, 1), above=found.above, is_clear=found.is_clear)


class BandDifferenceOut(DifferenceOut):
    centre_hz: float


class ComparisonOut(BaseModel):
    """Differences at equal speeds; those of the bands are about their common part unless all was calibrated."""

    others: int
    bands: list[BandDifferenceOut]
    overall: DifferenceOut | None
    shake: DifferenceOut | None
    from_rpm: float
    to_rpm: float
    calibrated: bool

    @classmethod
    def of(cls, found: ProfileComparison) -> ComparisonOut:
        return cls(
            others=found.others,
            bands=[
                BandDifferenceOut(centre_hz=round(centre, 1), **DifferenceOut.of(d).model_dump())
                for centre, d in found.bands
            ],
            overall=DifferenceOut.of(found.overall) if found.overall is not None else None,
            shake=DifferenceOut.of(found.shake) if found.shake is not None else None,
            from_rpm=round(found.speed_rpm[0]),
            to_rpm=round(found.speed_rpm[1]),
            calibrated=found.calibrated,
        )


class BesideOut(BaseModel):
    """Visits to compare with, those compared with now by their job, and the comparison or why there is none."""

    choices: list[OtherSpinOut]
    against: list[str]
    comparison: ComparisonOut | None
    reason: str | None

    @classmethod
    def of(cls, found: SpinsBeside) -> BesideOut:
        return cls(
            choices=[OtherSpinOut.of(choice) for choice in found.choices],
            against=[other.job.uuid for other in found.against],
            comparison=ComparisonOut.of(found.comparison) if found.comparison is not None else None,
            reason=found.reason,
        )
