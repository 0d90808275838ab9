"""Errors of the store.

CoreError
└── StoreError
    ├── NotFound             no such row
    ├── Damaged              bytes that do not match their checksum any more
    ├── Conflict             a row like it exists, or others refer to it (MariaDB 1062, 1451, 1452)
    ├── TryAgain             a deadlock or lock wait that the unit of work may repeat (1020, 1205, 1213)
    ├── DatabaseBusy         every connection was in use for five seconds
    ├── DatabaseUnreachable  no connection (2002, 2003, 2006, 2013), or nobody who may come in (1044, 1045, 1049)
    └── UnsuitableDatabase   too old, or with tables of a newer version
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from sqlalchemy.exc import DBAPIError, TimeoutError

from eager_ear.core.errors import CoreError


@dataclass(eq=False, kw_only=True)
class StoreError(CoreError):
    code: ClassVar[str] = "store_error"
    message: str = ""

    def sentence(self) -> str:
        return self.message


@dataclass(eq=False, kw_only=True)
class NotFound(StoreError):
    code: ClassVar[str] = "not_found"
    kind: str
    key: str

    def sentence(self) -> str:
        return f"There is no {self.kind} {self.key}."


@dataclass(eq=False, kw_only=True)
class Damaged(StoreError):
    code: ClassVar[str] = "damaged"
    file_id: int

    def sentence(self) -> str:
        return "The bytes that were stored of this file do not match their checksum any more. Bring it in again."


@dataclass(eq=False, kw_only=True)
class Conflict(StoreError):
    code: ClassVar[str] = "conflict"


@dataclass(eq=False, kw_only=True)
class TryAgain(StoreError):
    code: ClassVar[str] = "try_again"


@dataclass(eq=False, kw_only=True)
class DatabaseBusy(StoreError):
    code: ClassVar[str] = "database_busy"


@dataclass(eq=False, kw_only=True)
class DatabaseUnreachable(StoreError):
    code: ClassVar[str] = "database_unreachable"


@dataclass(eq=False, kw_only=True)
class UnsuitableDatabase(StoreError):
    code: ClassVar[str] = "unsuitable_database"


_BY_NUMBER: dict[int, tuple[type[StoreError], str]] = {
    1062: (Conflict, "This is stored already."),
    1451: (Conflict, "Something else still refers to this."),
    1452: (Conflict, "This refers to something that is no longer there."),
    1020: (TryAgain, "The database was busy."),
    1205: (TryAgain, "The database was busy."),
    1213: (TryAgain, "The database was busy."),
    1044: (DatabaseUnreachable, "The database does not let this user in: look at EAGER_EAR_DATABASE_URL."),
    1045: (DatabaseUnreachable, "The database does not let this user in: look at EAGER_EAR_DATABASE_URL."),
    1049: (DatabaseUnreachable, "There is no database of that name: look at EAGER_EAR_DATABASE_URL."),
    2002: (DatabaseUnreachable, "The database does not answer."),
    2003: (DatabaseUnreachable, "The database does not answer."),
    2006: (DatabaseUnreachable, "The connection to the database was lost."),
    2013: (DatabaseUnreachable, "The connection to the database was lost."),
}


def translated(error: DBAPIError | TimeoutError) -> StoreError:
    """The store's error for a database error, by its number, or for a pool that had no connection left."""
    if isinstance(error, TimeoutError):
        return DatabaseBusy(message="Too many ask the database at this moment. Try again in a few seconds.")
    arguments = getattr(error.orig, "args", ())
    number = arguments[0] if arguments and isinstance(arguments[0], int) else 0
    kind, message = _BY_NUMBER.get(number, (StoreError, "The database refused the request."))
    return kind(message=message)
