"""WAV and FLAC files to and from one channel of samples.

Headers are not believed: the data chunk of a WAV must fit into the file, and samples are read in blocks until the
file ends or the limit is reached.
"""

from __future__ import annotations

import struct
from pathlib import Path

import numpy as np
import soundfile

from eager_ear.casefile.errors import FileTooLarge, UnreadableFile
from eager_ear.core.errors import BadSignal
from eager_ear.core.signals.types import AudioSignal
from eager_ear.core.units import FloatArray

BLOCK_FRAMES = 65536
LONGEST_S = 1800.0
SILENT_RMS = 1e-6
STREAMED_SIZES = (0, 0xFFFFFFFF)


def read_audio(path: Path, *, name: str, pa_per_fs: float | None = None) -> AudioSignal:
    """Samples of a WAV or FLAC file, channels averaged unless one is silent.

    Raises
    ------
    UnreadableFile
        Not WAV or FLAC, damaged, or its header announces more than the file holds.
    FileTooLarge
        Longer than half an hour.
    """
    _check_container(path, name)
    try:
        with soundfile.SoundFile(path) as file:
            rate = float(file.samplerate)
            if file.frames > LONGEST_S * rate:
                raise FileTooLarge(
                    file=name, reason=f"{file.frames / rate / 60:.0f} minutes is longer than half an hour."
                )
            samples = _mixed(list(file.blocks(BLOCK_FRAMES, dtype="float32", always_2d=True)))
    except soundfile.SoundFileError as exc:
        raise UnreadableFile(file=name, reason="is not a WAV or FLAC recording that can be read.") from exc
    try:
        return AudioSignal(samples=samples, sample_rate_hz=rate, pa_per_fs=pa_per_fs)
    except BadSignal as exc:
        raise UnreadableFile(file=name, reason=exc.reason) from exc


def _mixed(blocks: list[FloatArray]) -> FloatArray:
    if not blocks:
        return np.zeros(0, dtype=np.float32)
    power = np.mean([np.mean(np.square(b), axis=0) for b in blocks], axis=0)
    live = np.flatnonzero(np.sqrt(power) > SILENT_RMS)
    chosen = live if live.size else np.arange(power.size)
    return np.concatenate([b[:, chosen].mean(axis=1, dtype=np.float32) for b in blocks])


def _check_container(path: Path, name: str) -> None:
    size = path.stat().st_size
    if size == 0:
        raise UnreadableFile(file=name, reason="is empty.")
    with path.open("rb") as file:
        head = file.read(12)
        if head[:4] == b"fLaC":
            return
        if head[:4] not in (b"RIFF", b"RF64") or head[8:12] != b"WAVE":
            raise UnreadableFile(file=name, reason="is neither WAV nor FLAC, whatever its name says.")
        if head[:4] == b"RF64":
            return
        position = 12
        while position + 8 <= size:
            file.seek(position)
            kind, length = struct.unpack("<4sI", file.read(8))
            if kind == b"data":
                if length not in STREAMED_SIZES and position + 8 + length > size + 1:
                    raise UnreadableFile(
                        file=name,
                        reason=f"its header announces {length} bytes of sound, the file holds {size - position - 8}.",
                    )
                return
            position += 8 + length + (length & 1)
    raise UnreadableFile(file=name, reason="holds no sound data.")


def write_audio(path: Path, signal: AudioSignal) -> None:
    """Write 16-bit WAV (or FLAC by the path's suffix)."""
    kind = "FLAC" if path.suffix.lower() == ".flac" else "WAV"
    soundfile.write(path, signal.samples, int(signal.sample_rate_hz), subtype="PCM_16", format=kind)
