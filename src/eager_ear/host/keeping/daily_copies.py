"""A copy of everything once a day while the shop is served, the newest few of them kept."""

from __future__ import annotations

import re
import sys
import threading
from dataclasses import dataclass, field
from datetime import date
from pathlib import Path

from eager_ear.store import Database, StoreError
from eager_ear.store.copying import copy_out

NAME = re.compile(r"eager-ear-\d{4}-\d{2}-\d{2}\.zip")


@dataclass(kw_only=True)
class DailyCopies:
    """Copies in `folder`, the newest `keep` of them; other files there are left alone."""

    folder: Path
    keep: int
    _running: threading.Thread | None = field(default=None, repr=False)
    _failed_on: date | None = None

    def look(self, url: str, *, today: date) -> bool:
        """Begin today's copy unless there is one, or one is being made; whether it was begun."""
        if self._running is not None and self._running.is_alive():
            return False
        if self._failed_on == today or self.of(today).exists():
            return False
        self._running = threading.Thread(target=self._tell, args=(url, today), daemon=True, name="daily copy")
        self._running.start()
        return True

    def of(self, day: date) -> Path:
        """Where the copy of a day lies."""
        return self.folder / f"eager-ear-{day:%Y-%m-%d}.zip"

    def make(self, url: str, today: date) -> None:
        """Make today's copy, whole or not at all, and remove those beyond the newest. Raises StoreError, OSError."""
        self.folder.mkdir(parents=True, exist_ok=True)
        arriving = self.folder / f".{self.of(today).name}.arriving"
        database = Database(url)
        try:
            copy_out(database, arriving)
            arriving.rename(self.of(today))
        finally:
            database.close()
            arriving.unlink(missing_ok=True)
        copies = sorted(path for path in self.folder.iterdir() if NAME.fullmatch(path.name))
        for old in copies[: -self.keep]:
            old.unlink()

    def wait(self) -> None:
        """Until the copy that is being made is there."""
        if self._running is not None:
            self._running.join()

    def _tell(self, url: str, today: date) -> None:
        try:
            self.make(url, today)
        except (StoreError, OSError) as problem:
            told = problem.sentence() if isinstance(problem, StoreError) else str(problem)
            print(f"today's copy was not made: {told}", file=sys.stderr, flush=True)
            # Not once more every moment: tomorrow, or at the next start.
            self._failed_on = today
