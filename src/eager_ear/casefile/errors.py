"""Errors of files. All are `InputError`s: the sender can mend them.

InputError (core)
└── FileProblem            names the file and, where there is one, the field
    ├── UnreadableFile     not the kind of file it claims to be, damaged or cut short
    ├── UnclearTable       a log in which something cannot be guessed: what is asked, and its first rows
    ├── FileTooLarge       beyond the limit, announced or real
    └── UnsafeArchive      a zip that reaches outside itself or swells beyond reason
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from eager_ear.core.errors import InputError


@dataclass(eq=False, kw_only=True)
class FileProblem(InputError):
    code: ClassVar[str] = "file_problem"
    file: str
    reason: str

    def sentence(self) -> str:
        return f"{self.file}: {self.reason}"


@dataclass(eq=False, kw_only=True)
class UnreadableFile(FileProblem):
    code: ClassVar[str] = "unreadable_file"


@dataclass(eq=False, kw_only=True)
class UnclearTable(FileProblem):
    """It is answered by a first line that names the columns.

    rows : the names, empty where there are none, then the first rows as they are written
    meant : what each column was taken for: t, x, y, z, or empty
    separator, lines_before : how a line that names the columns is written, and how many lines it takes the place of
    in_archive : the table is the member of a zip
    """

    code: ClassVar[str] = "unclear_table"
    question: str
    rows: tuple[tuple[str, ...], ...]
    meant: tuple[str, ...]
    separator: str
    lines_before: int
    in_archive: bool = False


@dataclass(eq=False, kw_only=True)
class FileTooLarge(FileProblem):
    code: ClassVar[str] = "file_too_large"


@dataclass(eq=False, kw_only=True)
class UnsafeArchive(FileProblem):
    code: ClassVar[str] = "unsafe_archive"
