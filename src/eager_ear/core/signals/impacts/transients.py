"""Single impacts in a band of the sound: when they come and how far they rise above what surrounds them.

The band is whitened first: rooms and machines are loudest at low frequencies, impacts ring anywhere.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy

from eager_ear.core.signals.dsp import SectionSpectrum, SoundSections, median_along
from eager_ear.core.units import FloatArray, IntArray, Span

# Longer than a turn at distribution speed, so that an impact a turn is no surrounding.
SURROUNDINGS_S = 0.6
# Rise is held against what came just before: an impact rises within milliseconds, a voice does not.
BEFORE_S = 0.04
# Band power of Gaussian noise in cells of one over the bandwidth is exponential: sixteen times its median, 12 dB,
# comes about once in sixty thousand cells.
LEAST_RISE_DB = 12.0
NOISE_SHARE = 1.0 / 60_000.0
# Wide bands average over more, and noise seldom rises so far there; but less than this nobody would call an impact.
FAINTEST_RISE_DB = 7.0
# An impact is over as soon as it has come: within this time it is down by half of its rise, or by 8 dB where it rises
# far. A syllable lasts four times as long. Asked of levels that average over at least so many independent values; lower
# bands ring on for a few of their periods.
SHARP_S = 0.02
SHARP_DROP_DB = 8.0
STEADY_VALUES = 7
SHARP_PERIODS = 9.0
AROUND_S = 0.12


@dataclass(frozen=True, kw_only=True)
class Transients:
    """Impacts in one band: t_s [shape=(n,), s on the run's clock], rise_db [shape=(n,)] over the local median.

    faint_t_s, faint_rise_db : the same down to what noise of this band shows as rarely [shape=(m,)]
    level_db : level of the band on an even clock [shape=(cells,)], starting at `start_s`, one cell every `cell_s`
    values : independent values that each cell averages
    """

    t_s: FloatArray
    rise_db: FloatArray
    faint_t_s: FloatArray
    faint_rise_db: FloatArray
    level_db: FloatArray
    start_s: float
    cell_s: float
    values: float

    def between(self, begin_s: float, end_s: float) -> slice:
        """Those in a stretch, as a slice of the arrays."""
        first, last = np.searchsorted(self.t_s, [begin_s, end_s])
        return slice(int(first), int(last))

    def cells_at(self, t_s: FloatArray) -> IntArray:
        """Cells of the level that moments lie in [shape like `t_s`]."""
        return np.asarray(np.floor((t_s - self.start_s) / self.cell_s).astype(int))


def sharp_impacts(impacts: Transients, span: Span) -> list[FloatArray]:
    """Moments [s] of the impacts in a stretch that are over at once, unlike speech: of all, and of the clear ones."""
    average = max(1, round(STEADY_VALUES / impacts.values))
    if average * impacts.cell_s > SHARP_S:
        # A low band: single cells must do.
        average = 1
    longest = max(SHARP_S + average * impacts.cell_s, SHARP_PERIODS * impacts.cell_s / impacts.values)
    around = int(max(AROUND_S, longest) / impacts.cell_s)
    begin, end = np.searchsorted(impacts.faint_t_s, span)
    t_s, rise_db = impacts.faint_t_s[begin:end], impacts.faint_rise_db[begin:end]
    if t_s.size == 0:
        return [t_s, t_s]
    cells = impacts.cells_at(t_s)
    # Only what is looked at; cells are counted from there on.
    first = max(0, int(cells[0]) - around - average)
    level = impacts.level_db[first : int(cells[-1]) + around + average + 1]
    cells = cells - first
    single = level
    if average > 1:
        level = 10.0 * np.log10(scipy.ndimage.uniform_filter1d(10.0 ** (level / 10.0), average) + 1e-16)
    lasts = np.zeros(t_s.size)
    for k, cell in enumerate(cells):
        near = level[max(0, cell - around) : cell + around]
        top = float(level[max(0, cell - average) : cell + average + 1].max())
        rise = top - (float(single[cell]) - float(rise_db[k]))
        high = np.flatnonzero(near > top - min(SHARP_DROP_DB, max(rise, 2.0) / 2.0))
        lasts[k] = (high[-1] - high[0] + 1) * impacts.cell_s
    sharp = lasts <= longest
    return [t_s[sharp], t_s[sharp & (rise_db >= LEAST_RISE_DB)]]


def find_transients(sections: SoundSections, *, bands: dict[str, tuple[float, float]]) -> dict[str, Transients]:
    """Impacts in every band, a minute at a time."""
    powers: dict[str, list[FloatArray]] = {name: [] for name in bands}
    cells: dict[str, float] = {}
    values = dict.fromkeys(bands, 1.0)
    # One colour for all, so that levels join: the first minute holds the slow turning, where the faintest impacts are.
    colour = sections.spectrum(0).colour(up_to_hz=max(high for _, high in bands.values()))
    for k in range(sections.count):
        section = sections.spectrum(k)
        kept_s = min(sections.length, section.samples) / sections.rate_hz
        for name, band in bands.items():
            power, cell_s = _cell_power(section, band, colour)
            cells[name] = cell_s
            values[name] = max(1.0, cell_s * (band[1] - band[0]))
            powers[name].append(power[: int(round(kept_s / cell_s))])
    start_s = sections.span_s(0)[0]
    return {name: _impacts(np.concatenate(powers[name]), cells[name], start_s, values[name]) for name in bands}


def _cell_power(section: SectionSpectrum, band: tuple[float, float], colour: FloatArray) -> tuple[FloatArray, float]:
    """Mean power in cells of at least one over the bandwidth, and a millisecond, noise whitened [shape=(cells,)]."""
    base, rate = section.baseband(*band, colour=colour)
    power = base.real**2 + base.imag**2
    per_cell = max(1, round(rate * max(1.0 / (band[1] - band[0]), 0.001)))
    count = power.size // per_cell
    return power[: count * per_cell].reshape(count, per_cell).mean(axis=1), per_cell / rate


def _impacts(power: FloatArray, cell_s: float, start_s: float, values: float) -> Transients:
    level = 10.0 * np.log10(power + 1e-16)
    # Median over the surroundings, of the medians of twentieths of a second: it moves slowly.
    step = max(1, int(0.05 / cell_s))
    medians = median_along(level[: level.size // step * step].reshape(-1, step), axis=1)
    floor = np.repeat(scipy.ndimage.median_filter(medians, size=max(3, int(SURROUNDINGS_S / (step * cell_s)))), step)
    floor = np.pad(floor, (0, level.size - floor.size), mode="edge") if floor.size else level
    # The tail of an impact, the room's echo, must not count as further impacts: it is measured against itself.
    before = max(2, int(BEFORE_S / cell_s))
    trailing = scipy.ndimage.uniform_filter1d(power, before, mode="constant", origin=(before - 1) // 2)
    trailing = np.maximum(np.concatenate([np.full(2, trailing[0]), trailing[:-2]]), 0.0)
    rise = level - np.maximum(floor, 10.0 * np.log10(trailing + 1e-16))
    distance = max(1, int(0.03 / cell_s))
    faintest = 10.0 * np.log10(scipy.special.gammainccinv(values, NOISE_SHARE) / scipy.special.gammaincinv(values, 0.5))
    peaks, _ = scipy.signal.find_peaks(
        rise, height=min(LEAST_RISE_DB, max(FAINTEST_RISE_DB, faintest)), distance=distance
    )
    t_s, rise_db = start_s + (peaks + 0.5) * cell_s, rise[peaks]
    clear = rise_db >= LEAST_RISE_DB
    return Transients(
        t_s=t_s[clear],
        rise_db=rise_db[clear],
        faint_t_s=t_s,
        faint_rise_db=rise_db,
        level_db=level,
        start_s=start_s,
        cell_s=cell_s,
        values=values,
    )
