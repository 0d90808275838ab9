"""The lower part of the sound, brought to a low rate once and shared: lines of drum and motor, level, slow part."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import scipy

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.dsp.baseband import tone_carrier
from eager_ear.core.signals.dsp.spectral_lines import line_strength, quietest, without_mains, without_standing_lines
from eager_ear.core.signals.dsp.transform import HANN_LINE_BINS, decimated, floor_of_frames, short_time_power
from eager_ear.core.signals.types import AudioSignal
from eager_ear.core.units import BoolArray, FloatArray, Span, within

# Lines of drum, motor and belt that tell the speed lie below 2.5 kHz.
LOW_RATE_HZ = 6000.0
# What a drum does once or a few times a turn lies below 200 Hz.
SLOW_RATE_HZ = 400.0
# Fine enough for the beat of the fastest drum, 30 a second, and twice that.
LEVEL_RATE_HZ = 120.0
# Short frames follow a ramp, longer ones resolve steady tones.
FRAMES_S = (0.12, 0.4)
HOP_S = 0.125
FLOOR_WIDTH_HZ = 80.0
MODULATION_S = 1.0


@dataclass(frozen=True, kw_only=True)
class LineFrames:
    """Line strength in nats [shape=(frames, bins)] at times on the run's clock.

    raw : with all that stands still; lines : without standing lines and mains hum
    quiet : the quietest frames [shape=(frames,)], None when there are none
    """

    raw: FloatArray
    lines: FloatArray
    quiet: BoolArray | None
    t_s: FloatArray
    bin_hz: float
    frame_s: float


@dataclass(frozen=True)
class LowBand:
    """Sound up to about 3 kHz [shape=(n,), float32] at `rate_hz`, and what is derived from it on demand.

    level_nats : logarithm of the mean square of the differenced full-band sound, at `level_rate_hz`
    spoilt_s : stretches [s, run's clock] in which something else is louder: voices
    """

    samples: FloatArray
    rate_hz: float
    start_s: float
    level_nats: FloatArray
    level_rate_hz: float
    mains_hz: tuple[int, ...]
    spoilt_s: tuple[Span, ...] = ()

    @classmethod
    def of(cls, audio: AudioSignal, *, start_s: float, mains_hz: int | None) -> LowBand:
        samples, rate = decimated(audio.samples, sample_rate_hz=audio.sample_rate_hz, target_hz=LOW_RATE_HZ)
        hop = max(1, round(audio.sample_rate_hz / LEVEL_RATE_HZ))
        rough = np.diff(audio.samples)
        count = max(1, rough.size // hop)
        cells = rough[: count * hop].reshape(count, -1)
        power = np.einsum("ij,ij->i", cells, cells) / np.float32(cells.shape[1])
        level = np.log(power + np.float32(1e-12))
        either = (50, 60) if mains_hz is None else (mains_hz,)
        return cls(samples, rate, start_s, level, audio.sample_rate_hz / hop, either)

    @property
    def end_s(self) -> float:
        return self.start_s + self.samples.size / self.rate_hz

    @property
    def sample_s(self) -> FloatArray:
        """Time of every sample [shape=(n,), s]."""
        return self.start_s + np.arange(self.samples.size) / self.rate_hz

    def moved(self, lag_s: float) -> LowBand:
        """The same sound on a corrected clock; what was made of it is kept."""
        moved_s = tuple((begin + lag_s, end + lag_s) for begin, end in self.spoilt_s)
        out = replace(self, start_s=self.start_s + lag_s, spoilt_s=moved_s)
        self._hand_on(out, tuple(replace(part, t_s=part.t_s + lag_s) for part in self.spectra))
        return out

    def without(self, spans: tuple[Span, ...]) -> LowBand:
        """The same sound with stretches marked as spoilt, whose lines say nothing; what was made of it is kept."""
        if not spans:
            return self
        out = replace(self, spoilt_s=spans)
        clean = (replace(part, lines=part.lines * ~within(part.t_s, spans)[:, None]) for part in self.spectra)
        self._hand_on(out, tuple(clean))
        return out

    def _hand_on(self, other: LowBand, spectra: tuple[LineFrames, ...]) -> None:
        """Give another the lines, and the slow part, which depends on the samples alone."""
        other.__dict__["spectra"] = spectra
        if "slow" in self.__dict__:
            other.__dict__["slow"] = self.slow

    def quiet_at(self, t_s: FloatArray) -> BoolArray | None:
        """Whether the sound is at its quietest at the given times [shape like t_s], None when it never is."""
        smooth = scipy.ndimage.uniform_filter1d(self.level_nats, max(1, int(0.4 * self.level_rate_hz)))
        quiet = quietest(smooth * np.float32(10.0 / np.log(10.0)))
        if quiet is None:
            return None
        index = np.clip(((t_s - self.start_s) * self.level_rate_hz).astype(int), 0, quiet.size - 1)
        return np.asarray(quiet[index])

    def tone_level_db(self, frequency_hz: float) -> FloatArray:
        """Level of one tone in frames of a quarter of a second [shape=(frames,), dB re full scale]."""
        length = max(8, int(0.25 * self.rate_hz))
        count = self.samples.size // length
        turn = tone_carrier(frequency_hz, count=length, rate_hz=self.rate_hz) * np.hanning(length).astype(np.float32)
        parts = self.samples[: count * length].reshape(count, length) @ turn.view(np.float32).reshape(length, 2)
        return np.asarray(20.0 * np.log10(np.hypot(*parts.T) * 4.0 / length / np.sqrt(2.0) + 1e-9))

    def is_mains(self, frequency_hz: float) -> bool:
        """Whether a frequency lies at a multiple of the mains frequency, within 3 Hz."""
        return any(abs(frequency_hz - mains * round(frequency_hz / mains)) < 3.0 for mains in self.mains_hz)

    @cached_property
    def slow(self) -> tuple[FloatArray, float]:
        """The part below about 200 Hz and its rate."""
        return decimated(self.samples, sample_rate_hz=self.rate_hz, target_hz=SLOW_RATE_HZ)

    @cached_property
    def modulation(self) -> FloatArray:
        """Level without its slow changes [shape=(n,), nats], at `level_rate_hz`."""
        smooth = scipy.ndimage.uniform_filter1d(self.level_nats, int(MODULATION_S * self.level_rate_hz))
        return np.asarray(self.level_nats - smooth)

    @cached_property
    def spectra(self) -> tuple[LineFrames, ...]:
        """Lines in short and in longer frames; a recording shorter than a frame has none of that length."""
        out: list[LineFrames] = []
        for frame_s in FRAMES_S:
            pad = int(0.5 * frame_s * self.rate_hz)
            try:
                spectrum = short_time_power(
                    np.pad(self.samples, pad), sample_rate_hz=self.rate_hz, frame_s=frame_s, hop_s=HOP_S
                )
            except NotMeasurable:
                continue
            width = int(FLOOR_WIDTH_HZ / spectrum.bin_hz)
            floor = floor_of_frames(spectrum.power, width=width, line_bins=HANN_LINE_BINS)
            raw = line_strength(spectrum.power, floor)
            quiet = self.quiet_at(spectrum.t_s + self.start_s - pad / self.rate_hz)
            lines = without_standing_lines(raw, quiet, bin_hz=spectrum.bin_hz)
            lines = without_mains(lines, self.mains_hz, bin_hz=spectrum.bin_hz)
            t_s = spectrum.t_s + self.start_s - pad / self.rate_hz
            out.append(LineFrames(raw=raw, lines=lines, quiet=quiet, t_s=t_s, bin_hz=spectrum.bin_hz, frame_s=frame_s))
        return tuple(out)
