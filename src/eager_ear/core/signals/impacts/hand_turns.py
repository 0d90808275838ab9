"""What a drum sounds like while a hand turns it slowly: how rough, and whether something comes back once a turn.

A hand turns at 15 to 60 rpm, never evenly, so that whatever happens once a turn comes back after nearly, not exactly,
the same time. What comes back is sought in the level over time by its autocorrelation, and held against the same level
cut into pieces and laid together in another order, which keeps its ups and downs and loses what comes back (block
resampling: Künsch, Ann. Statist. 17, 1989).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.types import AudioSignal
from eager_ear.core.units import FloatArray, IntArray

# Races and scrapes are heard here; below lie the room's hum and the hand's own thuds, above little of a slow turn.
BAND_HZ = (400.0, 6000.0)
FRAME_S = 0.02
# A hand turns a drum once in one to four seconds.
TURN_S = (1.0, 4.2)
LEAST_TURNS = 2.5
# Slower ups and downs than this are the hand's and the room's.
TREND_S = 2.0
# Pieces that are laid in another order: shorter than a turn, longer than a scrape.
PIECE_S = 0.4
SHUFFLES = 300
# What happens within less than this share of a turn is a touch at one place; a hand that pushes takes longer.
NARROW_SHARE = 0.3


@dataclass(frozen=True, kw_only=True)
class HandTurns:
    """rough_db : scatter of the level within a turn [dB]

    turn_s : time after which the sound comes back, None where nothing does; false_alarm : chance that it only seems so
    narrow : whether what comes back takes a small part of a turn: a touch, not the push of a hand
    """

    rough_db: float
    turn_s: float | None
    false_alarm: float
    narrow: bool


def hand_turns(audio: AudioSignal) -> HandTurns:
    """Roughness and returns of a drum that is turned by hand.

    Raises
    ------
    NotMeasurable
        Too short for two turns and a half of a slow hand.
    """
    level = _levels_db(audio)
    frames_of = 1.0 / FRAME_S
    if len(level) < LEAST_TURNS * TURN_S[1] * frames_of:
        raise NotMeasurable(
            quantity="what comes back once a turn", reason="it is too short: turn the drum for eleven seconds at least."
        )
    flat = level - scipy.ndimage.median_filter(level, int(TREND_S * frames_of) | 1, mode="nearest")
    lags = np.arange(int(TURN_S[0] * frames_of), int(TURN_S[1] * frames_of) + 1)
    returns = _returns(flat, lags)
    best = float(returns.max())
    rng = np.random.default_rng(0)
    chance = np.array([_returns(_shuffled(flat, rng), lags).max() for _ in range(SHUFFLES)])
    false_alarm = float((1 + np.sum(chance >= best)) / (1 + SHUFFLES))
    # Twice the turn comes back as well: the first that is nearly as good is the turn.
    turn_s = float(lags[np.flatnonzero(returns >= 0.8 * best)[0]]) * FRAME_S
    rough_db = float(np.subtract(*np.percentile(flat, [75, 25])) / 1.35)
    return HandTurns(
        rough_db=rough_db,
        turn_s=turn_s if false_alarm < 0.05 else None,
        false_alarm=false_alarm,
        narrow=_width_s(flat, turn_s) < NARROW_SHARE * turn_s,
    )


def _levels_db(audio: AudioSignal) -> FloatArray:
    top = min(BAND_HZ[1], 0.45 * audio.sample_rate_hz)
    sos = scipy.signal.butter(4, (BAND_HZ[0], top), btype="bandpass", fs=audio.sample_rate_hz, output="sos")
    heard = scipy.signal.sosfiltfilt(sos, audio.samples.astype(float))
    size = int(FRAME_S * audio.sample_rate_hz)
    whole = len(heard) // size * size
    power = np.mean(heard[:whole].reshape(-1, size) ** 2, axis=1)
    out: FloatArray = 10.0 * np.log10(power + 1e-12)
    return out


def _returns(flat: FloatArray, lags: IntArray) -> FloatArray:
    """Autocorrelation of a level without its trend at some lags, each over what overlaps."""
    size = len(flat)
    power = np.abs(np.fft.rfft(flat, 2 * size)) ** 2
    together = np.fft.irfft(power)[lags] / (size - lags)
    out: FloatArray = together / max(float(np.var(flat)), 1e-9)
    return out


def _shuffled(flat: FloatArray, rng: np.random.Generator) -> FloatArray:
    piece = int(PIECE_S / FRAME_S)
    turned = np.roll(flat, int(rng.integers(piece)))
    pieces = np.array_split(turned, max(2, len(flat) // piece))
    return np.concatenate([pieces[k] for k in rng.permutation(len(pieces))])


def _width_s(flat: FloatArray, turn_s: float) -> float:
    """How long that which comes back stays alike [s]: the width of its return at half its height."""
    around = np.arange(max(1, int(0.5 * turn_s / FRAME_S)), int(1.5 * turn_s / FRAME_S) + 1)
    returns = scipy.ndimage.gaussian_filter1d(_returns(flat, around), 2.0)
    top = int(np.argmin(np.abs(around - turn_s / FRAME_S)))
    low = np.flatnonzero(returns < 0.5 * returns[top])
    before, after = low[low < top], low[low > top]
    first = before[-1] if len(before) else 0
    last = after[0] if len(after) else len(around) - 1
    return float(last - first) * FRAME_S
