"""Single blows in a band of the sound: when they come and how far they rise above what surrounds them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy import ndimage
from scipy import signal as sps

from eager_ear.core.signals.bands import SectionSpectrum, SoundSections
from eager_ear.core.signals.medians import median_along
from eager_ear.core.units import FloatArray

SURROUNDINGS_S = 0.6
BEFORE_S = 0.04
# Band power of Gaussian noise in cells of one over the bandwidth is exponential: sixteen times its median, 12 dB,
# comes about once in sixty thousand cells.
LEAST_RISE_DB = 12.0


@dataclass(frozen=True, kw_only=True)
class Transients:
    """Blows in one band: t_s [shape=(n,), s on the run's clock], rise_db [shape=(n,)] over the local median.

    level_db : level of the band on an even clock [shape=(cells,)], starting at `start_s`, one cell every `cell_s`
    """

    t_s: FloatArray
    rise_db: FloatArray
    level_db: FloatArray
    start_s: float
    cell_s: float

    def between(self, begin_s: float, end_s: float) -> slice:
        """Those in a stretch, as a slice of the arrays."""
        first, last = np.searchsorted(self.t_s, [begin_s, end_s])
        return slice(int(first), int(last))


def find_transients(sections: SoundSections, *, bands: dict[str, tuple[float, float]]) -> dict[str, Transients]:
    """Blows in every band, a minute at a time."""
    powers: dict[str, list[FloatArray]] = {name: [] for name in bands}
    cells: dict[str, float] = {}
    for k in range(sections.count):
        section = sections.spectrum(k)
        kept_s = min(sections.length, section.samples) / sections.rate_hz
        for name, band in bands.items():
            power, cell_s = _cell_power(section, band)
            cells[name] = cell_s
            powers[name].append(power[: int(round(kept_s / cell_s))])
    start_s = sections.span_s(0)[0]
    return {name: _blows(np.concatenate(powers[name]), cells[name], start_s) for name in bands}


def _cell_power(section: SectionSpectrum, band: tuple[float, float]) -> tuple[FloatArray, float]:
    """Mean power in cells of at least one over the bandwidth, and a millisecond [shape=(cells,)]."""
    base, rate = section.baseband(*band)
    power = base.real**2 + base.imag**2
    per_cell = max(1, round(rate * max(1.0 / (band[1] - band[0]), 0.001)))
    count = power.size // per_cell
    return power[: count * per_cell].reshape(count, per_cell).mean(axis=1), per_cell / rate


def _blows(power: FloatArray, cell_s: float, start_s: float) -> Transients:
    level = 10.0 * np.log10(power + 1e-16)
    # Median over the surroundings, of the medians of twentieths of a second: it moves slowly.
    step = max(1, int(0.05 / cell_s))
    medians = median_along(level[: level.size // step * step].reshape(-1, step), axis=1)
    floor = np.repeat(ndimage.median_filter(medians, size=max(3, int(SURROUNDINGS_S / (step * cell_s)))), step)
    floor = np.pad(floor, (0, level.size - floor.size), mode="edge") if floor.size else level
    # The tail of a blow, the room's echo, must not count as further blows: it is measured against itself.
    before = max(2, int(BEFORE_S / cell_s))
    trailing = np.convolve(power, np.ones(before) / before)[: level.size]
    trailing = np.concatenate([np.full(2, trailing[0]), trailing[:-2]])
    rise = level - np.maximum(floor, 10.0 * np.log10(trailing + 1e-16))
    distance = max(1, int(0.03 / cell_s))
    peaks, _ = sps.find_peaks(rise, height=LEAST_RISE_DB, distance=distance)
    return Transients(
        t_s=start_s + (peaks + 0.5) * cell_s, rise_db=rise[peaks], level_db=level, start_s=start_s, cell_s=cell_s
    )
