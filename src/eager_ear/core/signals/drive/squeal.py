"""Squeal of a slipping belt: a tone that keeps its pitch while the drum gains speed."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.dsp import Spectrogram, noise_floor
from eager_ear.core.signals.speed import Phases

# A belt squeals for a part of the ramp only: a median would miss it.
SQUEALING_PERCENTILE = 75
# Tones last for tenths of a second: every third frame shows them, in a third of the time.
EVERY_FRAME = 3


@dataclass(frozen=True, kw_only=True)
class Squeal:
    """A tone high above its surroundings that sounds while the drum gains speed and not otherwise."""

    prominence_db: float
    frequency_hz: float
    share_of_ramp: float


def find_squeal(spectrum: Spectrogram, *, start_s: float, phases: Phases) -> Squeal:
    """Strongest tone between 600 Hz and 5 kHz in the ramp that keeps its pitch while the speed changes.

    Tones of drum and motor move with the speed; stick-slip of a belt sits at a resonance of the span.

    Raises
    ------
    NotMeasurable
        No ramp of at least two seconds.
    """
    # A tone that holds for seconds is seen in every third frame as well.
    t_s = spectrum.t_s[::EVERY_FRAME] + start_s
    ramp = phases.mask("ramp", t_s).astype(bool)
    calm = phases.mask("plateau", t_s).astype(bool) | phases.mask("coast_down", t_s).astype(bool)
    if ramp.sum() * EVERY_FRAME * spectrum.hop_s < 2.0:
        raise NotMeasurable(quantity="squeal in the ramp", reason="no ramp of two seconds was recorded.")
    inside = (spectrum.frequency_hz > 600.0) & (spectrum.frequency_hz < min(5000.0, spectrum.frequency_hz[-1] * 0.9))
    power = spectrum.power[::EVERY_FRAME, inside]
    floor = noise_floor(power, width=int(400.0 / spectrum.bin_hz))
    strength = 10.0 * np.log10(power / floor + 1e-9)
    # What a quarter of the ramp's frames reach within a narrow band of pitch: a moving tone passes sooner, a squeal
    # stays, though it pauses where the belt pulls less.
    held = scipy.ndimage.maximum_filter1d(strength, size=5, axis=1)
    in_ramp = np.percentile(held[ramp], SQUEALING_PERCENTILE, axis=0)
    otherwise = np.percentile(held[calm], SQUEALING_PERCENTILE, axis=0) if calm.any() else np.median(held, axis=0)
    excess = in_ramp - np.maximum(otherwise, np.median(in_ramp))
    best = int(np.argmax(excess))
    share = float((held[ramp, best] > 0.5 * in_ramp[best]).mean())
    return Squeal(
        prominence_db=float(excess[best]),
        frequency_hz=float(spectrum.frequency_hz[inside][best]),
        share_of_ramp=share,
    )
