"""The whole store as one file, and back: tables as JSON lines, files as they were sent, all with their checksums.

A zip file that anybody can open: `manifest.json`, `tables/<name>.jsonl`, `files/<sha256>`. It is written from one
snapshot of the database, so that a server may go on meanwhile; it is read into an empty database at the version that it
was written from, which is then migrated.
"""

from __future__ import annotations

import hashlib
import json
import zipfile
import zlib
from base64 import b64decode, b64encode
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from datetime import UTC, date, datetime
from pathlib import Path
from typing import Any

from sqlalchemy import Connection, Float, MetaData, Numeric, Table, event, func, insert, select
from sqlalchemy.exc import DBAPIError

from eager_ear.store.database import Database, migrate
from eager_ear.store.errors import StoreError, translated
from eager_ear.store.repositories import CHUNK_BYTES

FORMAT = "eager-ear-backup/1"
VERSION_TABLE = "alembic_version"
# What files are made of; their bytes go out whole.
CHUNKS, FILES = "file_chunks", "files"
ROWS_AT_ONCE = 200
# Where these are empty nobody has done anything yet: an owner's first code may lie there.
WORTH_KEEPING = ("jobs", "files", "people", "prices", "shop", "shown_codes")


@dataclass(eq=False, kw_only=True)
class BackupProblem(StoreError):
    """A copy cannot be made or read; the message says why."""


@dataclass(frozen=True, kw_only=True)
class Manifest:
    """rows : by table; files : sizes by checksum, of those that had arrived whole"""

    made_at: str
    revision: str
    rows: Mapping[str, int]
    files: Mapping[str, int]

    def as_json(self) -> str:
        return json.dumps({"format": FORMAT, **self.__dict__}, indent=1, sort_keys=True)


def copy_out(database: Database, target: Path) -> Manifest:
    """Write the whole store to a file. Raises StoreError."""
    try:
        with (
            database.engine.connect().execution_options(isolation_level="REPEATABLE READ") as connection,
            zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED, compresslevel=1, allowZip64=True) as out,
        ):
            connection.exec_driver_sql("START TRANSACTION WITH CONSISTENT SNAPSHOT, READ ONLY")
            tables = _tables(connection)
            rows = {t.name: _write_table(connection, t, out) for t in tables if t.name != CHUNKS}
            files = _write_files(connection, tables, out)
            revision = str(connection.exec_driver_sql(f"SELECT version_num FROM {VERSION_TABLE}").scalar())
            manifest = Manifest(made_at=datetime.now(UTC).isoformat(), revision=revision, rows=rows, files=files)
            out.writestr("manifest.json", manifest.as_json())
            connection.rollback()
    except DBAPIError as exc:
        raise translated(exc) from exc
    return manifest


def copy_in(source: Path, database: Database) -> Manifest:
    """Read a file that `copy_out` wrote into an empty database, hold everything against it, and migrate.

    Raises
    ------
    BackupProblem
        The database is not empty, or the file is damaged or none; the message names what is wrong.
    """
    with _opened(source) as held:
        manifest = _manifest(held)
        _require_whole(held)
        _require_empty(database)
        # Tables of another version, without anything in them, would not take what this one wrote.
        _drop_tables(database)
        migrate(database, revision=manifest.revision)
        try:
            with database.engine.begin() as connection:
                connection.exec_driver_sql("SET foreign_key_checks = 0")
                tables = {t.name: t for t in _tables(connection)}
                for name in manifest.rows:
                    if name in tables:
                        _read_table(connection, tables[name], held)
                _read_files(connection, tables, held)
                connection.exec_driver_sql("SET foreign_key_checks = 1")
        except DBAPIError as exc:
            raise BackupProblem(message=f"The database did not take what the copy holds: {exc.orig}") from exc
    problems = list(differences(database, manifest))
    if problems:
        raise BackupProblem(message="What was read back is not what was written: " + "; ".join(problems[:5]))
    migrate(database)
    return manifest


def differences(database: Database, manifest: Manifest) -> Iterator[str]:
    """What of a database is not as the manifest says: counts of rows, checksums of every file."""
    with database.engine.connect() as connection:
        tables = {t.name: t for t in _tables(connection)}
        for name, count in manifest.rows.items():
            found = connection.execute(select(func.count()).select_from(tables[name])).scalar() if name in tables else 0
            if found != count:
                yield f"{name}: {found} rows instead of {count}"
    sound = {digest: size for digest, size, problem in checked_files(database) if problem is None}
    for digest, size in manifest.files.items():
        if sound.get(digest) != size:
            yield f"file {digest[:12]} is missing or damaged"


def checked_files(database: Database) -> Iterator[tuple[str, int, str | None]]:
    """Every whole file's checksum and size, with what is wrong with its bytes, if anything."""
    with database.engine.connect() as connection:
        tables = {t.name: t for t in _tables(connection)}
        files, chunks = tables[FILES], tables[CHUNKS]
        whole = connection.execute(
            select(files.c.id, files.c.sha256, files.c.size_bytes).where(files.c.sha256.is_not(None))
        ).all()
        for file_id, digest, size in whole:
            yield digest, size, _problem_of(connection, chunks, file_id, digest, size)


def _problem_of(connection: Connection, chunks: Table, file_id: int, digest: str, size: int) -> str | None:
    found, at = hashlib.sha256(), 0
    for start, crc, content in _chunks_of(connection, chunks, file_id):
        if start != at:
            return f"bytes are missing from {at} on"
        if zlib.crc32(content) != crc:
            return f"bytes were changed between {start} and {start + len(content)}"
        found.update(content)
        at += len(content)
    if at != size:
        return f"{at} of {size} bytes are there"
    return None if found.hexdigest() == digest else "its checksum is another"


def _tables(connection: Connection) -> list[Table]:
    """All tables, those first that others refer to."""
    metadata = MetaData()
    event.listen(metadata, "column_reflect", _as_floats)
    metadata.reflect(bind=connection)
    return [table for table in metadata.sorted_tables if table.name != VERSION_TABLE]


def _as_floats(_: object, __: object, column: dict[str, Any]) -> None:
    """Doubles are read as they are kept, not as decimals."""
    if isinstance(column["type"], Float | Numeric):
        column["type"].asdecimal = False


def _write_table(connection: Connection, table: Table, out: zipfile.ZipFile) -> int:
    count = 0
    # For this statement alone: the next ones on the connection are read whole.
    streamed = {"stream_results": True, "yield_per": ROWS_AT_ONCE}
    stream = connection.execute(select(table), execution_options=streamed)
    with out.open(f"tables/{table.name}.jsonl", "w", force_zip64=True) as member:
        for row in stream.mappings():
            plain = {key: _plain(value) for key, value in row.items()}
            member.write(json.dumps(plain, separators=(",", ":"), ensure_ascii=True).encode() + b"\n")
            count += 1
    return count


def _write_files(connection: Connection, tables: list[Table], out: zipfile.ZipFile) -> dict[str, int]:
    by_name = {table.name: table for table in tables}
    files, chunks = by_name[FILES], by_name[CHUNKS]
    written: dict[str, int] = {}
    for file_id, digest, size in connection.execute(select(files.c.id, files.c.sha256, files.c.size_bytes)).all():
        # One that is still arriving is sent on after a restore: its beginning goes out under its number.
        with out.open(f"files/{digest or f'arriving-{file_id}'}", "w", force_zip64=True) as member:
            for _, crc, content in _chunks_of(connection, chunks, file_id):
                if zlib.crc32(content) != crc:
                    raise BackupProblem(message=f"File {file_id} is damaged in the store: run ./ear check.")
                member.write(content)
        if digest is not None:
            written[digest] = size
    return written


def _chunks_of(connection: Connection, chunks: Table, file_id: int) -> Iterator[tuple[int, int, bytes]]:
    """A file's pieces, one at a time."""
    starts = connection.execute(
        select(chunks.c.start).where(chunks.c.file_id == file_id).order_by(chunks.c.start)
    ).scalars()
    for start in starts.all():
        row = connection.execute(
            select(chunks.c.crc32, chunks.c.content).where(chunks.c.file_id == file_id, chunks.c.start == start)
        ).one()
        yield start, row.crc32, bytes(row.content)


def _read_table(connection: Connection, table: Table, held: zipfile.ZipFile) -> None:
    rows: list[dict[str, Any]] = []
    with held.open(f"tables/{table.name}.jsonl") as member:
        for line in member:
            rows.append({key: _stored(value) for key, value in json.loads(line).items()})
            if len(rows) == ROWS_AT_ONCE:
                connection.execute(insert(table), rows)
                rows = []
    if rows:
        connection.execute(insert(table), rows)


def _read_files(connection: Connection, tables: Mapping[str, Table], held: zipfile.ZipFile) -> None:
    files, chunks = tables[FILES], tables[CHUNKS]
    for file_id, digest in connection.execute(select(files.c.id, files.c.sha256)).all():
        with held.open(f"files/{digest or f'arriving-{file_id}'}") as member:
            start = 0
            while content := member.read(CHUNK_BYTES):
                piece = {"file_id": file_id, "start": start, "crc32": zlib.crc32(content), "content": content}
                connection.execute(insert(chunks), piece)
                start += len(content)


def _plain(value: Any) -> Any:
    """A cell as JSON can hold it."""
    if isinstance(value, datetime):
        return {"time": value.isoformat()}
    if isinstance(value, date):
        return {"day": value.isoformat()}
    if isinstance(value, bytes | bytearray | memoryview):
        return {"bytes": b64encode(bytes(value)).decode()}
    if isinstance(value, dict | list):
        return {"json": value}
    return value


def _stored(value: Any) -> Any:
    """A cell as the database takes it."""
    if not isinstance(value, dict):
        return value
    [(kind, content)] = value.items()
    if kind == "time":
        return datetime.fromisoformat(content)
    if kind == "day":
        return date.fromisoformat(content)
    return b64decode(content) if kind == "bytes" else content


def _opened(source: Path) -> zipfile.ZipFile:
    try:
        return zipfile.ZipFile(source)
    except FileNotFoundError as exc:
        raise BackupProblem(message=f"There is no file {source}.") from exc
    except (zipfile.BadZipFile, OSError) as exc:
        raise BackupProblem(message=f"{source.name} is no backup, or its end is missing: {exc}.") from exc


def _manifest(held: zipfile.ZipFile) -> Manifest:
    try:
        told = json.loads(held.read("manifest.json"))
    except (KeyError, ValueError, zipfile.BadZipFile, zlib.error) as exc:
        raise BackupProblem(message="It has no manifest that can be read: it is no backup, or was cut short.") from exc
    if told.get("format") != FORMAT:
        raise BackupProblem(message=f"It says that it is {told.get('format')!r}; {FORMAT} can be read.")
    return Manifest(made_at=told["made_at"], revision=told["revision"], rows=told["rows"], files=told["files"])


def _require_whole(held: zipfile.ZipFile) -> None:
    """Every member's own checksum, before anything is written anywhere."""
    try:
        damaged = held.testzip()
    except (zipfile.BadZipFile, zlib.error, EOFError, OSError) as exc:
        raise BackupProblem(message=f"The file is damaged: {exc}. Nothing was restored.") from exc
    if damaged is not None:
        raise BackupProblem(message=f"{damaged} in it is damaged. Nothing was restored.")


def _drop_tables(database: Database) -> None:
    with database.engine.begin() as connection:
        metadata = MetaData()
        metadata.reflect(bind=connection)
        connection.exec_driver_sql("SET foreign_key_checks = 0")
        metadata.drop_all(connection)
        connection.exec_driver_sql("SET foreign_key_checks = 1")


def _require_empty(database: Database) -> None:
    with database.engine.connect() as connection:
        for table in (t for t in _tables(connection) if t.name in WORTH_KEEPING):
            if connection.execute(select(func.count()).select_from(table)).scalar():
                raise BackupProblem(message="There are jobs already: a copy is restored into an empty data folder.")


__all__ = ["BackupProblem", "Manifest", "checked_files", "copy_in", "copy_out", "differences"]
