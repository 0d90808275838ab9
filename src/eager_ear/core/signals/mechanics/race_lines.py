"""Bearing damage: which race's lines an envelope spectrum shows, and how surely.

A family of lines is summed and held against the chance that the floor shows as much; the search over bands, sizes,
races and slips is paid for by Bonferroni's factor. What the drum itself does once per turn has sidebands and skirts
beside every whole order, which are told from a race by their aliases and by what lies nearer to the whole order
(kinematics and sidebands: Randall & Antoni, Mech. Syst. Signal Process. 25(2), 2011, pp. 485-520).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
import scipy

from eager_ear.core.machine import BearingSize, race_orders
from eager_ear.core.signals.mechanics.envelope_spectrum import SEGMENT_TURNS, SKIRT_REACH, EnvelopeSpectrum
from eager_ear.core.units import FloatArray

# Impulses of a race keep three lines that noise leaves standing; more add noise.
HARMONICS = (1, 2, 3)
# The long segments are asked only for what lies so near to a whole order.
CLOSE_TO_TURN = 0.06


@dataclass(frozen=True, kw_only=True)
class RaceLine:
    """The best match of one race: where, how strong, how sure."""

    bearing: str
    race: str
    order: float
    nominal_order: float
    band_hz: tuple[float, float]
    segment_turns: int
    ratio_db: float
    false_alarm: float
    harmonics: int


def find_race_lines(
    spectra: Sequence[EnvelopeSpectrum], *, bearings: Sequence[tuple[str, BearingSize]]
) -> tuple[RaceLine, ...]:
    """Best line family of every bearing and race, surest first.

    Parameters
    ----------
    bearings : (place, size) of the bearings to look for

    Returns
    -------
    lines : `false_alarm` is the chance that noise anywhere in the search shows this much
    """
    if not spectra:
        return ()
    trials = sum(s.shifts.size for s in spectra) * 3 * 2 * max(1, len(bearings))
    races = [(place, size, *race) for place, size in bearings for race in _races(size)]
    nominal, sideband = np.array([race[3:] for race in races]).reshape(-1, 2).T
    matches = [_best_matches(spectrum, nominal=nominal, sideband=sideband) for spectrum in spectra]
    out: list[RaceLine] = []
    for k, (place, size, race, order, _) in enumerate(races):
        found = [(match[k], spectrum) for match, spectrum in zip(matches, spectra, strict=True)]
        best, spectrum = min(found, key=lambda one: one[0].log10_p)
        if not np.isfinite(best.log10_p):
            continue
        out.append(
            RaceLine(
                bearing=f"{place} {size.designation}".strip(),
                race=race,
                order=order * (1.0 + best.shift),
                nominal_order=order,
                band_hz=spectrum.band_hz,
                segment_turns=spectrum.segment_turns,
                ratio_db=float(10.0 * np.log10(max(best.ratio, 1e-3))),
                false_alarm=float(min(1.0, 10.0 ** min(0.0, best.log10_p + np.log10(trials)))),
                harmonics=best.harmonics,
            )
        )
    return tuple(sorted(out, key=lambda line: (line.false_alarm, -line.ratio_db)))


def _races(size: BearingSize) -> tuple[tuple[str, float, float], ...]:
    """Name, order and distance of the sidebands of every race."""
    orders = race_orders(size)
    return (
        ("outer", orders.outer_race, 1.0),
        ("inner", orders.inner_race, 1.0),
        ("ball", 2.0 * orders.ball, orders.cage),
    )


class _Match(NamedTuple):
    """How well a race fits one spectrum, at the shift that fits best; an infinite chance where none does."""

    log10_p: float
    shift: float
    ratio: float
    harmonics: int


def _best_matches(spectrum: EnvelopeSpectrum, *, nominal: FloatArray, sideband: FloatArray) -> list[_Match]:
    """The best match of every race in one spectrum.

    Parameters
    ----------
    nominal, sideband : array [shape=(races,)], its order and the distance of its sidebands
    """
    orders = nominal[:, None] * (1.0 + spectrum.shifts)
    off_turn = np.abs(orders - np.rint(orders))
    # So near a whole order a race cannot be told from the drum itself; long segments tell what short ones cannot.
    clear = off_turn > spectrum.guard
    if spectrum.segment_turns > SEGMENT_TURNS:
        clear &= off_turn < CLOSE_TO_TURN
    race, which = np.nonzero(clear)
    shifted = orders[race, which]
    lines = shifted[:, None] * np.array(HARMONICS)
    beside = shifted[:, None] + sideband[race, None] * np.array([-1.0, 1.0])
    values = _values(spectrum, np.column_stack([lines, beside]))
    own = values[:, : len(HARMONICS)]
    above = np.nan_to_num(values, nan=1.0) > spectrum.standing
    standing = above[:, : len(HARMONICS)].sum(axis=1)
    # One line may be anything; a family is a bearing's: two of its multiples, or one between its sidebands, unless
    # those lie beside whole orders as well, as the drum's own do.
    flanked = (standing == 1) & (above.sum(axis=1) == 3) & (off_turn[race, which] > SKIRT_REACH)
    families = np.flatnonzero((standing >= 2) | flanked)
    log10_p = np.full(orders.shape, np.inf)
    log10_p[race[families], which[families]] = np.minimum(
        _log10_sf_sum(own[families], spectrum.averages), _log10_sf_sum(values[families], spectrum.averages)
    )
    row = np.zeros(orders.shape, dtype=int)
    row[race, which] = np.arange(race.size)
    best = log10_p.argmin(axis=1)
    out: list[_Match] = []
    for k, shift in enumerate(best):
        chance, at = float(log10_p[k, shift]), row[k, shift]
        if np.isfinite(chance):
            ratio, harmonics = float(np.nanmax(own[at])), int(standing[at])
            out.append(_Match(chance, float(spectrum.shifts[shift]), ratio, harmonics))
        else:
            out.append(_Match(np.inf, 0.0, 0.0, 0))
    return out


def _values(spectrum: EnvelopeSpectrum, orders: FloatArray) -> FloatArray:
    """Ratios at the orders [shape like them], NaN outside the spectrum and near whole turns."""
    step = float(spectrum.order[1])
    whole = np.rint(orders)
    good = (orders > 0.4) & (orders < spectrum.order[-1] - 0.1) & (np.abs(orders - whole) > spectrum.guard)
    index = np.clip(np.rint(orders / step).astype(int), 0, spectrum.ratio.size - 1)
    values = spectrum.ratio[index]
    # What stands half as high at equal distance across a whole order is a sideband of the drum's own knock, modulation
    # or hunting; what is weaker than something nearer to it lies on the skirts of a tick that wanders. Above skirts a
    # line has to stand as above any other floor.
    across = spectrum.ratio[np.clip(np.rint((2.0 * whole - orders) / step).astype(int), 0, spectrum.ratio.size - 1)]
    most, mean = spectrum.beside_turn[:, index]
    drums = (across - 1.0 > 0.5 * (values - 1.0)) | (most > values)
    values = values / np.maximum(mean, 1.0)
    return np.where(good, np.where(drums, np.minimum(values, 1.0), values), np.nan)


def _log10_sf_sum(ratios: FloatArray, averages: float) -> FloatArray:
    """Chance that the sum of each row's floor values is as large, NaN left out [shape=(rows,)]."""
    shape = averages * np.maximum(np.isfinite(ratios).sum(axis=1), 1)
    return np.asarray(
        np.log10(np.maximum(scipy.special.gammaincc(shape, averages * np.nansum(ratios, axis=1)), 1e-300))
    )
