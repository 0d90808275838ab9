"""Drum speed against time without a tacho.

Short-time spectra of every sensor give, for each moment and candidate speed, how far lines at the drum's multiples
stand above the noise floor; dynamic programming (Viterbi; Forney, Proc. IEEE 61(3), 1973, pp. 268-278) finds the
continuous track; phase demodulation of the once-per-turn vibration refines it. A candidate loses by lines at half
its multiples: that tells 1x from 2x. With tacho pulses, those.

The yardstick for a tone of amplitude A in white noise of variance s² over N samples at spacing T is the
Cramér-Rao bound var(f) >= 6·s² / (pi²·A²·T²·N³) for large N (Rife & Boorstyn, IEEE Trans. Inf. Theory 20(5), 1974).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from scipy import ndimage
from scipy import signal as sps

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.machine import Layout, Machine
from eager_ear.core.signals.even_grid import EvenAcceleration
from eager_ear.core.signals.transform import Spectrogram, decimated, noise_floor, short_time_power
from eager_ear.core.signals.types import AudioSignal, TachoSignal
from eager_ear.core.units import BoolArray, FloatArray, IntArray

FRAME_STEP_S = 0.125
LOWEST_HZ = 0.5
GRID_HZ = 0.05
# Motors reach about 180 rpm/s upwards; a braked drum falls at up to 480 rpm/s.
MAX_RISE_HZ_S = 3.0
MAX_FALL_HZ_S = 8.0
# Score a frame must show to beat "speed unknown". Vibration: a line at this many nats above the floor has a chance of
# exp(-3.5), three in a hundred, in noise, before continuity is asked for. Sound alone scores over weaker families,
# whose weights sum to about 0.6 of that.
UNKNOWN_SCORE = 3.5
UNKNOWN_SCORE_SOUND_ONLY = 2.1
LINE_CAP_NATS = 9.0
CHANGE_COST = 12.0
SHORTEST_KNOWN_S = 1.0
# The same drum at the same speed repeats its level within a few dB, coasting or driven.
TOO_QUIET_DB = 8.0
STANDING_ABOVE_HZ = 4.0


@dataclass(frozen=True, kw_only=True)
class SpeedTrack:
    """Drum speed on an even clock.

    t_s : array [shape=(n,), s]; rate_hz : array [shape=(n,), Hz], meaningful where `known`
    known : array [shape=(n,), bool]; sigma_hz : array [shape=(n,), Hz], standard error of `rate_hz`
    source : which sensor the track rests on
    """

    t_s: FloatArray
    rate_hz: FloatArray
    known: BoolArray
    sigma_hz: FloatArray
    source: str

    @property
    def max_rpm(self) -> float:
        """Highest speed held for at least a second (95th percentile guards against one bad frame)."""
        rates = self.rate_hz[self.known]
        return float(np.percentile(rates, 97.0) * 60.0) if rates.size else 0.0

    def at(self, t_s: FloatArray) -> FloatArray:
        """Rate at other times [shape like t_s, Hz]; NaN where unknown."""
        rate = np.interp(t_s, self.t_s, self.rate_hz, left=np.nan, right=np.nan)
        nearest = np.clip(np.searchsorted(self.t_s, t_s), 0, self.t_s.size - 1)
        return np.where(self.known[nearest], rate, np.nan)

    def turns_at(self, t_s: FloatArray) -> FloatArray:
        """Revolutions since the start [shape like t_s]; unknown stretches are bridged by straight lines in speed."""
        step = np.diff(self.t_s, prepend=self.t_s[0])
        filled = (
            np.interp(self.t_s, self.t_s[self.known], self.rate_hz[self.known]) if self.known.any() else self.rate_hz
        )
        mean_rate = 0.5 * (filled + np.concatenate([filled[:1], filled[:-1]]))
        return np.asarray(np.interp(t_s, self.t_s, np.cumsum(mean_rate * step)))


@dataclass(frozen=True, kw_only=True)
class SpeedSources:
    """What one run offers for finding the speed; `audio_start_s` is on the run's clock."""

    audio: AudioSignal | None = None
    audio_start_s: float = 0.0
    acceleration: EvenAcceleration | None = None
    tacho: TachoSignal | None = None
    tacho_start_s: float = 0.0


def track_speed(sources: SpeedSources, *, machine: Machine, layout: Layout) -> SpeedTrack:
    """The drum's speed through one run.

    Raises
    ------
    NotMeasurable
        No sensor, recordings too short, or no rotation seen in any of them.
    """
    if sources.tacho is not None and sources.tacho.pulse_s.size >= 4:
        return _from_tacho(sources.tacho, start_s=sources.tacho_start_s)
    span = _common_span(sources)
    t_s = np.arange(span[0], span[1], FRAME_STEP_S)
    highest_hz = _highest_rate_hz(machine, layout)
    candidates = np.arange(LOWEST_HZ, highest_hz, GRID_HZ)
    if t_s.size < 16:
        raise NotMeasurable(quantity="speed track", reason="the recording is shorter than two seconds.")
    score = np.zeros((t_s.size, candidates.size), dtype=np.float32)
    vibration = None
    if sources.acceleration is not None:
        vibration = _vibration_score(sources.acceleration, t_s=t_s, candidates=candidates)
        score += vibration
    if sources.audio is not None:
        weight = 1.0 if sources.acceleration is None else 0.5
        score += weight * _sound_score(
            sources.audio, start_s=sources.audio_start_s, t_s=t_s, candidates=candidates, machine=machine, layout=layout
        )
    unknown = UNKNOWN_SCORE if sources.acceleration is not None else UNKNOWN_SCORE_SOUND_ONLY
    path, known = _best_path(score, unknown=unknown)
    known = _drop_short(known, shortest=int(SHORTEST_KNOWN_S / FRAME_STEP_S))
    known = _drop_unreachable(known, candidates[path], np.take_along_axis(score, path[:, None], axis=1)[:, 0])
    if sources.audio is not None and sources.acceleration is None:
        known = _drop_too_quiet(known, candidates[path], _level_db(sources.audio, sources.audio_start_s, t_s))
    if not known.any():
        raise NotMeasurable(quantity="speed track", reason="no rotation was seen.")
    if vibration is not None:
        _require_motion(vibration, path, known, candidates)
    rate = _parabolic(score, path, candidates)
    track = SpeedTrack(
        t_s=t_s,
        rate_hz=_smooth_known(rate, known),
        known=known,
        sigma_hz=np.full(t_s.size, GRID_HZ),
        source="acceleration" if sources.acceleration is not None else "audio",
    )
    if sources.acceleration is not None:
        track = _refine(track, sources.acceleration)
    return track


def _require_motion(vibration: FloatArray, path: IntArray, known: BoolArray, candidates: FloatArray) -> None:
    """A drum that spins shakes its cabinet: a fast track that the vibration does not share is the motor's."""
    fast = known & (candidates[path] > STANDING_ABOVE_HZ)
    if fast.sum() * FRAME_STEP_S < 2.0:
        return
    shown = np.take_along_axis(vibration, path[:, None], axis=1)[fast, 0]
    if float(np.percentile(shown, 75)) < 1.0:
        raise NotMeasurable(
            quantity="speed track", reason="a motor is heard, but nothing shakes once per turn: the drum stands still."
        )


def _highest_rate_hz(machine: Machine, layout: Layout) -> float:
    plate = machine.max_spin_rpm if machine.max_spin_rpm is not None else layout.spin_rpm[1]
    return layout.over_speed * plate / 60.0


def _common_span(sources: SpeedSources) -> tuple[float, float]:
    spans = []
    if sources.acceleration is not None:
        t = sources.acceleration.t_s
        spans.append((float(t[0]), float(t[-1])))
    if sources.audio is not None:
        spans.append((sources.audio_start_s, sources.audio_start_s + sources.audio.duration_s))
    if not spans:
        raise NotMeasurable(quantity="speed track", reason="no recording can show the speed.")
    return min(a for a, _ in spans), max(b for _, b in spans)


def _from_tacho(tacho: TachoSignal, *, start_s: float) -> SpeedTrack:
    pulses = tacho.pulse_s + start_s
    middle = 0.5 * (pulses[1:] + pulses[:-1])
    rate = 1.0 / np.diff(pulses)
    t_s = np.arange(pulses[0], pulses[-1], FRAME_STEP_S)
    turning = np.interp(t_s, middle, np.diff(pulses)) < 1.0 / (0.5 * LOWEST_HZ)
    return SpeedTrack(
        t_s=t_s,
        rate_hz=np.interp(t_s, middle, rate),
        known=turning,
        sigma_hz=np.full(t_s.size, 1e-3),
        source="tacho",
    )


def _line_strength(spectrum: Spectrogram, *, width_hz: float, quantile: float = 0.5) -> FloatArray:
    """How far each bin stands above the local floor, in nats, capped [shape=(frames, bins)]."""
    floor = noise_floor(spectrum.power, width=int(width_hz / spectrum.bin_hz), quantile=quantile)
    excess = spectrum.power / floor
    # log(1 + x) of an exponential variable has a mean of 0.6: taken out, so that noise adds nothing to a comb.
    strength = np.log1p(excess) - 0.6
    # Beyond the cap a tenth counts: a strong line decides no more than a clear one, but its middle stays a maximum.
    return np.asarray(
        np.minimum(strength, LINE_CAP_NATS) + 0.1 * np.maximum(strength - LINE_CAP_NATS, 0.0), dtype=np.float32
    )


def _read(lines: FloatArray, spectrum: Spectrogram, frequencies: FloatArray) -> FloatArray:
    """Line strength at any frequencies [shape=(frames, len(frequencies))], zero beyond the spectrum."""
    index = np.rint(frequencies / spectrum.bin_hz).astype(int)
    inside = (index > 0) & (index < lines.shape[1])
    out = np.zeros((lines.shape[0], frequencies.size), dtype=np.float32)
    out[:, inside] = lines[:, index[inside]]
    return out


def _at_times(values: FloatArray, from_s: FloatArray, to_s: FloatArray) -> FloatArray:
    """Rows at the nearest times; zero rows where no frame is within a second."""
    index = np.clip(np.searchsorted(from_s, to_s), 1, from_s.size - 1) if from_s.size > 1 else np.zeros(to_s.size, int)
    if from_s.size > 1:
        index = index - ((to_s - from_s[index - 1]) < (from_s[index] - to_s))
    out = values[index].copy()
    out[np.abs(from_s[index] - to_s) > 1.0] = 0.0
    return np.asarray(out)


def _comb(lines: FloatArray, spectrum: Spectrogram, candidates: FloatArray) -> FloatArray:
    """Lines at 1x, 2x, 3x count for a candidate, lines half-way between count against it."""

    def at(multiple: float) -> FloatArray:
        return _read(lines, spectrum, multiple * candidates)

    score = at(1.0) + 0.5 * np.maximum(at(2.0), 0) + 0.3 * np.maximum(at(3.0), 0)
    halves = 0.6 * np.maximum(at(0.5), 0) * (candidates > 2 * LOWEST_HZ) + 0.3 * np.maximum(at(1.5), 0)
    return np.asarray(score - halves, dtype=np.float32)


def _vibration_score(acceleration: EvenAcceleration, *, t_s: FloatArray, candidates: FloatArray) -> FloatArray:
    """Comb over the once-per-turn vibration, slow speeds through long frames, fast ones through short ones."""
    rate = acceleration.sample_rate_hz
    low, low_rate = acceleration.axes_m_s2.astype(np.float32), rate
    if rate > 250.0:
        pairs = [decimated(row, sample_rate_hz=rate, target_hz=120.0) for row in low]
        low, low_rate = np.stack([p[0] for p in pairs]), pairs[0][1]
    out = np.full((t_s.size, candidates.size), -LINE_CAP_NATS, dtype=np.float32)
    # Long frames resolve slow turning, short ones follow a ramp: each moment takes the sharper picture.
    for frame_s in (3.0, 1.2, 0.6):
        inside = candidates > 1.6 / frame_s
        pad = int(frame_s * low_rate / 2)
        spectra = [
            short_time_power(np.pad(row, pad), sample_rate_hz=low_rate, frame_s=frame_s, hop_s=FRAME_STEP_S)
            for row in low
        ]
        total = spectra[0].power + sum(s.power for s in spectra[1:])
        shared = Spectrogram(power=total, t_s=spectra[0].t_s, frequency_hz=spectra[0].frequency_hz)
        lines = _line_strength(shared, width_hz=25.0, quantile=0.4)
        # The strongest line of a frame is most likely the drum: a frame's own maximum is the reference.
        strength = np.log(total / total.max(axis=1, keepdims=True) + 1e-6).astype(np.float32)
        lines = lines + np.clip(0.4 * strength, -3.0, 0.0)
        score = _comb(lines, shared, candidates[inside])
        times = shared.t_s + acceleration.start_s - pad / low_rate
        out[:, inside] = np.maximum(out[:, inside], _at_times(score, times, t_s))
    return out


def _sound_score(
    audio: AudioSignal,
    *,
    start_s: float,
    t_s: FloatArray,
    candidates: FloatArray,
    machine: Machine,
    layout: Layout,
) -> FloatArray:
    """Comb over the drum's own low lines, the modulation of the noise, and the motor's family."""
    low, low_rate = decimated(audio.samples, sample_rate_hz=audio.sample_rate_hz, target_hz=6000.0)
    slow, slow_rate = decimated(low, sample_rate_hz=low_rate, target_hz=400.0)
    spectrum = short_time_power(
        np.pad(slow, int(0.55 * slow_rate)), sample_rate_hz=slow_rate, frame_s=1.1, hop_s=FRAME_STEP_S
    )
    score = 0.6 * _at_times(
        _comb(_line_strength(spectrum, width_hz=20.0, quantile=0.4), spectrum, candidates),
        spectrum.t_s + start_s - 0.55,
        t_s,
    )
    score += 0.4 * _modulation_score(audio, start_s=start_s, t_s=t_s, candidates=candidates)
    ratio = machine.pulley_ratio if layout.drive != "direct" else 1.0
    if ratio is not None:
        score += _motor_score(low, low_rate, ratio=ratio, start_s=start_s, t_s=t_s, candidates=candidates)
    return np.asarray(score, dtype=np.float32)


def _modulation_score(audio: AudioSignal, *, start_s: float, t_s: FloatArray, candidates: FloatArray) -> FloatArray:
    """Once-per-turn swelling of the noise: comb over the spectrum of its level, sampled at about 120 Hz."""
    hop = max(1, round(audio.sample_rate_hz / 120.0))
    rough = np.diff(audio.samples)
    count = rough.size // hop
    power = np.square(rough[: count * hop], dtype=np.float32).reshape(count, hop).mean(axis=1)
    level = np.log(power + 1e-12).astype(np.float32)
    level -= ndimage.uniform_filter1d(level, size=121).astype(np.float32)
    rate = audio.sample_rate_hz / hop
    spectrum = short_time_power(np.pad(level, int(1.0 * rate)), sample_rate_hz=rate, frame_s=2.0, hop_s=FRAME_STEP_S)
    lines = _line_strength(spectrum, width_hz=20.0, quantile=0.4)
    return _at_times(_comb(lines, spectrum, candidates), spectrum.t_s + start_s - 1.0, t_s)


MOTOR_ORDERS = np.array([1.0, 2.0, 3.0, 4.0, 6.0, 8.0, 12.0, 24.0])


def _motor_score(
    low: FloatArray, low_rate: float, *, ratio: float, start_s: float, t_s: FloatArray, candidates: FloatArray
) -> FloatArray:
    """Comb over multiples of the motor's rate for a known ratio; the strongest three lines count."""
    spectrum = short_time_power(
        np.pad(low, int(0.2 * low_rate)), sample_rate_hz=low_rate, frame_s=0.4, hop_s=FRAME_STEP_S
    )
    lines = _line_strength(spectrum, width_hz=80.0)
    lines = ndimage.maximum_filter1d(lines, size=3, axis=1) - 0.5
    reads = np.stack([_read(lines, spectrum, ratio * k * candidates) for k in MOTOR_ORDERS])
    strongest = np.sort(reads, axis=0)[-3:].sum(axis=0)
    typical = np.median(strongest, axis=1, keepdims=True)
    score = 0.35 * np.maximum(strongest - typical, 0.0)
    return _at_times(score, spectrum.t_s + start_s - 0.2, t_s)


def _best_path(score: FloatArray, *, unknown: float) -> tuple[IntArray, BoolArray]:
    """Viterbi over candidates and the state "unknown". Returns indices [shape=(frames,)] and where known."""
    frames, states = score.shape
    up = int(MAX_RISE_HZ_S * FRAME_STEP_S / GRID_HZ)
    down = int(MAX_FALL_HZ_S * FRAME_STEP_S / GRID_HZ)
    shifts = np.arange(-up, down + 1)
    # A change of speed costs little; a change at the limit costs as much as half a weak line.
    cost = (0.8 * (np.abs(shifts) / np.where(shifts < 0, up, down))).astype(np.float32)
    best = score[0].astype(np.float32)
    lost = np.float32(unknown)
    back = np.empty((frames, states), dtype=np.int16)
    lost_from = np.full(frames, -1, dtype=np.int64)
    unknown_here = np.full(states, np.iinfo(np.int16).max, dtype=np.int16)
    padded = np.full(states + up + down, -np.inf, dtype=np.float32)
    for i in range(1, frames):
        padded[up : up + states] = best
        options = np.lib.stride_tricks.sliding_window_view(padded, up + down + 1)[:states] - cost
        pick = np.argmax(options, axis=1)
        stay = options[np.arange(states), pick]
        enter = lost - CHANGE_COST
        back[i] = np.where(enter > stay, unknown_here, shifts[pick])
        leave = int(np.argmax(best))
        new_lost = lost
        if best[leave] - CHANGE_COST > lost:
            new_lost = best[leave] - CHANGE_COST
            lost_from[i] = leave
        best = np.maximum(stay, enter) + score[i]
        lost = np.float32(new_lost + unknown)
    return _walk_back(back, lost_from, end=int(np.argmax(best)), end_known=bool(best.max() > lost))


def _walk_back(back: IntArray, lost_from: IntArray, *, end: int, end_known: bool) -> tuple[IntArray, BoolArray]:
    frames, states = back.shape
    path = np.zeros(frames, dtype=int)
    known = np.zeros(frames, dtype=bool)
    state, is_known = end, end_known
    unknown_here = np.iinfo(np.int16).max
    for i in range(frames - 1, -1, -1):
        path[i], known[i] = state, is_known
        if i == 0:
            break
        if is_known:
            step = int(back[i, state])
            if step == unknown_here:
                is_known = False
            else:
                state = int(np.clip(state + step, 0, states - 1))
        elif lost_from[i] >= 0:
            state, is_known = int(lost_from[i]), True
    return path, known


def _drop_short(known: BoolArray, *, shortest: int) -> BoolArray:
    out = known.copy()
    labels, count = ndimage.label(known)
    for k in range(1, count + 1):
        if int((labels == k).sum()) < shortest:
            out[labels == k] = False
    return out


def _drop_unreachable(known: BoolArray, rate_hz: FloatArray, score: FloatArray) -> BoolArray:
    """Of two stretches that no drum can pass between in the time given, the one with the weaker evidence goes."""
    out = known.copy()
    while True:
        labels, count = ndimage.label(out)
        spans = [np.flatnonzero(labels == k) for k in range(1, count + 1)]
        clash = next(
            (
                (a, b)
                for a, b in pairwise(spans)
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


def _level_db(audio: AudioSignal, start_s: float, t_s: FloatArray) -> FloatArray:
    """Level of the differenced sound around each time [shape=(len(t_s),), dB]."""
    hop = int(FRAME_STEP_S * audio.sample_rate_hz)
    rough = np.diff(audio.samples[: audio.samples.size // hop * hop], prepend=np.float32(0))
    power = np.square(rough).reshape(-1, hop).mean(axis=1)
    centres = start_s + (np.arange(power.size) + 0.5) * FRAME_STEP_S
    return np.asarray(np.interp(t_s, centres, 10.0 * np.log10(power + 1e-14)))


def _drop_too_quiet(known: BoolArray, rate_hz: FloatArray, level_db: FloatArray) -> BoolArray:
    """Drop stretches far quieter than the longest one was at the same speed: a motor's harmonic taken for the drum."""
    labels, count = ndimage.label(known)
    spans = [np.flatnonzero(labels == k) for k in range(1, count + 1)]
    if len(spans) < 2:
        return known
    longest = max(spans, key=lambda span: span.size)
    order = np.argsort(rate_hz[longest])
    out = known.copy()
    for span in spans:
        expected = np.interp(rate_hz[span], rate_hz[longest][order], level_db[longest][order])
        inside = rate_hz[span] >= 0.8 * rate_hz[longest].min()
        if inside.any() and float(np.median((level_db[span] - expected)[inside])) < -TOO_QUIET_DB:
            out[span] = False
    return out


def _parabolic(score: FloatArray, path: IntArray, candidates: FloatArray) -> FloatArray:
    """Centre of the score's peak around the path [Hz]: the weighted mean of the neighbouring candidates."""
    reach = np.arange(-6, 7)
    index = np.clip(path[:, None] + reach, 0, candidates.size - 1)
    near = np.take_along_axis(score, index, axis=1)
    weight = np.maximum(near - 0.7 * near.max(axis=1, keepdims=True), 0.0) ** 2
    total = weight.sum(axis=1)
    centre = (weight * candidates[index]).sum(axis=1) / np.maximum(total, 1e-9)
    return np.where(total > 0, centre, candidates[path])


def _smooth_known(rate: FloatArray, known: BoolArray) -> FloatArray:
    out = rate.copy()
    labels, count = ndimage.label(known)
    for k in range(1, count + 1):
        part = labels == k
        if int(part.sum()) >= 7:
            out[part] = sps.savgol_filter(rate[part], 7, 2, mode="interp")
    return out


def _refine(track: SpeedTrack, acceleration: EvenAcceleration) -> SpeedTrack:
    """Correct the rate by the phase of the once-per-turn vibration, summed over the axes by their power."""
    for bandwidth_hz, reach in ((2.0, 0.3), (1.2, 0.15), (0.8, 0.1), (0.6, 0.1)):
        track = _refine_once(track, acceleration, bandwidth_hz=bandwidth_hz, reach=reach)
    return track


def _refine_once(track: SpeedTrack, acceleration: EvenAcceleration, *, bandwidth_hz: float, reach: float) -> SpeedTrack:
    """One correction; `reach` is the largest share of the rate that it may change."""
    t_s = acceleration.t_s
    rate = acceleration.sample_rate_hz
    turns = track.turns_at(t_s)
    carrier = np.exp(-2j * np.pi * turns)
    width = max(5, int(rate / bandwidth_hz))
    window = np.hanning(width + 2)[1:-1]
    window /= window.sum()
    lag = max(1, int(0.25 * FRAME_STEP_S * rate) * 2)
    product: FloatArray = np.zeros(t_s.size - lag, dtype=complex)
    power = np.zeros(t_s.size)
    for row in acceleration.axes_m_s2:
        base = sps.oaconvolve(row * carrier, window, mode="same")
        product = product + base[lag:] * np.conj(base[:-lag])
        power += np.abs(base) ** 2
    smooth = sps.oaconvolve(product, np.hanning(width + 2)[1:-1], mode="same")
    middle_s = 0.5 * (t_s[lag:] + t_s[:-lag])
    correction = np.angle(smooth) * rate / (2 * np.pi * lag)
    at_frames = np.interp(track.t_s, middle_s, correction)
    limit = np.minimum(0.5 * bandwidth_hz, reach * track.rate_hz)
    usable = track.known & (np.abs(at_frames) < limit) & (track.rate_hz > 0.7)
    usable &= (track.t_s >= t_s[0]) & (track.t_s <= t_s[-1])
    refined = np.where(usable, track.rate_hz + at_frames, track.rate_hz)
    return SpeedTrack(
        t_s=track.t_s,
        rate_hz=_smooth_known(refined, track.known),
        known=track.known,
        sigma_hz=np.where(usable, np.maximum(np.abs(np.gradient(at_frames)), 1e-3), track.sigma_hz),
        source=track.source,
    )


def track_points(track: SpeedTrack, *, rests: Sequence[tuple[float, float]] = ()) -> list[list[float]]:
    """The track as `[t_s, rpm]` pairs, known stretches only, and zero where the machine stands."""
    points = [
        [round(float(t), 3), round(float(r) * 60.0, 2)]
        for t, r, k in zip(track.t_s, track.rate_hz, track.known, strict=True)
        if k
    ]
    for begin, end in rests:
        points.extend([[round(float(t), 3), 0.0] for t in np.arange(begin, end, FRAME_STEP_S)])
    return sorted(points)
