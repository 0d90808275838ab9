"""Errors of files. All are `InputError`s: the sender can mend them.

InputError (core)
└── FileProblem            names the file and, where there is one, the field
    ├── UnreadableFile     not the kind of file it claims to be, damaged or cut short
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
class FileTooLarge(FileProblem):
    code: ClassVar[str] = "file_too_large"


@dataclass(eq=False, kw_only=True)
class UnsafeArchive(FileProblem):
    code: ClassVar[str] = "unsafe_archive"
