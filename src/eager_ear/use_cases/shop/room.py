"""Room for files: what would fill the disk is refused before the database feels it."""

from __future__ import annotations

import shutil
from dataclasses import dataclass
from pathlib import Path
from typing import ClassVar

from eager_ear.store.errors import StoreError

# The database writes its logs, its temporary tables and everybody's entries into this.
RESERVE_BYTES = 500_000_000
# A file is kept twice while it is looked over.
COPIES = 2


@dataclass(eq=False, kw_only=True)
class NoRoom(StoreError):
    code: ClassVar[str] = "no_room"

    def sentence(self) -> str:
        return "The shop's computer is nearly full: no further file is taken until there is room. Entries still are."


@dataclass(frozen=True, kw_only=True)
class Room:
    """folder : where the database keeps its files; None where that is elsewhere and cannot be known."""

    folder: Path | None

    def require(self, size_bytes: int) -> None:
        """Raises NoRoom where a file of this size would use up the reserve."""
        if self.folder is not None and shutil.disk_usage(self.folder).free - COPIES * size_bytes < RESERVE_BYTES:
            raise NoRoom()
