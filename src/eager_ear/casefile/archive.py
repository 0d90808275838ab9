"""A case as a zip: unpacked with care, packed the same way every time."""

from __future__ import annotations

import lzma
import shutil
import struct
import tempfile
import zipfile
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path, PurePosixPath
from typing import IO, BinaryIO

from eager_ear.casefile.errors import FileTooLarge, UnreadableFile, UnsafeArchive

MOST_MEMBERS = 500
DEFAULT_LIMIT_BYTES = 1_000_000_000
# Sound and tables shrink by three to ten; a hundred thousand zeros shrink by a thousand.
WORST_RATIO = 200
SLACK_BYTES = 10_000_000
COPY_BYTES = 1 << 20
# What reading a zip may end with that is damaged, or whose members cannot stand beside each other.
DAMAGED = (
    zipfile.BadZipFile,
    zlib.error,
    lzma.LZMAError,
    EOFError,
    NotImplementedError,
    RuntimeError,
    OSError,
    ValueError,
    struct.error,
)
STAMP = (2000, 1, 1, 0, 0, 0)


@contextmanager
def unpacked(archive: Path, *, limit_bytes: int = DEFAULT_LIMIT_BYTES) -> Iterator[Path]:
    """The case's folder inside a zip, in a temporary place that is removed afterwards.

    Raises
    ------
    UnreadableFile
        Not a zip, or damaged.
    UnsafeArchive
        Absolute or `..` paths, links, too many members, or a member that swells beyond reason.
    FileTooLarge
        More than `limit_bytes` unpacked.
    """
    with tempfile.TemporaryDirectory(prefix="eager-ear-case-") as scratch:
        target = Path(scratch)
        try:
            with zipfile.ZipFile(archive) as zipped:
                _extract(zipped, target, archive.name, limit_bytes)
        except DAMAGED as exc:
            raise UnreadableFile(file=archive.name, reason="is not a zip file that can be read.") from exc
        yield _case_root(target)


def _extract(zipped: zipfile.ZipFile, target: Path, name: str, limit_bytes: int) -> None:
    members = zipped.infolist()
    if len(members) > MOST_MEMBERS:
        raise UnsafeArchive(file=name, reason=f"holds {len(members)} files, more than {MOST_MEMBERS}.")
    left = limit_bytes
    for member in members:
        path = PurePosixPath(member.filename.replace("\\", "/"))
        is_link = (member.external_attr >> 16) & 0o170000 == 0o120000
        if path.is_absolute() or ".." in path.parts or is_link or ":" in member.filename:
            raise UnsafeArchive(file=name, reason=f"“{member.filename[:80]}” points outside the case.")
        if not path.parts:
            raise UnsafeArchive(file=name, reason=f"“{member.filename[:80]}” is no name of a file.")
        if member.is_dir():
            continue
        if member.file_size > WORST_RATIO * max(member.compress_size, 1) + SLACK_BYTES:
            raise UnsafeArchive(file=name, reason=f"“{member.filename[:80]}” swells beyond reason when unpacked.")
        out = target.joinpath(*path.parts)
        out.parent.mkdir(parents=True, exist_ok=True)
        with zipped.open(member) as source, out.open("wb") as sink:
            left = _copy(source, sink, left, name)


def _copy(source: IO[bytes], sink: BinaryIO, left: int, name: str) -> int:
    """Copy at most `left` bytes; the announced size is not believed."""
    while block := source.read(COPY_BYTES):
        left -= len(block)
        if left < 0:
            raise FileTooLarge(file=name, reason="is larger than allowed when unpacked.")
        sink.write(block)
    return left


def _case_root(folder: Path) -> Path:
    """The folder itself, or its only subfolder when the case was zipped with its folder."""
    if (folder / "case.json").is_file():
        return folder
    subfolders = [p for p in folder.iterdir() if p.is_dir() and not p.name.startswith("__")]
    if len(subfolders) == 1 and (subfolders[0] / "case.json").is_file():
        return subfolders[0]
    return folder


def pack_file(zipped: zipfile.ZipFile, name: str, source: IO[bytes]) -> None:
    """Add one file with a fixed date, so that equal cases give equal zips."""
    info = zipfile.ZipInfo(name, date_time=STAMP)
    info.compress_type = zipfile.ZIP_DEFLATED
    info.external_attr = 0o644 << 16
    with zipped.open(info, "w", force_zip64=True) as sink:
        shutil.copyfileobj(source, sink, COPY_BYTES)
