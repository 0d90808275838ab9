"""A stretch of a sound file, read without decoding the rest of it."""

from __future__ import annotations

import io
from dataclasses import dataclass
from typing import IO

import numpy as np
import soundfile

from eager_ear.casefile.audio_files import SILENT_RMS
from eager_ear.casefile.errors import UnreadableFile
from eager_ear.core.units import FloatArray


@dataclass(frozen=True, kw_only=True)
class SoundHead:
    """What a sound file says of itself."""

    sample_rate_hz: float
    samples: int


def sound_head(file: IO[bytes] | io.RawIOBase, *, name: str) -> SoundHead:
    """Rate and length, from the file's first bytes. Raises UnreadableFile."""
    try:
        with soundfile.SoundFile(file) as opened:
            return SoundHead(sample_rate_hz=float(opened.samplerate), samples=int(opened.frames))
    except soundfile.SoundFileError as exc:
        raise UnreadableFile(file=name, reason="is no sound that can be read.") from exc


def sound_stretch(file: IO[bytes] | io.RawIOBase, *, name: str, first: int, last: int) -> FloatArray:
    """Samples from `first` up to `last`, channels averaged unless one is silent. Raises UnreadableFile."""
    try:
        with soundfile.SoundFile(file) as opened:
            opened.seek(first)
            block = opened.read(last - first, dtype="float32", always_2d=True)
    except soundfile.SoundFileError as exc:
        raise UnreadableFile(file=name, reason="that stretch of it cannot be read.") from exc
    live = np.flatnonzero(np.sqrt(np.mean(np.square(block), axis=0)) > SILENT_RMS) if block.size else np.zeros(0, int)
    chosen = live if live.size else np.arange(block.shape[1])
    return np.asarray(block[:, chosen].mean(axis=1, dtype=np.float32))
