"""Lines in short-time spectra: how far they stand out, which of them are not the machine's, reading them off."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import scipy

from eager_ear.core.signals.dsp.medians import median_along
from eager_ear.core.signals.dsp.transform import HANN_LINE_BINS, Spectrogram, floor_of_frames
from eager_ear.core.units import BoolArray, FloatArray

# No line says more, however loud: beyond 40 dB a stronger one is not a likelier one.
LINE_CAP_NATS = 9.0
# What sounds with the machine at rest: a line above this in half of the quiet frames is someone else's.
LEAST_QUIET_DB = 4.0
MAINS_HARMONICS = 6
LEAST_STANDING_NATS = 1.0
SLOWEST_STANDING_HZ = 2.5


def line_strength(power: FloatArray, floor: FloatArray) -> FloatArray:
    """How far each bin stands above its floor, in nats, less what noise shows on average, capped [like `power`]."""
    # log(1 + x) of an exponential variable has a mean of 0.6: taken out, so that noise adds nothing to a comb.
    strength = np.asarray(power / floor, dtype=np.float32)
    strength += np.float32(1.0)
    np.log(strength, out=strength)
    strength -= np.float32(0.6)
    # Beyond the cap a tenth counts: a strong line decides no more than a clear one, but its middle stays a maximum.
    over = strength - np.float32(LINE_CAP_NATS)
    np.maximum(over, 0.0, out=over)
    over *= np.float32(0.9)
    strength -= over
    return strength


def spectrum_lines(
    spectrum: Spectrogram, *, width_hz: float, quantile: float = 0.5, quiet: BoolArray | None
) -> FloatArray:
    """Line strength of a whole spectrogram over its local floor, standing lines removed [shape=(frames, bins)].

    Parameters
    ----------
    quiet : frames in which the machine is at its quietest [shape=(frames,)], None when that is not known
    """
    floor = floor_of_frames(
        spectrum.power, width=int(width_hz / spectrum.bin_hz), line_bins=HANN_LINE_BINS, quantile=quantile
    )
    return without_standing_lines(line_strength(spectrum.power, floor), quiet, bin_hz=spectrum.bin_hz)


def quietest(level_db: FloatArray) -> BoolArray | None:
    """The quietest seventh of the moments, None when the recording never gets much quieter than its loudest."""
    if level_db.size < 8 or np.percentile(level_db, 90) - np.percentile(level_db, 7) < LEAST_QUIET_DB:
        return None
    return np.asarray(level_db <= np.percentile(level_db, 15))


def quiet_frames(power: FloatArray, *, bin_hz: float) -> BoolArray | None:
    """The quietest frames by their own power; drift and gravity, below 2 Hz, do not count."""
    return quietest(10.0 * np.log10(power[:, int(SLOWEST_STANDING_HZ / bin_hz) + 1 :].sum(axis=1) + 1e-20))


def standing_strength(lines: FloatArray, quiet: BoolArray | None) -> FloatArray | None:
    """Strength of each bin in the quiet frames of both halves of the recording [shape=(bins,)], None where unknown.

    A drum at full speed is not among the quiet frames; what it does at tumble only sounds in one half.
    """
    if quiet is None or quiet.sum() < 8:
        return None
    index = np.flatnonzero(quiet)
    halves = [part for part in (index[index < quiet.size // 2], index[index >= quiet.size // 2]) if part.size >= 4]
    return np.asarray(np.min([median_along(lines[part], axis=0) for part in halves], axis=0))


def standing_lines(lines: FloatArray, quiet: BoolArray | None, *, bin_hz: float) -> list[float]:
    """Frequencies that sound in the quiet frames of both halves [Hz], strongest first."""
    strength = standing_strength(lines, quiet)
    if strength is None:
        return []
    peak = (strength == scipy.ndimage.maximum_filter1d(strength, 5)) & (strength > 2.0 * LEAST_STANDING_NATS)
    peak[: int(20.0 / bin_hz)] = False
    found = np.flatnonzero(peak)
    return [float(k * bin_hz) for k in found[np.argsort(-strength[found])]]


def without_standing_lines(lines: FloatArray, quiet: BoolArray | None, *, bin_hz: float) -> FloatArray:
    """Lines less what stands at the same frequency while the machine is at its quietest: neighbours, mains, fans."""
    standing = standing_in(lines, quiet, bin_hz=bin_hz)
    return lines if standing is None else less_standing(lines, standing)


def less_standing(lines: FloatArray, standing: FloatArray) -> FloatArray:
    """Lines less what stands in the frames of rest, with a margin for its scatter [shape like `lines`]."""
    return np.asarray(lines - np.float32(1.3) * standing.astype(np.float32))


def standing_bins(lines: FloatArray, quiet: BoolArray | None, *, bin_hz: float) -> BoolArray:
    """Where something stands at the same frequency while the machine is at its quietest [shape=(bins,)]."""
    standing = standing_in(lines, quiet, bin_hz=bin_hz)
    return np.zeros(lines.shape[-1], dtype=bool) if standing is None else np.asarray(standing > 0.0)


def standing_in(lines: FloatArray, quiet: BoolArray | None, *, bin_hz: float) -> FloatArray | None:
    """What stands in each bin while the machine is quietest, zero where nothing does [shape=(bins,)], in nats."""
    strength = standing_strength(lines, quiet)
    if strength is None:
        return None
    standing = scipy.ndimage.maximum_filter1d(np.where(strength > LEAST_STANDING_NATS, strength, 0.0), 3)
    standing[: int(SLOWEST_STANDING_HZ / bin_hz)] = 0.0
    return np.asarray(standing)


def without_mains(lines: FloatArray, mains_hz: Sequence[int], *, bin_hz: float) -> FloatArray:
    """Lines with even multiples of the mains frequency taken out: motors and transformers hum there at any speed."""
    out = lines.copy()
    for mains in mains_hz:
        for harmonic in range(1, MAINS_HARMONICS + 1):
            centre = 2 * mains * harmonic / bin_hz
            out[:, max(0, int(centre - 1.7)) : int(centre + 2.7)] = 0.0
    return out


def read_rows(lines: FloatArray, *, bin_hz: float, frequencies_hz: FloatArray) -> FloatArray:
    """Line strength at any frequencies [shape=(len(frequencies), frames)], zero beyond the spectrum.

    Parameters
    ----------
    lines : array [shape=(bins, frames)]: a frequency's line is one stretch of memory
    """
    index = np.rint(frequencies_hz / bin_hz).astype(int)
    inside = (index > 0) & (index < lines.shape[0])
    out = lines.take(np.where(inside, index, 0), axis=0)
    if not inside.all():
        out[~inside] = 0.0
    return np.asarray(out)
