"""The connection to MariaDB and the schema's migrations."""

from __future__ import annotations

import re
from pathlib import Path

from sqlalchemy import Engine, create_engine, event
from sqlalchemy.engine import make_url
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session, sessionmaker

from eager_ear.store.errors import UnsuitableDatabase, translated

MIGRATIONS = Path(__file__).parent / "migrations"
# One connection for each thread that may ask at once, and no long wait for one.
POOL_SIZE = 10
POOL_OVERFLOW = 30
POOL_WAIT_S = 5.0
# Rows that others hold are skipped (SKIP LOCKED) from this version on.
OLDEST_MARIADB = (10, 6)
HELD = "rows of this unit"
VERSION_QUESTION = "SELECT VERSION()"


class Database:
    """An engine and its sessions; `close` when done. url : with its password, for a process of its own."""

    def __init__(self, url: str) -> None:
        parsed = make_url(url)
        if parsed.drivername in ("mysql", "mariadb"):
            parsed = parsed.set(drivername=f"{parsed.drivername}+pymysql")
        if "charset" not in parsed.query:
            parsed = parsed.update_query_dict({"charset": "utf8mb4"})
        self.url = parsed.render_as_string(hide_password=False)
        self.engine: Engine = create_engine(
            parsed,
            pool_pre_ping=True,
            pool_recycle=1800,
            pool_size=POOL_SIZE,
            max_overflow=POOL_OVERFLOW,
            pool_timeout=POOL_WAIT_S,
            isolation_level="READ COMMITTED",
        )
        event.listen(self.engine, "connect", _speak_utc)
        self.sessions = sessionmaker(self.engine, expire_on_commit=False)
        for met in ("loaded_as_persistent", "pending_to_persistent"):
            event.listen(self.sessions, met, _hold)
        for gone in ("persistent_to_deleted", "persistent_to_detached", "persistent_to_transient"):
            event.listen(self.sessions, gone, _let_go)

    def session(self) -> Session:
        """One that asks for a row once: by itself it would forget what nobody holds, and ask anew."""
        return self.sessions()

    def close(self) -> None:
        self.engine.dispose()


def _hold(session: Session, row: object) -> None:
    session.info.setdefault(HELD, set()).add(row)


def _let_go(session: Session, row: object) -> None:
    session.info.get(HELD, set()).discard(row)


def _speak_utc(connection: object, _: object) -> None:
    cursor = connection.cursor()  # type: ignore[attr-defined]
    cursor.execute("SET time_zone = '+00:00', sql_mode = 'STRICT_ALL_TABLES,NO_ENGINE_SUBSTITUTION'")
    cursor.close()


def migrate(database: Database, *, revision: str = "head") -> None:
    """Bring the schema to the newest version, or to that revision. Raises DatabaseUnreachable, UnsuitableDatabase."""
    # What migrates takes a third of a second to load, and only whoever starts the house needs it.
    from alembic import command
    from alembic.config import Config
    from alembic.util.exc import CommandError

    _require_suitable(database)
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    with database.engine.begin() as connection:
        config.attributes["connection"] = connection
        try:
            command.upgrade(config, revision)
        except CommandError as exc:
            raise UnsuitableDatabase(
                message="The database was made by a newer version of this product: update, or restore a backup."
            ) from exc


def _require_suitable(database: Database) -> None:
    """Raises DatabaseUnreachable, UnsuitableDatabase."""
    try:
        with database.engine.connect() as connection:
            told = str(connection.exec_driver_sql(VERSION_QUESTION).scalar())
    except DBAPIError as exc:
        raise translated(exc) from exc
    version = tuple(int(part) for part in re.findall(r"\d+", told)[:2])
    if "mariadb" not in told.lower() or version < OLDEST_MARIADB:
        oldest = ".".join(str(part) for part in OLDEST_MARIADB)
        raise UnsuitableDatabase(message=f"MariaDB {oldest} or newer is needed; the database says that it is {told}.")
