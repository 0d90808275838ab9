"""What a heavy drum can do between two readings: fixed-interval smoothing of the speed track.

State: rate and its slope; the slope drifts as a random walk. Readings enter with their own standard error, so a
stretch read badly, such as the jump over the critical speed where the once-per-turn motion is mostly ringing, is
carried by its neighbours. Kalman filter and Rauch-Tung-Striebel smoother: Rauch, Tung & Striebel, AIAA J. 3(8), 1965.
"""

from __future__ import annotations

import numpy as np
from scipy import ndimage

from eager_ear.core.signals.speed_path import drop_dwelling, drop_short, known_spans
from eager_ear.core.signals.speed_track import FRAME_STEP_S, SpeedTrack
from eager_ear.core.units import BoolArray, FloatArray

# Drift of the slope [Hz²/s³]: controllers turn a ramp into a plateau, 1.5 Hz/s, within about a second.
SLOPE_DRIFT = 2.0
# Windows of 1.25 s overlap, of which a Hann window weighs about the middle half: so many frames say what one says.
FRAMES_A_READING = 5.0
LONGEST_BRIDGE_S = 2.5
LARGEST_SIGMA_SHARE = 0.035
LOOSEST_SIGMA_SHARE = 0.07


def smoothed(track: SpeedTrack) -> SpeedTrack:
    """The track smoothed within its known stretches and carried over short gaps as far as its error stays small."""
    known, loosely = track.known.copy(), track.known.copy()
    bridge = int(LONGEST_BRIDGE_S / FRAME_STEP_S)
    joined = ndimage.binary_closing(np.pad(known, bridge), iterations=bridge // 2)[bridge:-bridge] | known
    rate, sigma = track.rate_hz.copy(), track.sigma_hz.copy()
    for span in known_spans(joined):
        if span.size < 8:
            continue
        seen = track.known[span]
        rate[span], sigma[span] = _smooth(track.rate_hz[span], track.sigma_hz[span], seen)
        # A rate that is known worse than this is not known.
        known[span] = sigma[span] < LARGEST_SIGMA_SHARE * rate[span]
        loosely[span] = sigma[span] < LOOSEST_SIGMA_SHARE * rate[span]
    known = drop_dwelling(drop_short(known), rate)
    return SpeedTrack(
        t_s=track.t_s, rate_hz=rate, known=known, sigma_hz=sigma, source=track.source, loosely=drop_short(loosely)
    )


def _smooth(rate_hz: FloatArray, sigma_hz: FloatArray, seen: BoolArray) -> tuple[FloatArray, FloatArray]:
    """Smoothed rate and its standard error [shape=(n,)]."""
    n, dt = rate_hz.size, FRAME_STEP_S
    q11, q12, q22 = SLOPE_DRIFT * dt**3 / 3, SLOPE_DRIFT * dt**2 / 2, SLOPE_DRIFT * dt
    variance = FRAMES_A_READING * np.maximum(sigma_hz, 1e-4) ** 2
    first = int(np.argmax(seen))
    f, v = float(rate_hz[first]), 0.0
    p11, p12, p22 = 1.0, 0.0, 4.0
    ahead = np.empty((n, 5))
    here = np.empty((n, 5))
    for i in range(n):
        if i:
            f += dt * v
            p11, p12, p22 = p11 + 2 * dt * p12 + dt * dt * p22 + q11, p12 + dt * p22 + q12, p22 + q22
        ahead[i] = f, v, p11, p12, p22
        if seen[i]:
            s = p11 + variance[i]
            k1, k2 = p11 / s, p12 / s
            error = rate_hz[i] - f
            # A reading five standard deviations off is a wrong one: its weight falls with its distance.
            if error * error > 25.0 * s:
                shrink = 5.0 * s**0.5 / abs(error)
                k1, k2 = k1 * shrink, k2 * shrink
            f += k1 * error
            v += k2 * error
            p22 -= k2 * p12
            p12 -= k2 * p11
            p11 -= k1 * p11
        here[i] = f, v, p11, p12, p22
    out = np.empty(n)
    spread = np.empty(n)
    f, v, p11, p12, p22 = here[-1]
    out[-1], spread[-1] = f, p11
    for i in range(n - 2, -1, -1):
        hf, hv, h11, h12, h22 = here[i]
        af, av, a11, a12, a22 = ahead[i + 1]
        det = max(a11 * a22 - a12 * a12, 1e-18)
        # Gain of the smoother: P_here · F' · P_ahead⁻¹.
        b11, b12 = h11 + dt * h12, h12
        b21, b22 = h12 + dt * h22, h22
        g11, g12 = (b11 * a22 - b12 * a12) / det, (b12 * a11 - b11 * a12) / det
        g21, g22 = (b21 * a22 - b22 * a12) / det, (b22 * a11 - b21 * a12) / det
        df, dv = f - af, v - av
        f, v = hf + g11 * df + g12 * dv, hv + g21 * df + g22 * dv
        d11, d12, d22 = p11 - a11, p12 - a12, p22 - a22
        p11 = h11 + g11 * (g11 * d11 + g12 * d12) + g12 * (g11 * d12 + g12 * d22)
        c12 = h12 + g11 * (g21 * d11 + g22 * d12) + g12 * (g21 * d12 + g22 * d22)
        p22 = h22 + g21 * (g21 * d11 + g22 * d12) + g22 * (g21 * d12 + g22 * d22)
        p12 = c12
        out[i], spread[i] = f, p11
    return np.maximum(out, 0.0), np.sqrt(np.maximum(spread, 1e-10))
