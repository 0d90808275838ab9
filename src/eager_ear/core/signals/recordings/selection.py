"""Which recordings of a run are measured, and what is wrong with each of them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TypeVar

from eager_ear.core.case import Recording
from eager_ear.core.signals.dsp import EvenAcceleration, even_acceleration
from eager_ear.core.signals.recordings.quality_gate import Warning, judge_acceleration, judge_audio
from eager_ear.core.signals.types import AccelerationSignal, AudioSignal, CurrentSignal, TachoSignal

T = TypeVar("T")


@dataclass(frozen=True, kw_only=True)
class Chosen:
    """The recordings that a run is measured from; `start_s` are offsets on the run's clock."""

    audio: AudioSignal | None
    audio_start_s: float
    audio_name: str | None
    acceleration: EvenAcceleration | None
    acceleration_raw: AccelerationSignal | None
    acceleration_start_s: float
    acceleration_name: str | None
    tacho: TachoSignal | None
    tacho_start_s: float
    current: CurrentSignal | None
    current_start_s: float
    noted_power_cut_s: float | None
    position: str | None
    load: str | None
    warnings: tuple[Warning, ...]


def choose(recordings: Sequence[Recording], *, highest_hz: float) -> Chosen:
    """The longest unclipped sound, the first usable vibration, and tacho pulses if there are any.

    Parameters
    ----------
    highest_hz : the drum's top rate, which the sensors should be able to show
    """
    warnings: list[Warning] = []
    audio = _best_audio(recordings, warnings)
    vibration = _first(recordings, AccelerationSignal)
    even: EvenAcceleration | None = None
    raw: AccelerationSignal | None = None
    if vibration is not None and isinstance(vibration.signal, AccelerationSignal) and vibration.signal.present:
        raw = vibration.signal
        even = even_acceleration(raw, start_s=vibration.facts.start_s)
        warnings.extend(
            judge_acceleration(
                raw, name=vibration.facts.name, is_spin=True, gaps=len(even.gaps_s), highest_hz=highest_hz
            )
        )
    tacho = _first(recordings, TachoSignal)
    current = _first(recordings, CurrentSignal)
    return Chosen(
        audio=audio.signal if audio is not None and isinstance(audio.signal, AudioSignal) else None,
        audio_start_s=audio.facts.start_s if audio is not None else 0.0,
        audio_name=audio.facts.name if audio is not None else None,
        acceleration=even,
        acceleration_raw=raw,
        acceleration_start_s=vibration.facts.start_s if vibration is not None else 0.0,
        acceleration_name=vibration.facts.name if vibration is not None else None,
        tacho=tacho.signal if tacho is not None and isinstance(tacho.signal, TachoSignal) else None,
        tacho_start_s=tacho.facts.start_s if tacho is not None else 0.0,
        current=current.signal if current is not None and isinstance(current.signal, CurrentSignal) else None,
        current_start_s=current.facts.start_s if current is not None else 0.0,
        noted_power_cut_s=next((r.facts.power_cut_s for r in recordings if r.facts.power_cut_s is not None), None),
        position=next((r.facts.position for r in recordings if r.facts.position), None),
        load=next((r.facts.load for r in recordings if r.facts.load), None),
        warnings=tuple(warnings),
    )


def _first(recordings: Sequence[Recording], kind: type[T]) -> Recording | None:
    return next((r for r in recordings if isinstance(r.signal, kind)), None)


def _best_audio(recordings: Sequence[Recording], warnings: list[Warning]) -> Recording | None:
    best: tuple[tuple[bool, float], Recording] | None = None
    for recording in recordings:
        if not isinstance(recording.signal, AudioSignal):
            continue
        found = judge_audio(recording.signal, name=recording.facts.name, is_spin=True)
        warnings.extend(found)
        rank = (not any(w.code == "clipped" for w in found), recording.signal.duration_s)
        if best is None or rank > best[0]:
            best = (rank, recording)
    return best[1] if best is not None else None
