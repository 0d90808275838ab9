"""What remains of the noise once the motor is off."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.angle import SpeedTrack
from eager_ear.core.signals.dsp import Spectrogram
from eager_ear.core.signals.speed import Phases


@dataclass(frozen=True, kw_only=True)
class Persistence:
    """Level in the coast-down minus level at the same speed under power [dB]; negative: it goes with the motor."""

    change_db: float
    sigma_db: float
    band_hz: tuple[float, float]


def persistence(
    spectrum: Spectrogram, *, start_s: float, track: SpeedTrack, phases: Phases, band_hz: tuple[float, float]
) -> Persistence:
    """Does the noise stay when the motor is off?

    Raises
    ------
    NotMeasurable
        No coast-down or no powered stretch at the same speeds.
    """
    cut = phases.power_cut_s
    if cut is None:
        raise NotMeasurable(quantity="noise with the motor off", reason="no coast-down was recorded.")
    t_s = spectrum.t_s + start_s
    rate = track.at(t_s)
    level = 10.0 * np.log10(spectrum.band_power(*band_hz) + 1e-16)
    top = float(np.nanmax(rate)) if np.isfinite(rate).any() else 0.0
    fast = np.isfinite(rate) & (rate > 0.35 * top) & (rate < 0.97 * top)
    powered, coasting = fast & (t_s < cut - 0.3), fast & (t_s > cut + 0.5)
    if powered.sum() < 10 or coasting.sum() < 10:
        raise NotMeasurable(
            quantity="noise with the motor off", reason="power and coast-down do not share a range of speeds."
        )
    bins = np.linspace(0.35 * top, 0.97 * top, 9)
    differences = []
    for low, high in pairwise(bins):
        p, c = powered & (rate >= low) & (rate < high), coasting & (rate >= low) & (rate < high)
        if p.sum() >= 3 and c.sum() >= 3:
            differences.append(float(np.median(level[c]) - np.median(level[p])))
    if len(differences) < 2:
        raise NotMeasurable(
            quantity="noise with the motor off", reason="power and coast-down do not share a range of speeds."
        )
    spread = float(np.std(differences)) / np.sqrt(len(differences))
    return Persistence(change_db=float(np.median(differences)), sigma_db=max(spread, 0.5), band_hz=band_hz)
