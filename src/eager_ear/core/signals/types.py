"""What a sensor delivered, as checked arrays with their units and clocks."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from eager_ear.core.errors import BadSignal
from eager_ear.core.units import FloatArray

# From telephone sound to the fastest converters; outside a header is wrong.
AUDIO_RATE_RANGE_HZ = (8000.0, 192000.0)
# From the slowest phone that still sees a spin to the fastest logger.
ACCELERATION_RATE_RANGE_HZ = (25.0, 25000.0)
# A visit's longest recording; what lasts longer is a clock that jumped.
LONGEST_S = 7200.0
# Beyond these no sensor of a phone and no clamp meter reaches.
LARGEST_M_S2 = 2.0e4
LARGEST_A = 1.0e4
# A step this much longer than the usual one holds a sample that was not delivered.
MISSING_PERIODS = 1.75
# On an even clock a recording with gaps grows by what it left out; pauses of minutes are nothing unusual.
MOST_EVEN_PER_ROW = 5
EVEN_TO_SPARE = 2_000_000


@dataclass(frozen=True, kw_only=True)
class AudioSignal:
    """One channel of sound.

    samples : array [shape=(n,), float32, full scale = 1]
    sample_rate_hz : float [Hz]
    pa_per_fs : float | None [Pa], sound pressure at full scale when the microphone is calibrated
    """

    samples: FloatArray
    sample_rate_hz: float
    pa_per_fs: float | None = None

    def __post_init__(self) -> None:
        low, high = AUDIO_RATE_RANGE_HZ
        if self.samples.ndim != 1 or self.samples.size == 0:
            raise BadSignal(reason="The recording holds no samples.")
        if not low <= self.sample_rate_hz <= high:
            raise BadSignal(
                reason=f"A sample rate of {self.sample_rate_hz:g} Hz is outside {low / 1000:g} to {high / 1000:g} kHz."
            )
        if not bool(np.isfinite(self.samples).all()):
            raise BadSignal(reason="The recording holds samples that are not finite numbers.")

    @property
    def duration_s(self) -> float:
        return self.samples.size / self.sample_rate_hz


@dataclass(frozen=True, kw_only=True)
class AccelerationSignal:
    """Acceleration at the stamped times, jitter and gaps as delivered.

    t_s : array [shape=(n,), s], increasing
    axes_m_s2 : array [shape=(3, n), m/s²], x left to right, y front to back, z up; a row of NaN where not recorded
    """

    t_s: FloatArray
    axes_m_s2: FloatArray

    def __post_init__(self) -> None:
        if self.t_s.size < 2 or self.axes_m_s2.shape != (3, self.t_s.size):
            raise BadSignal(reason="An acceleration recording needs at least two rows of time and acceleration.")
        if not bool((np.diff(self.t_s) > 0).all()):
            raise BadSignal(reason="The times of the acceleration are not increasing.")
        if self.duration_s > LONGEST_S:
            raise BadSignal(reason=f"The times reach over {self.duration_s:.3g} s: the clock jumped.")
        if bool((np.abs(np.nan_to_num(self.axes_m_s2)) > LARGEST_M_S2).any()):
            raise BadSignal(reason=f"An acceleration of more than {LARGEST_M_S2:g} m/s² is no reading.")
        if self.duration_s * self.sample_rate_hz > MOST_EVEN_PER_ROW * self.t_s.size + EVEN_TO_SPARE:
            raise BadSignal(reason="The times leave out far more than they hold: the clock jumped.")
        low, high = ACCELERATION_RATE_RANGE_HZ
        if not low * 0.9 <= self.sample_rate_hz <= high:
            raise BadSignal(
                reason=f"Acceleration at {self.sample_rate_hz:.3g} Hz is outside {low:g} Hz to {high / 1000:g} kHz."
            )

    @cached_property
    def sample_rate_hz(self) -> float:
        """Samples a second where none is missing: the median step scatters with the stamps, their mean does not."""
        steps = np.diff(self.t_s)
        whole = steps[steps < MISSING_PERIODS * np.median(steps)]
        return float(1.0 / whole.mean())

    @property
    def duration_s(self) -> float:
        return float(self.t_s[-1] - self.t_s[0])

    @property
    def present(self) -> tuple[int, ...]:
        """Rows that were recorded."""
        return tuple(i for i in range(3) if bool(np.isfinite(self.axes_m_s2[i]).all()))


@dataclass(frozen=True, kw_only=True)
class TachoSignal:
    """Times of one pulse per drum revolution. pulse_s : array [shape=(n,), s], increasing."""

    pulse_s: FloatArray

    def __post_init__(self) -> None:
        if self.pulse_s.size == 0 or not bool((np.diff(self.pulse_s) > 0).all()):
            raise BadSignal(reason="Tacho pulses must be present and at increasing times.")
        if self.duration_s > LONGEST_S:
            raise BadSignal(reason=f"The pulses reach over {self.duration_s:.3g} s: the clock jumped.")

    @property
    def duration_s(self) -> float:
        return float(self.pulse_s[-1] - self.pulse_s[0])


@dataclass(frozen=True, kw_only=True)
class CurrentSignal:
    """Motor current. t_s : array [shape=(n,), s]; current_a : array [shape=(n,), A RMS]."""

    t_s: FloatArray
    current_a: FloatArray

    def __post_init__(self) -> None:
        if self.t_s.size < 2 or self.current_a.shape != self.t_s.shape or not bool((np.diff(self.t_s) > 0).all()):
            raise BadSignal(reason="A current recording needs at least two rows at increasing times.")
        if self.duration_s > LONGEST_S:
            raise BadSignal(reason=f"The times reach over {self.duration_s:.3g} s: the clock jumped.")
        if not bool((np.abs(self.current_a) < LARGEST_A).all()):
            raise BadSignal(reason=f"A current of more than {LARGEST_A:g} A is no reading.")

    @property
    def duration_s(self) -> float:
        return float(self.t_s[-1] - self.t_s[0])


Signal = AudioSignal | AccelerationSignal | TachoSignal | CurrentSignal
