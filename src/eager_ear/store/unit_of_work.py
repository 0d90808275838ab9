"""One unit of work: repositories over one session, committed together or not at all."""

from __future__ import annotations

from collections.abc import Callable
from types import TracebackType
from typing import Self, TypeVar

from sqlalchemy.exc import DBAPIError, TimeoutError

from eager_ear.store.database import Database
from eager_ear.store.errors import TryAgain, translated
from eager_ear.store.repositories import (
    Attachments,
    Calls,
    Entries,
    Files,
    Jobs,
    Machines,
    Measurements,
    Outcomes,
    People,
    Sheets,
    Shops,
    UsedParts,
)

T = TypeVar("T")
MOST_TRIES = 3


class UnitOfWork:
    """`with UnitOfWork(database) as work:` commits at the end, rolls back on any error."""

    def __init__(self, database: Database) -> None:
        self._database = database

    @property
    def place(self) -> str:
        """Which database this is."""
        return str(self._database.engine.url)

    def __enter__(self) -> Self:
        self.session = self._database.session()
        self.jobs = Jobs(self.session)
        self.entries = Entries(self.session)
        self.machines = Machines(self.session)
        self.files = Files(self.session)
        self.attachments = Attachments(self.session)
        self.measurements = Measurements(self.session)
        self.calls = Calls(self.session)
        self.shop = Shops(self.session)
        self.used_parts = UsedParts(self.session)
        self.sheets = Sheets(self.session)
        self.outcomes = Outcomes(self.session)
        self.people = People(self.session)
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        try:
            if error is None:
                self.session.commit()
            else:
                self.session.rollback()
        except (DBAPIError, TimeoutError) as exc:
            self.session.rollback()
            raise translated(exc) from exc
        finally:
            self.session.close()
        if isinstance(error, (DBAPIError, TimeoutError)):
            raise translated(error) from error


def in_unit(database: Database, action: Callable[[UnitOfWork], T]) -> T:
    """Run `action` in a unit of work, again after a deadlock or lock wait, three times at most.

    All that `action` does outside the unit must bear to be done again.
    """
    for last in (False,) * (MOST_TRIES - 1) + (True,):
        try:
            with UnitOfWork(database) as work:
                return action(work)
        except TryAgain:
            if last:
                raise
    raise TryAgain(message="The database was busy.")
