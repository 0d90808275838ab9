"""A file from a device looked over before it is kept: what it is, how long, what is odd about it."""

from __future__ import annotations

import io
import warnings
from dataclasses import dataclass
from pathlib import Path
from typing import IO

from PIL import Image, ImageOps, UnidentifiedImageError

from eager_ear.casefile.audio_files import inspect_audio, is_audio
from eager_ear.casefile.errors import UnreadableFile
from eager_ear.casefile.table_files import inspect_table

SMALL_PIXELS = 320
MOST_PIXELS = 100_000_000
PHOTO_FORMATS = ("JPEG", "PNG", "WEBP")
UPRIGHT_QUALITY = 90


@dataclass(frozen=True, kw_only=True)
class Inspected:
    """What a recording was found to be. kinds : as which it can be used; warnings : sentences for people."""

    kinds: tuple[str, ...]
    duration_s: float
    rate_hz: float | None
    warnings: tuple[str, ...]


def inspect_recording(path: Path, *, name: str) -> Inspected:
    """Sound or a table, by its bytes, whatever its name says. Raises FileProblem."""
    if is_audio(path, name=name):
        duration_s, rate_hz, said = inspect_audio(path, name=name)
        return Inspected(kinds=("audio",), duration_s=duration_s, rate_hz=rate_hz, warnings=said)
    table = inspect_table(path, name=name)
    return Inspected(kinds=table.kinds, duration_s=table.duration_s, rate_hz=table.rate_hz, warnings=table.warnings)


@dataclass(frozen=True, kw_only=True)
class Photo:
    """A photo without its metadata, the right way up."""

    image: Image.Image
    format: str

    @property
    def width(self) -> int:
        return self.image.width

    @property
    def height(self) -> int:
        return self.image.height

    def upright(self) -> IO[bytes]:
        """The photo in its own format."""
        return self._written(self.image)

    def small(self) -> IO[bytes]:
        """A copy for lists."""
        copy = self.image.copy()
        copy.thumbnail((SMALL_PIXELS, SMALL_PIXELS))
        return self._written(copy)

    def _written(self, image: Image.Image) -> IO[bytes]:
        sink = io.BytesIO()
        if self.format == "JPEG":
            image = image.convert("RGB")
        image.save(sink, format=self.format, quality=UPRIGHT_QUALITY)
        sink.seek(0)
        return sink


def inspect_photo(path: Path, *, name: str) -> Photo:
    """A JPEG, PNG or WebP, turned upright; where it was taken is left behind. Raises UnreadableFile."""
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error")
            with Image.open(path, formats=PHOTO_FORMATS) as opened:
                if opened.width * opened.height > MOST_PIXELS:
                    raise UnreadableFile(file=name, reason="has more than a hundred million pixels.")
                kind = str(opened.format)
                upright = ImageOps.exif_transpose(opened)
                bare = Image.new(upright.mode, upright.size)
                bare.paste(upright)
                if upright.mode == "P" and (palette := upright.getpalette()) is not None:
                    bare.putpalette(palette)
    except UnreadableFile:
        raise
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Warning, MemoryError) as exc:
        raise UnreadableFile(file=name, reason="is no JPEG, PNG or WebP photo that can be read.") from exc
    return Photo(image=bare, format=kind)
