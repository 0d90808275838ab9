"""The connection to MariaDB and the schema's migrations."""

from __future__ import annotations

from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine, event
from sqlalchemy.engine import make_url
from sqlalchemy.orm import Session, sessionmaker

MIGRATIONS = Path(__file__).parent / "migrations"
# One connection for each thread that may ask at once, and no long wait for one.
POOL_SIZE = 10
POOL_OVERFLOW = 30
POOL_WAIT_S = 5.0


class Database:
    """An engine and its sessions; `close` when done."""

    def __init__(self, url: str) -> None:
        parsed = make_url(url)
        if parsed.drivername in ("mysql", "mariadb"):
            parsed = parsed.set(drivername=f"{parsed.drivername}+pymysql")
        if "charset" not in parsed.query:
            parsed = parsed.update_query_dict({"charset": "utf8mb4"})
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

    def session(self) -> Session:
        return self.sessions()

    def close(self) -> None:
        self.engine.dispose()


def _speak_utc(connection: object, _: object) -> None:
    cursor = connection.cursor()  # type: ignore[attr-defined]
    cursor.execute("SET time_zone = '+00:00', sql_mode = 'STRICT_ALL_TABLES,NO_ENGINE_SUBSTITUTION'")
    cursor.close()


def migrate(database: Database) -> None:
    """Bring the schema to the newest version."""
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    with database.engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")
