"""What spring and damper hold of a rotating force while the speed sweeps through the critical one.

The rotating-unbalance response x(r) = e·r²/sqrt((1-r²)²+(2·zeta·r)²) (Inman, Engineering Vibration, section 2.5)
holds for a steady speed; a ramp lowers, shifts and widens the peak. So the model itself is driven through the
measured speed profile: a damped oscillator under the rotating force, demodulated with the window that was used on the
measurement.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy import signal as sps

from eager_ear.core.signals.orders import WINDOW_S, OrderCurves
from eager_ear.core.signals.speed_track import SpeedTrack
from eager_ear.core.units import BoolArray, ComplexArray, FloatArray, IntArray

MOST_FRAMES = 96
WINDOW_BLOCKS = 24


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
        drive = _Drive.along(track, span=(float(t_s[0]) - 3.0, float(t_s[-1]) + 0.5), rate_hz=steps_hz)
        return cls(frames, t_s, curves.rate_hz[frames], drive, {})

    def log_held(self, f0: float, damping: float) -> FloatArray:
        """Logarithm of the force held for unit unbalance, up to scale [shape=(frames,)]."""
        if (f0, damping) not in self._held:
            held = np.log(self._drive.amplitude(f0, damping, self.t_s) + 1e-12)
            self._held[f0, damping] = held.astype(np.float32)
        return self._held[f0, damping]


@dataclass(frozen=True, kw_only=True)
class _Drive:
    """The rotating force along the measured speed, on a slow even clock.

    force_change : second derivative of the force; what it gives is the acceleration of what the force gives
    block, block_s, block_omega : samples summed before the window, their middle [s] and the angular rate there
    """

    rate_hz: float
    force_change: FloatArray
    carrier: ComplexArray
    block: int
    block_s: FloatArray
    block_omega: FloatArray
    window: FloatArray

    @classmethod
    def along(cls, track: SpeedTrack, *, span: tuple[float, float], rate_hz: float) -> _Drive:
        t_s = np.arange(span[0], span[1], 1.0 / rate_hz)
        turns = track.turns_at(t_s)
        omega = 2 * np.pi * np.gradient(turns, t_s)
        alpha = np.gradient(omega, t_s)
        phase = 2j * np.pi * turns
        # Sums over a twenty-fourth of the window come first, so that the window works on few values.
        block = max(1, int(WINDOW_S * rate_hz / WINDOW_BLOCKS))
        count = t_s.size // block
        block_s = t_s[: count * block].reshape(count, block).mean(axis=1)
        window = np.hanning(WINDOW_BLOCKS + 2)[1:-1]
        force = ((omega**2 - 1j * alpha) * np.exp(phase)).real
        return cls(
            rate_hz=rate_hz,
            force_change=np.diff(force, 2, prepend=force[0], append=force[-1]) * rate_hz**2,
            carrier=np.exp(-phase),
            block=block,
            block_s=block_s,
            block_omega=np.interp(block_s, t_s, np.maximum(omega, 1.0)),
            window=window / (window.sum() * block),
        )

    def amplitude(self, f0: float, damping: float, at_s: FloatArray) -> FloatArray:
        """Force held by spring and damper for unit unbalance, up to scale [shape like at_s]."""
        w = 2 * np.pi * f0
        bent = 2 * self.rate_hz * np.tan(w / (2 * self.rate_hz))
        # Bilinear rule in closed form; `bent` undoes its bending of frequencies, so the resonance stays at f0.
        k = 2.0 * self.rate_hz
        c, w2 = 2 * damping * bent, bent**2
        b = (c * k + w2, 2 * w2, w2 - c * k)
        a = (k * k + c * k + w2, 2 * w2 - 2 * k * k, k * k - c * k + w2)
        # As the sensor does: acceleration is demodulated. Divided by the drum's own rate squared it is a displacement
        # again, but what rings on at the critical speed keeps the weight that it has for the sensor.
        moved = sps.lfilter(b, a, self.force_change)
        turned = (moved * self.carrier)[: self.block_s.size * self.block]
        # Blocks are of a few samples: adding every so-many-th is quicker than summing along so short an axis.
        sums = sum((turned[k :: self.block] for k in range(1, self.block)), start=turned[:: self.block])
        base = np.convolve(sums, self.window, mode="same")
        return np.asarray(np.interp(at_s, self.block_s, 2.0 * np.abs(base) / self.block_omega**2))
