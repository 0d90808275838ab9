"""Benchmark: every stage, the whole, and two yardsticks in the same run.

Yardsticks: one bare real transform over the same frames (the floor), and a plain scipy spectrogram plus Hilbert
envelope. Ratios of one run are what may be quoted; seconds of a shared machine are not.
"""

from __future__ import annotations

import json
import time
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
import scipy

from eager_ear.core.analysis import analyse
from eager_ear.core.case import Case, Recording
from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.diagnosis.evidence import shown_from_json, shown_to_json
from eager_ear.core.live import LiveEar
from eager_ear.core.measure import measure_recordings, runs_of
from eager_ear.core.result import result_dict
from eager_ear.core.signals.types import AccelerationSignal, AudioSignal
from eager_ear.core.simulate import simulate_case
from eager_ear.core.units import FloatArray
from eager_ear.core.weigh import weigh
from eager_ear.knowledge import load_knowledge

AUDIO_RATE_HZ = 48000.0
ACCELERATION_RATE_HZ = 400.0
FRAME, HOP = 4096, 1024
# Samples that a browser hands over at a time.
BLOCK = 1024
REPEATS = 5
# Time is to grow with the length and no faster.
LONGER = 4


def run_bench(*, seconds: float) -> None:
    """Print stages, whole, floor and baseline."""
    case = _case(seconds)
    audio = case.recordings[0].signal
    if not isinstance(audio, AudioSignal):
        raise TypeError("the first recording of the benchmark's case is sound")
    knowledge = load_knowledge()
    before_mb = _restarted_peak_mb()
    rounds: list[_Round] = []
    peak_mb = 0.0
    for _ in range(REPEATS):
        # Before, after and as a median, since a shared machine is faster at one moment than at the next.
        floors_s = [_timed(lambda: _bare_transform(audio.samples)) for _ in range(REPEATS)]
        stages = _timed_stages(case, knowledge)
        peak_mb = peak_mb or _peak_mb() - before_mb
        floors_s += [_timed(lambda: _bare_transform(audio.samples)) for _ in range(REPEATS)]
        plain_s = _timed(lambda: _plain_baseline(audio.samples))
        rounds.append(_Round(stages, float(np.median(floors_s)), plain_s))
    best = min(rounds, key=lambda r: r.whole_s)
    best_total = best.whole_s
    floor_s = min(r.floor_s for r in rounds)
    plain_s = min(r.plain_s for r in rounds)
    print(f"{audio.duration_s:.0f} s of {AUDIO_RATE_HZ / 1000:g} kHz sound, {ACCELERATION_RATE_HZ:g} Hz acceleration")
    for name, took in best.stages:
        print(f"  {name:<12}{1000 * took:8.0f} ms {took / floor_s:8.1f} x floor")
    print(f"  {'whole':<12}{1000 * best_total:8.0f} ms {best_total / floor_s:8.1f} x floor")
    ratios = sorted(r.whole_s / r.floor_s for r in rounds)
    print(
        f"  {'':<12}{'':>11} {ratios[0]:8.1f} to {ratios[-1]:.1f} in {REPEATS} rounds, median {np.median(ratios):.1f}"
    )
    print(f"  {'floor':<12}{1000 * floor_s:8.0f} ms   bare real transform, frames of {FRAME}, hop {HOP}")
    print(f"  {'plain scipy':<12}{1000 * plain_s:8.0f} ms {plain_s / floor_s:8.1f} x floor   with Hilbert envelope")
    print(f"  whole / plain scipy: {best_total / plain_s:.2f}")
    print(f"  peak memory of the analysis above its start: {peak_mb:.0f} MB")
    print(f"  weighing alone: {1000 * _timed_weighing(case, knowledge):.1f} ms, from what was measured")
    live = _timed_live(case)
    print(
        f"  listening along: {audio.duration_s / sum(live):.0f} times real time; "
        f"a block of {1000 * BLOCK / AUDIO_RATE_HZ:.0f} ms takes at most {1000 * max(live):.0f} ms"
    )
    longer = _case(LONGER * seconds)
    longer_s = min(_timed(lambda: analyse(longer, knowledge=knowledge)) for _ in range(2))
    print(f"  {LONGER} times the length takes {longer_s / best_total:.1f} times as long")


@dataclass(frozen=True)
class _Round:
    """One analysis, stage by stage, and both yardsticks beside it [s]."""

    stages: list[tuple[str, float]]
    floor_s: float
    plain_s: float

    @property
    def whole_s(self) -> float:
        return sum(took for _, took in self.stages)


def _timed_stages(case: Case, knowledge: Knowledge) -> list[tuple[str, float]]:
    marks: list[tuple[str, float]] = [("reading", time.perf_counter())]
    analyse(case, knowledge=knowledge, on_stage=lambda name: marks.append((name, time.perf_counter())))
    ends = [t for _, t in marks[1:]] + [time.perf_counter()]
    return [(name, stop - t) for (name, t), stop in zip(marks, ends, strict=True)]


def _timed_weighing(case: Case, knowledge: Knowledge) -> float:
    """The median of a call made anew from stored readings, story and hands, as after each entry [s]."""
    measured = [
        measure_recordings(r, machine=case.machine, knowledge=knowledge) for r in runs_of(case.recordings).values()
    ]
    stored = [json.dumps(shown_to_json(m.shown)) for m in measured]

    def weighed() -> None:
        result_dict(weigh(case, shown=[shown_from_json(json.loads(s)) for s in stored], knowledge=knowledge))

    return float(np.median([_timed(weighed) for _ in range(20)]))


def _timed_live(case: Case) -> list[float]:
    """How long each block of sound takes, with the motion that came beside it [s]."""
    signals = [r.signal for r in case.recordings]
    audio = next(s for s in signals if isinstance(s, AudioSignal))
    motion = next(s for s in signals if isinstance(s, AccelerationSignal))
    ear = LiveEar(machine=case.machine, audio_rate_hz=audio.sample_rate_hz, audio_start_s=0.0)
    took: list[float] = []
    for first in range(0, audio.samples.size, BLOCK):
        rows = slice(*np.searchsorted(motion.t_s, np.array([first, first + BLOCK]) / audio.sample_rate_hz))
        begin = time.perf_counter()
        ear.push_motion(motion.t_s[rows], motion.axes_m_s2[:, rows])
        ear.push_sound(audio.samples[first : first + BLOCK])
        took.append(time.perf_counter() - begin)
    return took


def _case(seconds: float) -> Case:
    """A simulated case brought to the benchmark's length and rates."""
    simulated = simulate_case(layout="front_belt", faults=["drum_bearing"], seed=7)
    recordings: list[Recording] = []
    for recording in simulated.case.recordings:
        signal = recording.signal
        if isinstance(signal, AudioSignal):
            samples = (
                scipy.signal.resample_poly(signal.samples, 160, 147)
                if signal.sample_rate_hz == 44100
                else signal.samples
            )
            wanted = np.resize(samples, int(seconds * AUDIO_RATE_HZ)).astype(np.float32)
            recordings.append(replace(recording, signal=AudioSignal(samples=wanted, sample_rate_hz=AUDIO_RATE_HZ)))
        elif isinstance(signal, AccelerationSignal):
            t_s = np.arange(0.0, seconds, 1.0 / ACCELERATION_RATE_HZ)
            within = np.mod(t_s, signal.duration_s)
            axes = np.stack([np.interp(within, signal.t_s, row) for row in signal.axes_m_s2])
            recordings.append(replace(recording, signal=AccelerationSignal(t_s=t_s, axes_m_s2=axes)))
    return replace(simulated.case, recordings=tuple(recordings))


def _timed(action: Callable[[], object]) -> float:
    begin = time.perf_counter()
    action()
    return time.perf_counter() - begin


def _bare_transform(samples: FloatArray) -> None:
    frames = np.lib.stride_tricks.sliding_window_view(samples, FRAME)[::HOP]
    for start in range(0, frames.shape[0], 64):
        scipy.fft.rfft(frames[start : start + 64].astype(np.float32), axis=1)


def _plain_baseline(samples: FloatArray) -> None:
    scipy.signal.spectrogram(samples, AUDIO_RATE_HZ, nperseg=FRAME, noverlap=FRAME - HOP)
    band = scipy.signal.sosfilt(scipy.signal.butter(4, (2000, 6000), "band", fs=AUDIO_RATE_HZ, output="sos"), samples)
    np.abs(scipy.signal.hilbert(band, scipy.fft.next_fast_len(band.size)))


def _restarted_peak_mb() -> float:
    """Forget the highest memory so far (Linux), so that what follows is measured alone."""
    Path("/proc/self/clear_refs").write_text("5")
    return _peak_mb()


def _peak_mb() -> float:
    status = Path("/proc/self/status").read_text()
    return next(float(line.split()[1]) for line in status.splitlines() if line.startswith("VmHWM")) / 1024.0
