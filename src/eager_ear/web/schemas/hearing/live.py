"""What goes over the wire while a spin is recorded."""

from __future__ import annotations

from pydantic import BaseModel, Field

from eager_ear.core.diagnosis.knowledge import Finding
from eager_ear.core.live import LATEST_CLOCK_S, NEEDED_S, LiveReading
from eager_ear.core.live.progress import LivePhase, PartName
from eager_ear.core.units import hz_to_rpm


class LiveHello(BaseModel):
    """The first message: what will be sent. Without a sound rate only motion comes."""

    audio_rate_hz: float | None = Field(default=None, gt=0, allow_inf_nan=False)
    audio_start_s: float = Field(default=0.0, ge=-LATEST_CLOCK_S, le=LATEST_CLOCK_S, allow_inf_nan=False)


class LiveSpeedOut(BaseModel):
    """`is_steady`: it never changed, so that it may be another machine's; `is_felt`: the cabinet shows it as well."""

    rpm: float
    sigma_rpm: float
    is_steady: bool
    is_felt: bool


class LivePartOut(BaseModel):
    """A part of the test: seconds recorded of those needed."""

    name: PartName
    seen_s: float
    needed_s: float


class LiveReadingOut(BaseModel):
    """The machine at one moment; `shake`: how the cabinet moves, in the words of the finding that judges it later."""

    t_s: float
    level_db: float | None
    speed: LiveSpeedOut | None
    shake_m_s2: float | None
    shake: str | None
    must_stop: bool
    is_clipped: bool
    phase: LivePhase
    parts: list[LivePartOut]

    @classmethod
    def of(cls, reading: LiveReading, *, shaking: Finding) -> LiveReadingOut:
        """`shaking` : the finding whose levels say how much a cabinet may move, rising."""
        speed, shake = reading.speed, reading.shake_m_s2
        level = None if shake is None else sum(shake >= limit for limit in shaking.limits)
        return cls(
            t_s=round(reading.t_s, 3),
            level_db=None if reading.level_db is None else round(reading.level_db, 1),
            speed=None
            if speed is None
            else LiveSpeedOut(
                rpm=round(hz_to_rpm(speed.rate_hz), 1),
                sigma_rpm=round(hz_to_rpm(speed.sigma_hz), 1),
                is_steady=speed.steady,
                is_felt=speed.felt,
            ),
            shake_m_s2=None if shake is None else round(shake, 2),
            shake=None if level is None else shaking.levels[level],
            must_stop=level is not None and level == len(shaking.limits),
            is_clipped=reading.clipped,
            phase=reading.progress.phase,
            parts=[
                LivePartOut(name=name, seen_s=round(reading.progress.seen_s[name], 1), needed_s=needed)
                for name, needed in NEEDED_S.items()
            ],
        )


class LiveTroubleOut(BaseModel):
    """A block that was left out, and why; listening goes on."""

    code: str
    message: str


class LiveAnswer(BaseModel):
    """One answer: readings, or a trouble."""

    readings: list[LiveReadingOut] = []
    trouble: LiveTroubleOut | None = None
