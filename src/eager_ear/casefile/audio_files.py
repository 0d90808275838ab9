"""Sound files to and from one channel of samples.

Headers are not believed: samples are read in blocks until the file ends or the limit is reached. What a header
announces beyond the file's end is taken for a recording that was cut short; the samples that are there are read.
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import soundfile

from eager_ear.casefile.errors import FileTooLarge, UnreadableFile
from eager_ear.casefile.wav_header import repaired
from eager_ear.core.errors import BadSignal
from eager_ear.core.signals.types import AUDIO_RATE_RANGE_HZ, AudioSignal
from eager_ear.core.units import FloatArray

BLOCK_FRAMES = 65536
LONGEST_S = 1800.0
MOST_CHANNELS = 8
# All samples of all channels: half an hour of stereo at 48 kHz.
MOST_SAMPLES = 200_000_000
SILENT_RMS = 1e-6
KEEPS_EVERYTHING = ("WAV", "WAVEX", "RF64", "W64", "FLAC", "AIFF", "CAF", "AU")
SOUND_BEGINS_WITH = (b"RIFF", b"RF64", b"fLaC", b"OggS", b"FORM", b"caff", b"ID3", b".snd", b"riff")
MP3_FRAME = (b"\xff\xfb", b"\xff\xf3", b"\xff\xf2", b"\xff\xfa")


def is_audio(path: Path, *, name: str) -> bool:
    """Whether a file begins as sound does, or is called so. Raises UnreadableFile for an empty one."""
    with path.open("rb") as file:
        head = file.read(4)
    if not head:
        raise UnreadableFile(file=name, reason="is empty.")
    called = name.lower().endswith((".wav", ".flac", ".ogg", ".oga", ".opus", ".mp3", ".aif", ".aiff", ".caf"))
    return head.startswith(SOUND_BEGINS_WITH) or head.startswith(MP3_FRAME) or called


def inspect_audio(path: Path, *, name: str) -> tuple[float, float, tuple[str, ...]]:
    """Length [s], rate [Hz] and what is odd about a sound file, read through once in blocks. Raises FileProblem."""
    with _opened(path, name) as file:
        rate, kept = float(file.samplerate), 0
        finite = True
        try:
            for block in file.blocks(BLOCK_FRAMES, dtype="float32", always_2d=True):
                kept += block.shape[0]
                finite = finite and bool(np.isfinite(block).all())
        except soundfile.SoundFileError as exc:
            raise UnreadableFile(file=name, reason=f"breaks off after {kept / rate:.1f} s: it is damaged.") from exc
        said = _oddities(file, kept)
    if kept == 0:
        raise UnreadableFile(file=name, reason="holds no sound.")
    if not finite:
        raise UnreadableFile(file=name, reason="The recording holds samples that are not finite numbers.")
    return kept / rate, rate, said


def read_audio(path: Path, *, name: str, pa_per_fs: float | None = None) -> AudioSignal:
    """Samples of a sound file, channels averaged unless one is silent.

    Raises
    ------
    UnreadableFile
        No sound that can be read, damaged, or at a rate outside of what is measured.
    FileTooLarge
        Longer than half an hour, or more channels than anybody records with.
    """
    with _opened(path, name) as file:
        rate = float(file.samplerate)
        try:
            samples = _mixed(file)
        except soundfile.SoundFileError as exc:
            raise UnreadableFile(file=name, reason="is damaged.") from exc
    try:
        return AudioSignal(samples=samples, sample_rate_hz=rate, pa_per_fs=pa_per_fs)
    except BadSignal as exc:
        raise UnreadableFile(file=name, reason=exc.reason) from exc


def _opened(path: Path, name: str) -> soundfile.SoundFile:
    """The file, when it is one that can be read in reasonable room."""
    if path.stat().st_size == 0:
        raise UnreadableFile(file=name, reason="is empty.")
    try:
        file = soundfile.SoundFile(repaired(path))
    except (soundfile.SoundFileError, TypeError) as exc:
        raise UnreadableFile(
            file=name, reason="is no sound that can be read, whatever its name says: WAV and FLAC are best."
        ) from exc
    try:
        _require_measured_rate(file, name)
    except BaseException:
        file.close()
        raise
    return file


def _require_measured_rate(file: soundfile.SoundFile, name: str) -> None:
    low, high = AUDIO_RATE_RANGE_HZ
    if not low <= file.samplerate <= high:
        raise UnreadableFile(
            file=name,
            reason=f"A sample rate of {file.samplerate} Hz is outside {low / 1000:g} to {high / 1000:g} kHz.",
        )
    if file.channels > MOST_CHANNELS:
        raise FileTooLarge(file=name, reason=f"{file.channels} channels are more than {MOST_CHANNELS}.")
    if file.frames > LONGEST_S * file.samplerate:
        raise FileTooLarge(
            file=name, reason=f"{file.frames / file.samplerate / 60:.0f} minutes is longer than half an hour."
        )
    if file.frames * file.channels > MOST_SAMPLES:
        raise FileTooLarge(file=name, reason=f"holds more than {MOST_SAMPLES // 1_000_000} million samples.")


def _oddities(file: soundfile.SoundFile, kept: int) -> tuple[str, ...]:
    out: list[str] = []
    if file.format not in KEEPS_EVERYTHING:
        out.append(
            f"{file.format} leaves out what a listener would hardly miss: high bands, where early bearing damage is "
            "heard, may be gone. Record as WAV or FLAC if you can."
        )
    if kept < file.frames:
        out.append(
            f"The header announces {file.frames / file.samplerate:.1f} s, {kept / file.samplerate:.1f} s are there."
        )
    return tuple(out)


def _mixed(file: soundfile.SoundFile) -> FloatArray:
    """One channel of what is heard in any, read twice so that only that channel is ever held."""
    power = np.zeros(file.channels)
    frames = 0
    for block in _blocks(file):
        power += np.square(block, dtype=np.float64).sum(axis=0)
        frames += block.shape[0]
    live = np.flatnonzero(np.sqrt(power / max(frames, 1)) > SILENT_RMS)
    chosen = live if live.size else np.arange(power.size)
    out = np.empty(frames, dtype=np.float32)
    at = 0
    for block in _blocks(file):
        out[at : at + block.shape[0]] = block[:, chosen].mean(axis=1, dtype=np.float32)
        at += block.shape[0]
    return out[:at]


def _blocks(file: soundfile.SoundFile) -> Iterator[FloatArray]:
    """All samples from the first on [shape=(n, channels)], in blocks."""
    file.seek(0)
    yield from file.blocks(BLOCK_FRAMES, dtype="float32", always_2d=True)


def write_audio(path: Path, signal: AudioSignal) -> None:
    """Write 16-bit WAV (or FLAC by the path's suffix)."""
    kind = "FLAC" if path.suffix.lower() == ".flac" else "WAV"
    soundfile.write(path, signal.samples, int(signal.sample_rate_hz), subtype="PCM_16", format=kind)
