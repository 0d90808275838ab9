"""A case as a folder: read with its recordings, or written."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path

from eager_ear.casefile.audio_files import read_audio, write_audio
from eager_ear.casefile.description import CaseDescription, RecordingEntry, description_to_json, parse_description
from eager_ear.casefile.errors import FileProblem, UnreadableFile
from eager_ear.casefile.table_files import (
    read_acceleration,
    read_current,
    read_tacho,
    write_acceleration,
    write_current,
    write_tacho,
)
from eager_ear.core.case import Case, Recording
from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.signals.types import AccelerationSignal, AudioSignal, Signal, TachoSignal

DESCRIPTION = "case.json"


def read_signal(path: Path, entry: RecordingEntry) -> Signal:
    """The samples of one recording by its kind. Raises FileProblem."""
    if entry.facts.kind == "audio":
        return read_audio(path, name=entry.file, pa_per_fs=entry.pa_per_fs)
    if entry.facts.kind == "acceleration":
        return read_acceleration(path, name=entry.file)
    if entry.facts.kind == "tacho":
        return read_tacho(path, name=entry.file)
    return read_current(path, name=entry.file)


def read_description(folder: Path, *, knowledge: Knowledge) -> CaseDescription:
    """case.json of a folder, checked. Raises FileProblem."""
    path = folder / DESCRIPTION
    if not path.is_file():
        raise UnreadableFile(file=DESCRIPTION, reason="is missing from the case.")
    try:
        data = json.loads(path.read_text(encoding="utf-8-sig"))
    except (ValueError, RecursionError) as exc:
        raise UnreadableFile(file=DESCRIPTION, reason="is not JSON.") from exc
    return parse_description(data, knowledge=knowledge)


def recording_path(folder: Path, file: str) -> Path:
    """Path of a recording, which must lie inside the folder. Raises FileProblem."""
    try:
        path = (folder / file).resolve()
    except (ValueError, OSError) as exc:
        raise FileProblem(file=DESCRIPTION, reason=f"recordings.file: “{file[:80]}” is no file name.") from exc
    if not path.is_relative_to(folder.resolve()):
        raise FileProblem(file=DESCRIPTION, reason=f"recordings.file: “{file}” lies outside the case.")
    if not _is_file(path):
        raise FileProblem(file=DESCRIPTION, reason=f"recordings.file: “{file}” is not in the case.")
    return path


def _is_file(path: Path) -> bool:
    """Whether it is one; a name that no file system bears is none."""
    try:
        return path.is_file()
    except OSError:
        return False


def read_case_folder(folder: Path, *, knowledge: Knowledge) -> tuple[Case, CaseDescription]:
    """A whole case with its samples. Raises FileProblem."""
    description = read_description(folder, knowledge=knowledge)
    recordings = tuple(
        Recording(facts=entry.facts, signal=read_signal(recording_path(folder, entry.file), entry))
        for entry in description.recordings
    )
    return replace(description.case, recordings=recordings), description


def write_case_folder(folder: Path, case: Case, *, truth: dict[str, object] | None = None) -> None:
    """Write a case; `truth`, where known, goes into `truth.json` beside it, which no reader looks at."""
    folder.mkdir(parents=True, exist_ok=True)
    entries = tuple(RecordingEntry(facts=r.facts, file=r.facts.name) for r in case.recordings)
    for recording in case.recordings:
        _write_signal(folder / recording.facts.name, recording.signal)
    text = json.dumps(description_to_json(case, entries), indent=2, ensure_ascii=False)
    (folder / DESCRIPTION).write_text(text + "\n", encoding="utf-8")
    if truth is not None:
        (folder / "truth.json").write_text(json.dumps(truth) + "\n", encoding="utf-8")


def _write_signal(path: Path, signal: Signal) -> None:
    if isinstance(signal, AudioSignal):
        write_audio(path, signal)
    elif isinstance(signal, AccelerationSignal):
        write_acceleration(path, signal)
    elif isinstance(signal, TachoSignal):
        write_tacho(path, signal)
    else:
        write_current(path, signal)
