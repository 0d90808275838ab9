"""The result format and the curves, typed for the interface."""

from __future__ import annotations

from datetime import datetime

from pydantic import BaseModel, ConfigDict


class EvidenceOut(BaseModel):
    finding: str
    weight_db: float
    code: str
    name: str
    source: str
    level: str
    reason: str
    value: float | None = None
    sigma: float | None = None
    unit: str | None = None


class SuspectOut(BaseModel):
    """One fault with its odds. stages : where it has any, the chance of each if it is there"""

    fault: str
    name: str
    short: str
    probability: float
    prior_db: float
    posterior_db: float
    stage: str | None = None
    stages: dict[str, float] | None = None
    evidence: list[EvidenceOut]


class OutcomeOut(BaseModel):
    level: str
    chance: float
    leader: str
    leader_probability: float


class NextCheckOut(BaseModel):
    check: str
    gain_bits: float
    minutes: float
    name: str
    how: str
    access: str
    access_words: str
    outcomes: list[OutcomeOut]


class WarningOut(BaseModel):
    code: str
    message: str
    recording: str | None = None


class ToneOut(BaseModel):
    hz: float
    ratio_db: float
    over_limit_db: float


class MeanImpactOut(BaseModel):
    """The mean of the impacts that are tied to the drum; `decay_ms` is the time in which it falls by 10 dB."""

    band: str
    count: int
    hz: float
    decay_ms: float | None
    likeness: float


class MeasurementsOut(BaseModel):
    """Figures are absent when they could not be measured."""

    model_config = ConfigDict(extra="allow")

    spin_rpm_max: float | None = None
    spin_rpm_max_sigma: float | None = None
    critical_rpm: float | None = None
    critical_rpm_sigma: float | None = None
    suspension_damping_ratio: float | None = None
    suspension_damping_ratio_sigma: float | None = None
    stop_hits: int | None = None
    stop_hits_turns: float | None = None
    order_amplitudes_mm: dict[str, float] | None = None
    order_amplitudes_mm_sigma: dict[str, float] | None = None
    impacts_per_rev: float | None = None
    impact: MeanImpactOut | None = None
    belt_slip_pct: float | None = None
    belt_slip_pct_sigma: float | None = None
    coast_down_s: float | None = None
    coast_down_s_sigma: float | None = None
    turns_to_rest: float | None = None
    turns_to_rest_sigma: float | None = None
    power_cut_s: float | None = None
    noise_change_motor_off_db: float | None = None
    noise_change_motor_off_db_sigma: float | None = None
    growth_exponent: float | None = None
    growth_exponent_sigma: float | None = None
    level_db_per_doubling: float | None = None
    level_db_per_doubling_sigma: float | None = None
    critical_rpm_peaks: list[float] | None = None
    ramp_s: float | None = None
    plateau_s: float | None = None
    hum_s: float | None = None
    motor_running_a: float | None = None
    motor_running_a_sigma: float | None = None
    motor_starting_a: float | None = None
    sound_lag_s: float | None = None
    sound_lag_s_sigma: float | None = None
    level_a_dbfs: float | None = None
    prominent_tone: ToneOut | None = None


class CornerOut(BaseModel):
    corner: str
    level_db: float
    sigma_db: float


class CornersOut(BaseModel):
    """Once-per-turn motion of the corners against their mean, the largest first, and the speeds compared."""

    speed_rpm: list[float]
    levels: list[CornerOut]


class OtherTestOut(BaseModel):
    """What a recording beside the spins shows, in a sentence."""

    test: str
    run: str
    says: str


class ResultOut(BaseModel):
    """run : the one whose figures these are, where a job holds several spins"""

    format: str
    headline: str
    because: str
    advice: str
    suspects: list[SuspectOut]
    measurements: MeasurementsOut
    run: str | None = None
    next_checks: list[NextCheckOut]
    warnings: list[WarningOut]
    corners: CornersOut | None = None
    others: list[OtherTestOut] = []


class PhaseOut(BaseModel):
    name: str
    start_s: float
    end_s: float


class OrderMapOut(BaseModel):
    order_step: float
    rpm_edges: list[float]
    db: list[list[float | None]]


class TurnProfileOut(BaseModel):
    band: str
    per_turn: float
    peak_db: float
    profile_db: list[float | None]


class TurnMotionOut(BaseModel):
    """Displacement over one turn at full speed: the axis that moves most, and every axis' 1x, 2x and 3x."""

    speed_rpm: float
    axis: str
    profile_mm: list[float | None]
    orders_mm: dict[str, list[float | None]]
    orders_mm_sigma: dict[str, list[float | None]]


class RaceLineOut(BaseModel):
    bearing: str
    race: str
    order: float
    nominal_order: float
    ratio_db: float
    false_alarm: float


class EnvelopeOut(BaseModel):
    band_hz: list[float]
    order: list[float | None]
    ratio_db: list[float | None]
    lines: list[RaceLineOut]


class SoundOut(BaseModel):
    """The recording that was heard; `start_s` on the run's clock as it was found."""

    name: str
    start_s: float
    orders: list[float]


class CurvesOut(BaseModel):
    t_s: list[float | None] = []
    rpm: list[float | None] = []
    sigma_rpm: list[float | None] = []
    source: str | None = None
    phases: list[PhaseOut] = []
    power_cut_s: float | None = None
    level_db: list[float | None] | None = None
    roughness: list[float | None] | None = None
    order_map: OrderMapOut | None = None
    first_order_mm: list[float | None] | None = None
    turn_profile: TurnProfileOut | None = None
    turn_motion: TurnMotionOut | None = None
    envelope: EnvelopeOut | None = None
    sound: SoundOut | None = None


class CallOut(BaseModel):
    """A call: what it was weighed with, the result, and what the pictures are drawn from."""

    call_id: int
    knowledge_version: str
    code_version: str
    weighed_at: datetime
    result: ResultOut
    curves: CurvesOut
