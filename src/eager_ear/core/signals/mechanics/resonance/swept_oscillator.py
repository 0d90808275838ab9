"""What spring and damper hold of a rotating force while the speed sweeps through the critical one.

The rotating-unbalance response x(r) = e·r²/sqrt((1-r²)²+(2·zeta·r)²) (Inman, Engineering Vibration, section 2.5)
holds for a steady speed; a ramp lowers, shifts and widens the peak. So the model itself is driven through the
measured speed profile: a damped oscillator under the rotating force, demodulated with the window that was used on the
measurement.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy

from eager_ear.core.signals.angle import WINDOW_S, OrderCurves, SpeedTrack
from eager_ear.core.units import BoolArray, ComplexArray, FloatArray, IntArray

# A passage through resonance has some ten independent values: this many are plenty for its shape.
MOST_FRAMES = 96
# Enough steps for the window's shape; within one of them hardly anything turns.
WINDOW_BLOCKS = 24
# The march begins early, so that it has forgotten its start, and ends where the last window does.
LEAD_S = 3.0
TAIL_S = 0.5


@dataclass(frozen=True)
class Passage:
    """One way through the critical speed: its frames, and what spring and damper hold there, shared by all axes.

    frames : array [shape=(frames,)], indices into the order curves; t_s, rate_hz : array [shape=(frames,)]
    """

    frames: IntArray
    t_s: FloatArray
    rate_hz: FloatArray
    _drive: _Drive
    _held: dict[tuple[float, float], FloatArray]

    @classmethod
    def along(cls, track: SpeedTrack, curves: OrderCurves, use: BoolArray, *, steps_hz: float) -> Passage:
        """At most 96 of the frames in `use`, the model marched at `steps_hz`."""
        frames = np.flatnonzero(use)
        frames = frames[:: -(-frames.size // MOST_FRAMES)]
        t_s = curves.t_s[frames]
        drive = _Drive.along(track, at_s=t_s, rate_hz=steps_hz)
        return cls(frames, t_s, curves.rate_hz[frames], drive, {})

    def log_held(self, f0: float, damping: float) -> FloatArray:
        """Logarithm of the force held for unit unbalance, up to scale [shape=(frames,)]."""
        if (f0, damping) not in self._held:
            held = np.log(self._drive.amplitude(f0, damping) + 1e-12)
            self._held[f0, damping] = held.astype(np.float32)
        return self._held[f0, damping]


@dataclass(frozen=True, kw_only=True)
class _Drive:
    """The rotating force along the measured speed, on a slow even clock.

    force_change : second derivative of the force; what it gives is the acceleration of what the force gives
    block : so many samples are summed before the window; blocks : how many of those there are
    beside : the windows' blocks on either side of each moment wanted [shape=(2, moments, WINDOW_BLOCKS)]
    weights : what each side counts there, over the square of its angular rate [shape=(2, moments)]
    """

    rate_hz: float
    force_change: FloatArray
    carrier: ComplexArray
    block: int
    blocks: int
    window: FloatArray
    beside: IntArray
    weights: FloatArray

    @classmethod
    def along(cls, track: SpeedTrack, *, at_s: FloatArray, rate_hz: float) -> _Drive:
        t_s = np.arange(float(at_s[0]) - LEAD_S, float(at_s[-1]) + TAIL_S, 1.0 / rate_hz)
        turns = track.turns_at(t_s)
        omega = 2 * np.pi * np.gradient(turns, t_s)
        alpha = np.gradient(omega, t_s)
        phase = 2j * np.pi * turns
        # Sums over a twenty-fourth of the window come first, so that the window works on few values.
        block = max(1, int(WINDOW_S * rate_hz / WINDOW_BLOCKS))
        blocks = t_s.size // block
        block_s = t_s[: blocks * block].reshape(blocks, block).mean(axis=1)
        window = np.hanning(WINDOW_BLOCKS + 2)[1:-1]
        force = ((omega**2 - 1j * alpha) * np.exp(phase)).real
        place = np.interp(at_s, block_s, np.arange(blocks))
        sides = np.minimum(place.astype(int) + np.arange(2)[:, None], blocks - 1)
        share = np.stack([1.0 - place % 1.0, place % 1.0])
        return cls(
            rate_hz=rate_hz,
            force_change=np.diff(force, 2, prepend=force[0], append=force[-1]) * rate_hz**2,
            carrier=np.exp(-phase),
            block=block,
            blocks=blocks,
            window=window / (window.sum() * block),
            beside=sides[..., None] + np.arange(WINDOW_BLOCKS),
            weights=2.0 * share / np.interp(block_s, t_s, np.maximum(omega, 1.0))[sides] ** 2,
        )

    def amplitude(self, f0: float, damping: float) -> FloatArray:
        """Force held by spring and damper for unit unbalance, up to scale, at the moments wanted [shape=(moments,)]."""
        w = 2 * np.pi * f0
        bent = 2 * self.rate_hz * np.tan(w / (2 * self.rate_hz))
        # Bilinear rule in closed form; `bent` undoes its bending of frequencies, so the resonance stays at f0.
        k = 2.0 * self.rate_hz
        c, w2 = 2 * damping * bent, bent**2
        b = (c * k + w2, 2 * w2, w2 - c * k)
        a = (k * k + c * k + w2, 2 * w2 - 2 * k * k, k * k - c * k + w2)
        # As the sensor does: acceleration is demodulated. Divided by the drum's own rate squared it is a displacement
        # again, but what rings on at the critical speed keeps the weight that it has for the sensor.
        moved = scipy.signal.lfilter(b, a, self.force_change)
        turned = (moved * self.carrier)[: self.blocks * self.block]
        # Blocks are of a few samples: adding every so-many-th is quicker than summing along so short an axis.
        sums = np.zeros(self.blocks + WINDOW_BLOCKS, dtype=turned.dtype)
        middle = sums[WINDOW_BLOCKS // 2 : WINDOW_BLOCKS // 2 + self.blocks]
        for k in range(self.block):
            middle += turned[k :: self.block]
        # Windows only round the moments that are wanted.
        return np.asarray((self.weights * np.abs(sums[self.beside] @ self.window)).sum(axis=0))
