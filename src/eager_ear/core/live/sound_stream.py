"""Sound as it comes in: its level at once, and the slow parts from which the speed is read.

Level: A-weighted (IEC 61672-1, annex E, applied to the power spectrum of each step, Parseval), with the exponential
time weighting F of 125 ms of the same standard. All else follows the analysis of whole recordings: the logarithm of
the differenced sound's mean square, and the sound below 200 Hz.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy

from eager_ear.core.errors import BadSignal
from eager_ear.core.live.ring import Ring
from eager_ear.core.signals.dsp import SLOW_RATE_HZ, Decimator
from eager_ear.core.signals.recordings import clipped_share
from eager_ear.core.signals.sound import a_weighting_db
from eager_ear.core.signals.types import AUDIO_RATE_RANGE_HZ
from eager_ear.core.units import FloatArray

# A step holds so many values of the slow sound and so many of the level: 60 ms.
SLOW_PER_STEP = 24
LEVELS_PER_STEP = 8
FAST_S = 0.125
KEPT_S = 4.0
# The work that one block may cause.
MOST_AT_ONCE_S = 10.0
# The slow sound is made of so many steps at a time: its filters look to both sides, which costs each time.
STEPS_TOGETHER = 2


@dataclass(frozen=True, kw_only=True)
class SoundStep:
    """One step of sound. t_s : its end; level_db : A-weighted, dB re full scale; clipped_share : of its samples."""

    t_s: float
    level_db: float
    clipped_share: float


class SoundStream:
    """Takes blocks of any length and hands out steps of one length.

    Parameters
    ----------
    sample_rate_hz : float [Hz]
    start_s : float [s], of the first sample on the common clock

    Raises
    ------
    BadSignal
        A rate that recordings may not have.
    """

    def __init__(self, *, sample_rate_hz: float, start_s: float) -> None:
        low, high = AUDIO_RATE_RANGE_HZ
        if not low <= sample_rate_hz <= high:
            raise BadSignal(reason=f"Sound at {sample_rate_hz:g} Hz cannot be followed.")
        self._slowed = Decimator(sample_rate_hz=sample_rate_hz, target_hz=SLOW_RATE_HZ)
        self._step = SLOW_PER_STEP * self._slowed.factor
        self._sample_rate_hz = sample_rate_hz
        self._start_s = start_s
        self._steps = 0
        self._waiting: list[FloatArray] = []
        self._waiting_count = 0
        self._behind = np.zeros(2 * self._slowed.reach * self._slowed.factor, dtype=np.float32)
        self._together: list[FloatArray] = []
        self._last = np.float32(0.0)
        self._weights = 10.0 ** (a_weighting_db(scipy.fft.rfftfreq(self._step, 1.0 / sample_rate_hz)) / 10.0)
        self._weights[1:-1] *= 2.0
        self._mean_square: float | None = None
        self.step_s = self._step / sample_rate_hz
        self.slow_rate_hz = self._slowed.rate_hz
        self.level_rate_hz = LEVELS_PER_STEP / self.step_s
        # The filters look ahead: the slow sound ends earlier than the level.
        self.slow = Ring(
            rate_hz=self.slow_rate_hz, start_s=start_s - self._slowed.reach / self.slow_rate_hz, kept_s=KEPT_S
        )
        self.level_nats = Ring(rate_hz=self.level_rate_hz, start_s=start_s, kept_s=KEPT_S)

    @property
    def end_s(self) -> float:
        """How far complete steps reach."""
        return self._start_s + self._steps * self.step_s

    def push(self, samples: FloatArray) -> list[SoundStep]:
        """Take more samples; returns the steps that they complete.

        Raises
        ------
        BadSignal
            Samples that are not finite numbers, or too many at once; none of the block is taken.
        """
        if samples.ndim != 1 or not bool(np.isfinite(samples).all()):
            raise BadSignal(reason="A block of sound holds samples that are not finite numbers.")
        if samples.size > MOST_AT_ONCE_S * self._sample_rate_hz:
            raise BadSignal(reason=f"A block holds more than {MOST_AT_ONCE_S:g} s of sound: it is to be sent in parts.")
        if samples.size == 0:
            return []
        self._waiting.append(samples.astype(np.float32, copy=False))
        self._waiting_count += samples.size
        if self._waiting_count < self._step:
            return []
        joined = np.concatenate(self._waiting)
        whole = joined.size // self._step
        out = [self._one(joined[k * self._step : (k + 1) * self._step]) for k in range(whole)]
        self._waiting = [joined[whole * self._step :]]
        self._waiting_count = self._waiting[0].size
        return out

    def _one(self, samples: FloatArray) -> SoundStep:
        rough = np.diff(samples, prepend=self._last)
        self._last = samples[-1]
        power = np.square(rough).reshape(LEVELS_PER_STEP, -1).mean(axis=1)
        self.level_nats.push(np.log(power + np.float32(1e-12)))
        self._together.append(samples)
        if len(self._together) == STEPS_TOGETHER:
            around = np.concatenate([self._behind, *self._together])
            self._behind = around[STEPS_TOGETHER * self._step :]
            first = self._slowed.reach
            self.slow.push(self._slowed(around)[first : first + STEPS_TOGETHER * SLOW_PER_STEP])
            self._together.clear()
        spectrum = scipy.fft.rfft(samples)
        square = float(np.dot(spectrum.real**2 + spectrum.imag**2, self._weights)) / self._step**2
        kept = np.exp(-self.step_s / FAST_S)
        before = square if self._mean_square is None else self._mean_square
        self._mean_square = float(kept * before + (1.0 - kept) * square)
        self._steps += 1
        return SoundStep(
            t_s=self.end_s,
            level_db=float(10.0 * np.log10(self._mean_square + 1e-20)),
            clipped_share=clipped_share(samples),
        )
