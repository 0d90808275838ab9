"""What else is in a recording: talk, a gain that follows the level, a phone that slid.

Each finding names the stretches it spoils, so that they can be left out and the rest be used.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy

from eager_ear.core.signals.dsp import LowBand, median_along
from eager_ear.core.signals.types import AccelerationSignal
from eager_ear.core.units import BoolArray, FloatArray, Span

# Voices: pitch from low male to child, overtones from 200 Hz to the telephone's upper limit.
PITCH_HZ = (80.0, 320.0)
VOICE_BAND_HZ = (200.0, 2900.0)
# The largest of some forty exponential values passes ten times their median in one frame in twenty, hardly ever in
# five of eight.
LEAST_VOICING = 10.0
LEAST_VOICED_FRAMES = 5
VOICE_WINDOW_FRAMES = 8
# A voice wavers by more than this and less than an octave about a steady glide within a second.
WAVER_RANGE = (0.025, 0.35)
LEAP = 0.2
LEAST_TALK_S = 0.7
# A gain control gives the room's noise back after the machine has stopped.
LEAST_RECOVERY_DB = 3.0
LEAST_REST_S = 1.0
# Sound of a spinning machine rises by 7 dB a doubling of its speed and more; a gain control flattens that.
FLAT_SLOPE_DB = 3.0
# Gravity's direction before against after, and how much of its scatter a step must exceed.
LEAST_TURN_RAD = 0.035
SLIDE_WINDOW_S = 3.0


@dataclass(frozen=True, kw_only=True)
class Disturbance:
    """One finding: its warning code, what to tell, and the stretches [s, run's clock] that it spoils."""

    code: str
    message: str
    spans: tuple[Span, ...] = ()


def find_talk(low: LowBand) -> Disturbance | None:
    """Voices: a comb of overtones in the spectrum whose pitch wavers. A motor's overtones glide as steadily as it does.

    The comb shows as a peak in the cepstrum (Noll, J. Acoust. Soc. Am. 41(2), 1967, pp. 293-309).
    """
    if not low.spectra:
        return None
    part = low.spectra[0]
    first, last = (int(f / part.bin_hz) for f in VOICE_BAND_HZ)
    band = part.lines[:, first : min(last, part.lines.shape[1])]
    if band.shape[1] < 64:
        return None
    window = np.hanning(band.shape[1] + 2)[1:-1].astype(np.float32)
    padded = 4 * band.shape[1]
    cepstrum = np.abs(scipy.fft.rfft((band - band.mean(axis=1, keepdims=True)) * window, padded, axis=1)) ** 2
    # Index q of the transform stands for a comb spacing of padded·bin/q.
    high, low_index = (int(padded * part.bin_hz / pitch) for pitch in PITCH_HZ)
    search = cepstrum[:, low_index:high]
    best = search.argmax(axis=1)
    voicing = search.max(axis=1) / np.maximum(median_along(cepstrum[:, low_index : 2 * high], axis=1), 1e-12)
    pitch_hz = padded * part.bin_hz / (low_index + best)
    voiced = _wavering(voicing > LEAST_VOICING, pitch_hz)
    spans = _spans(voiced, part.t_s, margin_s=0.3)
    seconds = sum(b - a for a, b in spans)
    if seconds < LEAST_TALK_S:
        return None
    return Disturbance(
        code="speech", message=f"Voices are heard for {seconds:.0f} s: those stretches are left out.", spans=spans
    )


def _wavering(voiced: BoolArray, pitch_hz: FloatArray) -> BoolArray:
    """Voiced frames in whose surroundings the pitch wavers as voices do [shape=(frames,)]."""
    out = np.zeros(voiced.size, dtype=bool)
    for start in np.flatnonzero(np.convolve(voiced, np.ones(VOICE_WINDOW_FRAMES), "valid") >= LEAST_VOICED_FRAMES):
        window = slice(start, start + VOICE_WINDOW_FRAMES)
        at = np.flatnonzero(voiced[window])
        log_pitch = np.log(pitch_hz[window][at])
        # A voice moves on from where it was; overtones mistaken for one another leap by octaves and fifths.
        if np.mean(np.abs(np.diff(log_pitch)) > LEAP) > 0.25:
            continue
        beside = log_pitch - np.polyval(np.polyfit(at, log_pitch, 1), at)
        if WAVER_RANGE[0] < np.sqrt(np.sum(beside**2) / (at.size - 2)) < WAVER_RANGE[1]:
            out[window] |= voiced[window]
    return out


def _spans(mask: BoolArray, t_s: FloatArray, *, margin_s: float) -> tuple[Span, ...]:
    if not mask.any():
        return ()
    step = float(t_s[1] - t_s[0]) if t_s.size > 1 else 0.1
    joined = scipy.ndimage.binary_closing(np.pad(mask, 8), iterations=4)[8:-8] | mask
    labels, count = scipy.ndimage.label(joined)
    out = []
    for k in range(1, count + 1):
        inside = np.flatnonzero(labels == k)
        out.append((float(t_s[inside[0]]) - margin_s, float(t_s[inside[-1]]) + step + margin_s))
    return tuple(out)


def find_gain_pumping(
    low: LowBand, *, rests: tuple[Span, ...], slope_db_per_doubling: float | None
) -> Disturbance | None:
    """An automatic gain: the room's noise swells after the machine has stopped, or loudness does not follow speed."""
    level = low.level_nats * (10.0 / np.log(10.0))
    t_s = low.start_s + (np.arange(level.size) + 0.5) / low.level_rate_hz
    told = "Loudness hardly follows the speed"
    pumping = slope_db_per_doubling is not None and slope_db_per_doubling < FLAT_SLOPE_DB
    for begin, end in rests:
        inside = (t_s > begin + 0.15) & (t_s < end)
        if begin < t_s[0] + 1.0 or end - begin < LEAST_REST_S or inside.sum() < 16:
            continue
        rest = level[inside]
        third = rest.size // 3
        recovery = float(np.median(rest[-third:]) - np.median(rest[:third]))
        if recovery > LEAST_RECOVERY_DB:
            pumping, told = True, f"The room's noise swells by {recovery:.0f} dB after the machine has stopped"
    if not pumping:
        return None
    return Disturbance(
        code="gain_pumping",
        message=f"{told}: the phone's automatic gain is on. Levels against speed are not used.",
    )


def find_slide(signal: AccelerationSignal, *, start_s: float) -> Disturbance | None:
    """A lasting turn of gravity's direction in the sensor: it slid, or was moved.

    Only where gravity is in the data and all three axes are there.
    """
    if len(signal.present) < 3:
        return None
    second = np.floor(signal.t_s - signal.t_s[0]).astype(int)
    borders = np.searchsorted(second, np.arange(second[-1] + 2))
    filled = np.flatnonzero(np.diff(borders) > 4)
    means = np.stack([signal.axes_m_s2[:, borders[k] : borders[k + 1]].mean(axis=1) for k in filled])
    size = np.linalg.norm(means, axis=1)
    if size.size < 8 or np.median(size) < 5.0:
        return None
    reach = int(SLIDE_WINDOW_S)
    turns = np.zeros(size.size)
    stretches = np.median(np.lib.stride_tricks.sliding_window_view(means, reach, axis=0), axis=2)
    before, after = stretches[: -reach - 1], stretches[reach + 1 :]
    both = np.linalg.norm(before, axis=1) * np.linalg.norm(after, axis=1)
    turns[reach : size.size - reach] = np.arccos(np.clip((before * after).sum(axis=1) / (both + 1e-12), -1.0, 1.0))
    best = int(np.argmax(turns))
    if turns[best] < max(LEAST_TURN_RAD, 6.0 * float(np.median(turns))):
        return None
    at_s = start_s + float(signal.t_s[0]) + float(filled[best])
    return Disturbance(
        code="sensor_moved",
        message=f"The sensor turned by {np.degrees(turns[best]):.0f}° at {at_s:.0f} s: it slid or was moved. "
        "Fix it with tape; directions after that are not those before.",
        spans=((at_s - 1.0, at_s + 2.0),),
    )
