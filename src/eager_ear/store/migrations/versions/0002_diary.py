"""Diaries, the register of machines, files by content, measurements apart from calls.

What jobs held so far becomes entries of their diaries; recordings keep their bytes; calls stay as they were made until
the recordings are measured again. A migration that was cut short begins anew as long as the old tables are whole; once
all is moved, the table of recordings is renamed, and what is left to do can be done twice.
"""

from __future__ import annotations

import json
import secrets
from datetime import UTC, datetime, timedelta
from typing import Any
from uuid import UUID

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import DATETIME, INTEGER, MEDIUMBLOB

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None

TIME = DATETIME(fsp=6)
NUMBER = sa.Float(53)
ID = sa.String(36, collation="ascii_bin")
OLD_CHUNK_BYTES = 1 << 20
NEW_TABLES = (
    "calls",
    "job_measurements",
    "measurements",
    "attachments",
    "file_chunks",
    "files",
    "entries",
)
MACHINE_FACTS = ("layout", "mains_hz", "max_spin_rpm", "pulley_ratio", "spider_arms", "age_years", "stacked")


def code(length: int = 32) -> sa.String:
    return sa.String(length, collation="ascii_bin")


def name(length: int) -> sa.String:
    return sa.String(length, collation="utf8mb4_bin")


def of_job(table: str) -> sa.Column[int]:
    key = sa.ForeignKey("jobs.id", ondelete="CASCADE", name=f"fk_{table}_job_id")
    return sa.Column("job_id", sa.Integer, key, nullable=False)


def upgrade() -> None:
    if sa.inspect(op.get_bind()).has_table("recordings"):
        _clear_what_was_begun()
        _widen()
        _create()
        _fill()
        op.execute("RENAME TABLE recordings TO recordings_moved")
    _narrow()


def _clear_what_was_begun() -> None:
    for table in NEW_TABLES:
        op.execute(f"DROP TABLE IF EXISTS {table}")


def _widen() -> None:
    """New columns beside the old ones, all of them empty for now."""
    for column in (
        "uuid VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin",
        "facts LONGTEXT",
        "changed_at DATETIME(6)",
    ):
        op.execute(f"ALTER TABLE machines ADD COLUMN IF NOT EXISTS {column}")
    ascii_32 = "VARCHAR(32) CHARACTER SET ascii COLLATE ascii_bin"
    for column in (
        "uuid VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin",
        "last_seq INTEGER",
        "revision INTEGER",
        "place VARCHAR(200)",
        f"layout {ascii_32}",
        "check_count INTEGER",
        "recording_count INTEGER",
        "bridged BOOL",
        f"closed {ascii_32}",
        "measuring VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin",
        "call_id INTEGER",
        "headline TEXT",
        f"advice {ascii_32}",
        f"leader {ascii_32}",
        "leader_probability DOUBLE",
    ):
        op.execute(f"ALTER TABLE jobs ADD COLUMN IF NOT EXISTS {column}")


def _create() -> None:
    op.create_table(
        "entries",
        sa.Column("id", ID, primary_key=True),
        of_job("entries"),
        sa.Column("seq", sa.Integer, nullable=False),
        sa.Column("kind", code(), nullable=False),
        sa.Column("made_at", TIME, nullable=False),
        sa.Column("zone_minutes", sa.Integer, nullable=False),
        sa.Column("received_at", TIME, nullable=False),
        sa.Column("clock_off", sa.Boolean, nullable=False),
        sa.Column("by", sa.String(200)),
        sa.Column("device", sa.String(60), nullable=False),
        sa.Column("body", sa.JSON),
        sa.Column("replaces", ID),
        sa.UniqueConstraint("job_id", "seq", name="uq_entries_job_id"),
    )
    op.create_table(
        "files",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("sha256", code(64)),
        sa.Column("size_bytes", sa.BigInteger, nullable=False),
        sa.Column("begun_at", TIME, nullable=False),
        sa.UniqueConstraint("sha256", name="uq_files_sha256"),
    )
    op.create_table(
        "file_chunks",
        sa.Column(
            "file_id",
            sa.Integer,
            sa.ForeignKey("files.id", ondelete="CASCADE", name="fk_file_chunks_file_id"),
            primary_key=True,
        ),
        sa.Column("start", sa.BigInteger, primary_key=True, autoincrement=False),
        sa.Column("crc32", INTEGER(unsigned=True), nullable=False),
        sa.Column("content", MEDIUMBLOB, nullable=False),
    )
    op.create_table(
        "attachments",
        sa.Column("id", ID, primary_key=True),
        of_job("attachments"),
        sa.Column("purpose", code(16), nullable=False),
        sa.Column("name", name(200), nullable=False),
        sa.Column("total_bytes", sa.BigInteger, nullable=False),
        sa.Column("file_id", sa.Integer, sa.ForeignKey("files.id", name="fk_attachments_file_id"), nullable=False),
        sa.Column("small_file_id", sa.Integer),
        sa.Column("facts", sa.JSON),
        sa.Column("created_at", TIME, nullable=False),
        sa.Index("ix_attachments_job_id", "job_id", "purpose"),
        sa.Index("ix_attachments_file_id", "file_id"),
    )
    op.create_table(
        "measurements",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("content", code(64), nullable=False),
        sa.Column("code_version", code(40), nullable=False),
        sa.Column("state", code(16), nullable=False),
        sa.Column("stage", code()),
        sa.Column("attempts", sa.Integer, nullable=False),
        sa.Column("lease_until", TIME),
        sa.Column("error", sa.Text),
        sa.Column("request", sa.JSON, nullable=False),
        sa.Column("shown", sa.JSON),
        sa.Column("curves", sa.JSON),
        sa.Column("profile", sa.JSON),
        sa.Column("queued_at", TIME, nullable=False),
        sa.Column("finished_at", TIME),
        sa.UniqueConstraint("content", "code_version", name="uq_measurements_content"),
        sa.Index("ix_measurements_state", "state", "id"),
    )
    op.create_table(
        "job_measurements",
        sa.Column(
            "job_id",
            sa.Integer,
            sa.ForeignKey("jobs.id", ondelete="CASCADE", name="fk_job_measurements_job_id"),
            primary_key=True,
        ),
        sa.Column("run", name(140), primary_key=True),
        sa.Column(
            "measurement_id",
            sa.Integer,
            sa.ForeignKey("measurements.id", name="fk_job_measurements_measurement_id"),
            nullable=False,
        ),
        sa.Column("is_lead", sa.Boolean, nullable=False),
        sa.Index("ix_job_measurements_measurement_id", "measurement_id"),
    )
    op.create_table(
        "calls",
        sa.Column("id", sa.Integer, primary_key=True),
        of_job("calls"),
        sa.Column("seq", sa.Integer, nullable=False),
        sa.Column("code_version", code(40), nullable=False),
        sa.Column("knowledge_version", code(40), nullable=False),
        sa.Column("result", sa.JSON, nullable=False),
        sa.Column("curves", sa.JSON),
        sa.Column("stood_by", sa.Boolean, nullable=False),
        sa.Column("weighed_at", TIME, nullable=False),
        sa.Index("ix_calls_job_id", "job_id"),
    )


def _fill() -> None:
    connection = op.get_bind()
    files = _files(connection)
    machines = {row.id: row for row in connection.execute(sa.text("SELECT * FROM machines")).all()}
    for machine in machines.values():
        connection.execute(
            sa.text("UPDATE machines SET uuid = :uuid, facts = :facts, changed_at = :now WHERE id = :id"),
            {
                "uuid": _uuid(None),
                "facts": _json(_facts(machine)),
                "now": _newest(connection, machine.id),
                "id": machine.id,
            },
        )
    for job in connection.execute(sa.text("SELECT * FROM jobs ORDER BY id")).all():
        _move_job(connection, job, machines[job.machine_id], files)


def _files(connection: sa.Connection) -> dict[str, int]:
    """Every content once, its chunks copied within the database; ids by checksum."""
    connection.execute(
        sa.text(
            "INSERT INTO files (sha256, size_bytes, begun_at) "
            "SELECT sha256, MIN(size_bytes), MIN(created_at) FROM recordings GROUP BY sha256"
        )
    )
    connection.execute(
        sa.text(
            "INSERT INTO file_chunks (file_id, start, crc32, content) "
            f"SELECT f.id, c.number * {OLD_CHUNK_BYTES}, CRC32(c.content), c.content "
            "FROM files f JOIN recording_chunks c "
            "ON c.recording_id = (SELECT MIN(r.id) FROM recordings r WHERE r.sha256 = f.sha256)"
        )
    )
    return {sha256: found for found, sha256 in connection.execute(sa.text("SELECT id, sha256 FROM files")).all()}


def _move_job(connection: sa.Connection, job: Any, machine: Any, files: dict[str, int]) -> None:
    entries: list[tuple[str, datetime, dict[str, Any]]] = []
    entries.append(("machine", job.created_at, {**_facts(machine), "place": machine.place}))
    entries += [("told", job.created_at, {"symptom": s, "present": True}) for s in json.loads(job.symptoms)]
    if job.note.strip():
        entries.append(("note", job.created_at, {"text": job.note, "about": "story"}))
    checks = json.loads(job.checks)
    entries += [("check", job.changed_at, {"check": c["check"], "values": c["values"]}) for c in checks]
    recordings = connection.execute(
        sa.text("SELECT * FROM recordings WHERE job_id = :job ORDER BY id"), {"job": job.id}
    ).all()
    for recording in recordings:
        entries.append(("recording", recording.created_at, _recording(connection, job.id, recording, files)))
    for seq, (kind, moment, body) in enumerate(entries, start=1):
        # A microsecond apart, so that they count in the order in which they stood.
        made_at = moment + timedelta(microseconds=seq - 1)
        connection.execute(
            sa.text(
                "INSERT INTO entries "
                "(id, job_id, seq, kind, made_at, zone_minutes, received_at, clock_off, device, body)"
                " VALUES (:id, :job, :seq, :kind, :at, 0, :at, 0, '', :body)"
            ),
            {"id": _uuid(made_at), "job": job.id, "seq": seq, "kind": kind, "at": made_at, "body": _json(body)},
        )
    connection.execute(
        sa.text(
            "UPDATE jobs SET uuid = :uuid, last_seq = :seq, revision = 0, place = :place, layout = :layout, "
            "check_count = :checks, recording_count = :recordings, bridged = 0, measuring = 'asked' WHERE id = :id"
        ),
        {
            "uuid": _uuid(job.created_at),
            "seq": len(entries),
            "place": machine.place,
            "layout": machine.layout,
            "checks": len(checks),
            "recordings": len(recordings),
            "id": job.id,
        },
    )
    _move_call(connection, job.id, len(entries))


def _recording(connection: sa.Connection, job_id: int, row: Any, files: dict[str, int]) -> dict[str, Any]:
    """The recording's bytes under an id of their own; returns the body of its entry."""
    attachment = _uuid(row.created_at)
    facts = {"kinds": [row.kind], "duration_s": row.duration_s, "rate_hz": row.rate_hz, "warnings": []}
    connection.execute(
        sa.text(
            "INSERT INTO attachments (id, job_id, purpose, name, total_bytes, file_id, facts, created_at) "
            "VALUES (:id, :job, 'recording', :name, :size, :file, :facts, :at)"
        ),
        {
            "id": attachment,
            "job": job_id,
            "name": row.name,
            "size": row.size_bytes,
            "file": files[row.sha256],
            "facts": _json(facts),
            "at": row.created_at,
        },
    )
    body = {
        "recording": attachment,
        "kind": row.kind,
        "file": row.name,
        "test": row.test,
        "run": row.run,
        "position": row.position,
        "load": row.load,
        "start_s": row.start_s,
        "power_cut_s": row.power_cut_s,
        "pa_per_fs": row.pa_per_fs,
    }
    return {key: value for key, value in body.items() if value is not None}


def _move_call(connection: sa.Connection, job_id: int, seq: int) -> None:
    """The newest finished call stays until the recordings are measured again."""
    done = connection.execute(
        sa.text("SELECT * FROM analyses WHERE job_id = :job AND state = 'done' ORDER BY id DESC LIMIT 1"),
        {"job": job_id},
    ).first()
    if done is None or done.result is None:
        return
    inserted = connection.execute(
        sa.text(
            "INSERT INTO calls (job_id, seq, code_version, knowledge_version, result, curves, stood_by, weighed_at) "
            "VALUES (:job, :seq, :code, :knowledge, :result, :curves, 0, :at)"
        ),
        {
            "job": job_id,
            "seq": seq,
            "code": done.code_version,
            "knowledge": done.knowledge_version,
            "result": done.result,
            "curves": done.curves,
            "at": done.finished_at,
        },
    )
    connection.execute(
        sa.text(
            "UPDATE jobs SET call_id = :call, headline = :headline, advice = :advice, leader = :leader, "
            "leader_probability = :probability WHERE id = :job"
        ),
        {
            "call": inserted.lastrowid,
            "headline": done.headline,
            "advice": done.advice,
            "leader": done.leader,
            "probability": done.leader_probability,
            "job": job_id,
        },
    )


def _narrow() -> None:
    """Old tables and columns go; what every row has now is required."""
    for table in ("analyses", "recording_chunks", "recordings_moved"):
        op.execute(f"DROP TABLE IF EXISTS {table}")
    for column in ("symptoms", "note", "checks"):
        op.execute(f"ALTER TABLE jobs DROP COLUMN IF EXISTS {column}")
    for column in (
        "uuid VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin",
        "last_seq INTEGER",
        "revision INTEGER",
        "place VARCHAR(200)",
        "check_count INTEGER",
        "recording_count INTEGER",
        "bridged BOOL",
        "measuring VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin",
    ):
        op.execute(f"ALTER TABLE jobs MODIFY COLUMN {column} NOT NULL")
    for column in (
        "mains_hz",
        "max_spin_rpm",
        "pulley_ratio",
        "front_bearing",
        "rear_bearing",
        "spider_arms",
        "age_years",
        "stacked",
    ):
        op.execute(f"ALTER TABLE machines DROP COLUMN IF EXISTS {column}")
    for column in (
        "uuid VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin NOT NULL",
        "layout VARCHAR(32) CHARACTER SET ascii COLLATE ascii_bin",
        "facts LONGTEXT CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(facts))",
        "changed_at DATETIME(6) NOT NULL",
    ):
        op.execute(f"ALTER TABLE machines MODIFY COLUMN {column}")
    op.execute("DROP INDEX IF EXISTS ix_jobs_changed_at ON jobs")
    for index in (
        "INDEX IF NOT EXISTS ix_jobs_changed_at ON jobs (changed_at, id)",
        "INDEX IF NOT EXISTS ix_jobs_layout ON jobs (layout, created_at)",
        "INDEX IF NOT EXISTS ix_jobs_measuring ON jobs (measuring)",
        "UNIQUE INDEX IF NOT EXISTS uq_jobs_uuid ON jobs (uuid)",
        "UNIQUE INDEX IF NOT EXISTS uq_machines_uuid ON machines (uuid)",
        "INDEX IF NOT EXISTS ix_machines_place ON machines (place)",
        "INDEX IF NOT EXISTS ix_machines_layout ON machines (layout, id)",
        "INDEX IF NOT EXISTS ix_machines_changed_at ON machines (changed_at)",
    ):
        op.execute(f"CREATE {index}")


def _facts(machine: Any) -> dict[str, Any]:
    bearings = {k: v for k, v in (("front", machine.front_bearing), ("rear", machine.rear_bearing)) if v is not None}
    facts = {key: getattr(machine, key) for key in MACHINE_FACTS} | {"bearings": bearings or None}
    if facts["stacked"] is not None:
        facts["stacked"] = bool(facts["stacked"])
    return {key: value for key, value in facts.items() if value is not None}


def _newest(connection: sa.Connection, machine_id: int) -> datetime:
    found = connection.execute(
        sa.text("SELECT MAX(changed_at) FROM jobs WHERE machine_id = :id"), {"id": machine_id}
    ).scalar()
    return found or datetime.now(UTC).replace(tzinfo=None)


def _json(value: Any) -> str:
    return json.dumps(value, ensure_ascii=False)


def _uuid(made_at: datetime | None) -> str:
    """Version 7, as devices make them."""
    moment = made_at.replace(tzinfo=UTC) if made_at is not None else datetime.now(UTC)
    value = int(moment.timestamp() * 1000) << 80 | secrets.randbits(80)
    value = value & ~(0xF << 76) | 0x7 << 76
    return str(UUID(int=value & ~(0x3 << 62) | 0x2 << 62))


def downgrade() -> None:
    raise NotImplementedError("Diaries cannot be folded back into the first tables: restore a backup instead.")
