"""What one run gave: every figure, or the reason why it is absent."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import TypeVar

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.angle import GrowthFit, OrderCurves, OrderFamily, SpeedTrack, TurnMotion
from eager_ear.core.signals.drive import Arrival, Hum, MotorCurrent, Persistence, SlipMeasurement, Squeal
from eager_ear.core.signals.dsp import EvenAcceleration
from eager_ear.core.signals.impacts import ImpactFinding, MeanImpact
from eager_ear.core.signals.mechanics import CoastDownFit, EnvelopeSpectrum, RaceLine, StopHits, SuspensionFit
from eager_ear.core.signals.recordings import Warning
from eager_ear.core.signals.sound import BandLevels, LevelSlope, ProminentTone, SpinProfile
from eager_ear.core.signals.speed import ClockLag, Phases
from eager_ear.core.units import FloatArray

T = TypeVar("T")


@dataclass(kw_only=True)
class RunMeasurement:
    """Results of one run; what is None has its reason in `absent`, by quantity.

    audio_start_s : when the sound began on the run's clock, corrected by the lag that was found
    no_impacts : no single impact stands out of the sound, asked where too little speed is known for `impacts`
    """

    key: str
    load: str | None
    position: str | None = None
    warnings: list[Warning] = field(default_factory=list)
    absent: dict[str, str] = field(default_factory=dict)
    duration_s: float = 0.0
    sound_range_db: float | None = None
    vibration_recorded: bool = False
    track: SpeedTrack | None = None
    lag: ClockLag | None = None
    family: OrderFamily | None = None
    rests: tuple[tuple[float, float], ...] = ()
    phases: Phases | None = None
    arrival: Arrival | None = None
    hum: Hum | None = None
    current: MotorCurrent | None = None
    noted_power_cut_s: float | None = None
    curves: OrderCurves | None = None
    suspension: tuple[SuspensionFit, ...] = ()
    stop_hits: StopHits | None = None
    growth: GrowthFit | None = None
    turn_motion: TurnMotion | None = None
    coast_down: CoastDownFit | None = None
    spectra: tuple[EnvelopeSpectrum, ...] = ()
    race_lines: tuple[RaceLine, ...] = ()
    bearings_known: bool = False
    impacts: dict[str, ImpactFinding] = field(default_factory=dict)
    no_impacts: bool = False
    impact: MeanImpact | None = None
    slip: SlipMeasurement | None = None
    persistence: Persistence | None = None
    squeal: Squeal | None = None
    slope: LevelSlope | None = None
    bands: BandLevels | None = None
    profile: SpinProfile | None = None
    tone: ProminentTone | None = None
    level_db: FloatArray | None = None
    level_scatter: FloatArray | None = None
    audio_name: str | None = None
    audio_start_s: float = 0.0
    acceleration: EvenAcceleration | None = None

    @property
    def impacts_per_rev(self) -> float | None:
        """Impacts per revolution of the band in which they are tied to the drum most of the time, 0.0 for none."""
        if self.tied_impacts is not None:
            return self.tied_impacts.per_turn
        return 0.0 if self.impacts or self.no_impacts else None

    @property
    def tied_impacts(self) -> ImpactFinding | None:
        """The band whose impacts are tied to the drum most of the time, None without any."""
        return max((i for i in self.impacts.values() if i.per_turn > 0), key=lambda i: i.share, default=None)

    def attempt(self, measure: Callable[[], T]) -> T | None:
        """The result of `measure`, or None with its reason kept."""
        try:
            return measure()
        except NotMeasurable as reason:
            self.absent[reason.quantity] = reason.reason
            return None
