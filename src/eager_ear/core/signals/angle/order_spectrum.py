"""Lines of a slow signal over drum angle: what it does once, twice, thrice per turn of a track, against its noise.

Frames of a second or two see a faint modulation of the noise in a few turns each. Laid over the angle of a track that
has been sharpened by phase, it adds up over hundreds of turns at exactly its order, whatever the speed did (computed
order tracking; Fyfe & Munck, MSSP 11(2), 1997, pp. 187-205).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy

from eager_ear.core.signals.angle.track import SpeedTrack
from eager_ear.core.signals.angle.whole_turns import CELLS_PER_TURN, turn_stretches
from eager_ear.core.units import BoolArray, FloatArray

# Slower, tumbling clothes and the motor's kicks hide what turns with the drum.
SLOWEST_HZ = 4.0
# Up to here drum lines and a belt drive's slow motor lines are told apart.
HIGHEST_ORDER = 7.0
# Wide enough to hold noise beside a line at whole orders, narrow enough not to reach the next.
FLOOR_ORDERS = 0.7
# Zero-padding: a line's top is read within a sixteenth of a bin.
PAD = 8


@dataclass(frozen=True, kw_only=True)
class TurnLines:
    """Spectra over the order axis of half-overlapping segments of `turns` whole turns.

    order : array [shape=(bins,)]; rate_hz : array [shape=(segments,)], speed of each segment
    ratio : array [shape=(segments, bins)], power over what noise leaves there, 1 in the mean where nothing else is
    """

    order: FloatArray
    rate_hz: FloatArray
    ratio: FloatArray
    turns: int

    def false_alarm_nats(self, order: float, *, reach: float) -> float:
        """How unlikely noise alone shows what stands at an order: -log of its chance, 0 or more.

        Noise gives each segment an exponential variable of mean one, their sum a gamma variable (Bartlett's estimate;
        segments under a Hann window that overlap by half are all but independent). The search within `reach`, a share
        of the order, is paid for.
        """
        if not self.rate_hz.size:
            return 0.0
        highest = float(self.ratio[:, self._near(order, reach)].sum(axis=0).max())
        tried = max(1.0, 2.0 * reach * order * self.turns)
        return max(0.0, -_log_gamma_tail(self.rate_hz.size, highest) - float(np.log(tried)))

    def strongest(self, order: float, *, reach: float) -> float:
        """The order at which most stands within `reach`, a share of the order, of another."""
        near = self._near(order, reach)
        return float(self.order[near][self.ratio[:, near].sum(axis=0).argmax()])

    def _near(self, order: float, reach: float) -> BoolArray:
        return np.asarray(np.abs(self.order - order) <= reach * order)


def turn_lines(values: FloatArray, track: SpeedTrack, *, rate_hz: float, start_s: float, turns: int) -> TurnLines:
    """Spectra of an evenly sampled signal [shape=(n,)] over the drum's angle wherever the track is known.

    Parameters
    ----------
    rate_hz, start_s : of the signal, on the track's clock
    """
    length = turns * CELLS_PER_TURN
    window = np.hanning(length + 1)[:-1]
    order = np.arange(int(HIGHEST_ORDER * turns * PAD)) / (turns * PAD)
    times = start_s + (np.arange(values.size) + 0.5) / rate_hz
    span = (start_s, start_s + values.size / rate_hz)
    rates: list[float] = []
    rows: list[FloatArray] = []
    for stretch in turn_stretches(track, cells=CELLS_PER_TURN, above_hz=SLOWEST_HZ, span=span, fewest_turns=turns):
        cells = np.interp(stretch.border_s[:-1], times, values)
        turn_hz = 1.0 / np.diff(stretch.turn_border_s)
        for first in range(0, stretch.turns - turns + 1, turns // 2):
            part = cells[first * CELLS_PER_TURN : first * CELLS_PER_TURN + length]
            power = np.abs(np.fft.rfft((part - part.mean()) * window, length * PAD)[: order.size]) ** 2
            rows.append(_over_floor(power, order))
            rates.append(float(np.median(turn_hz[first : first + turns])))
    ratio = np.array(rows) if rows else np.zeros((0, order.size))
    return TurnLines(order=order, rate_hz=np.array(rates), ratio=ratio, turns=turns)


def _over_floor(power: FloatArray, order: FloatArray) -> FloatArray:
    """Power over the median around it, which is log 2 of the mean of an exponential variable [shape like `power`]."""
    width = max(3, int(FLOOR_ORDERS / (order[1] * PAD)))
    floor = scipy.ndimage.median_filter(power[::PAD], size=width, mode="nearest") / np.log(2.0)
    return np.asarray(power / np.maximum(np.interp(order, order[::PAD], floor), 1e-30))


def _log_gamma_tail(shape: int, value: float) -> float:
    """Log of the chance that a gamma variable of that shape and scale one lies above a value.

    >>> round(_log_gamma_tail(1, 5.0), 9), round(_log_gamma_tail(1, 900.0))
    (-5.0, -900)
    """
    tail = float(scipy.special.gammaincc(shape, value))
    if tail > 0.0:
        return float(np.log(tail))
    # Far out its leading term is left: x^(k-1) e^-x / (k-1)!
    return float((shape - 1) * np.log(value) - value - scipy.special.gammaln(shape))
