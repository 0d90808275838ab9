"""Which stretches of a path are a drum's: long, firm to their ends, within reach of each other."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import scipy

from eager_ear.core.signals.angle import FRAME_STEP_S, known_spans
from eager_ear.core.signals.gates import gate
from eager_ear.core.units import BoolArray, FloatArray, IntArray

# Motors reach about 180 rpm/s upwards; a braked drum falls at up to 480 rpm/s.
MAX_RISE_HZ_S = 3.0
MAX_FALL_HZ_S = 8.0
# Drums tumble and distribute below two turns a second and pass quickly from there to their slowest spin.
FASTEST_TUMBLE_HZ = 2.0
SLOWEST_SPIN_HZ = 4.5
SHORTEST_KNOWN_S = 1.0
END_S = 1.5
# Where a path begins it may lie beside the drum for a frame or two.
SAME_STATES = 4
SAME_SHARE = 0.9


@gate("weak ends", harmless=lambda known, *_, **__: known)
def trim_ends(known: BoolArray, on_path: FloatArray, *, least: float) -> BoolArray:
    """Without ends of stretches that show too little."""
    out = known.copy()
    frames = int(END_S / FRAME_STEP_S)
    for span in known_spans(known):
        mean = scipy.ndimage.uniform_filter1d(on_path[span], min(frames, span.size), mode="nearest")
        firm = np.flatnonzero(mean >= least)
        if firm.size == 0:
            out[span] = False
            continue
        out[span[: firm[0]]] = False
        out[span[firm[-1] + 1 :]] = False
    return out


def drop_short(known: BoolArray) -> BoolArray:
    """Without known stretches of less than a second."""
    out = known.copy()
    for span in known_spans(known):
        if span.size * FRAME_STEP_S < SHORTEST_KNOWN_S:
            out[span] = False
    return out


@gate("unreachable", harmless=lambda known, *_, **__: known)
def drop_unreachable(known: BoolArray, rate_hz: FloatArray, score: FloatArray) -> BoolArray:
    """Of two stretches that no drum can pass between in the time given, the one with the weaker evidence goes."""
    out = known.copy()
    while True:
        clash = next(
            (
                (a, b)
                for a, b in pairwise(known_spans(out))
                if not _reachable(rate_hz[a[-1]], rate_hz[b[0]], gap_s=float(b[0] - a[-1]) * FRAME_STEP_S)
            ),
            None,
        )
        if clash is None:
            return out
        weaker = min(clash, key=lambda span: float(score[span].sum()))
        out[weaker] = False


def _reachable(from_hz: float, to_hz: float, *, gap_s: float) -> bool:
    change = to_hz - from_hz
    return bool(-MAX_FALL_HZ_S * gap_s - 0.5 <= change <= MAX_RISE_HZ_S * gap_s + 0.5)


def carried_on(path: IntArray, known: BoolArray, further: IntArray, goes_on: BoolArray) -> tuple[IntArray, BoolArray]:
    """A path with its stretches carried on along another one that goes through them.

    Parameters
    ----------
    path, further : states of both [shape=(frames,)]
    known, goes_on : where each is followed [shape=(frames,)]
    """
    path, known = path.copy(), known.copy()
    for span in known_spans(goes_on):
        both = span[known[span]]
        if both.size and np.mean(np.abs(further[both] - path[both]) <= SAME_STATES) >= SAME_SHARE:
            path[span], known[span] = further[span], True
    return path, known
