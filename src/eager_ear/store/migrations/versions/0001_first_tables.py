"""Machines, jobs, recordings with their chunks, analyses."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import DATETIME, MEDIUMBLOB

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None

TIME = DATETIME(fsp=6)
NUMBER = sa.Float(53)


def upgrade() -> None:
    op.create_table(
        "machines",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("place", sa.String(200), nullable=False),
        sa.Column("layout", sa.String(32), nullable=False),
        sa.Column("mains_hz", sa.Integer),
        sa.Column("max_spin_rpm", NUMBER),
        sa.Column("pulley_ratio", NUMBER),
        sa.Column("front_bearing", sa.String(32)),
        sa.Column("rear_bearing", sa.String(32)),
        sa.Column("spider_arms", sa.Integer, nullable=False),
        sa.Column("age_years", NUMBER),
        sa.Column("stacked", sa.Boolean),
    )
    op.create_table(
        "jobs",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("machine_id", sa.Integer, sa.ForeignKey("machines.id", name="fk_jobs_machine_id"), nullable=False),
        sa.Column("case_id", sa.String(200), nullable=False),
        sa.Column("symptoms", sa.JSON, nullable=False),
        sa.Column("note", sa.Text, nullable=False),
        sa.Column("checks", sa.JSON, nullable=False),
        sa.Column("created_at", TIME, nullable=False),
        sa.Column("changed_at", TIME, nullable=False),
        sa.Index("ix_jobs_machine_id", "machine_id"),
        sa.Index("ix_jobs_changed_at", "changed_at"),
    )
    op.create_table(
        "recordings",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column(
            "job_id",
            sa.Integer,
            sa.ForeignKey("jobs.id", ondelete="CASCADE", name="fk_recordings_job_id"),
            nullable=False,
        ),
        sa.Column("name", sa.String(200), nullable=False),
        sa.Column("kind", sa.String(32), nullable=False),
        sa.Column("test", sa.String(32), nullable=False),
        sa.Column("run", sa.String(100)),
        sa.Column("position", sa.String(32)),
        sa.Column("load", sa.String(32)),
        sa.Column("start_s", NUMBER, nullable=False),
        sa.Column("power_cut_s", NUMBER),
        sa.Column("pa_per_fs", NUMBER),
        sa.Column("size_bytes", sa.BigInteger, nullable=False),
        sa.Column("sha256", sa.String(64), nullable=False),
        sa.Column("duration_s", NUMBER, nullable=False),
        sa.Column("rate_hz", NUMBER),
        sa.Column("created_at", TIME, nullable=False),
        sa.UniqueConstraint("job_id", "name", name="uq_recordings_job_id"),
    )
    op.create_table(
        "recording_chunks",
        sa.Column(
            "recording_id",
            sa.Integer,
            sa.ForeignKey("recordings.id", ondelete="CASCADE", name="fk_recording_chunks_recording_id"),
            primary_key=True,
        ),
        sa.Column("number", sa.Integer, primary_key=True, autoincrement=False),
        sa.Column("content", MEDIUMBLOB, nullable=False),
    )
    op.create_table(
        "analyses",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column(
            "job_id",
            sa.Integer,
            sa.ForeignKey("jobs.id", ondelete="CASCADE", name="fk_analyses_job_id"),
            nullable=False,
        ),
        sa.Column("state", sa.String(16), nullable=False),
        sa.Column("stage", sa.String(32)),
        sa.Column("attempts", sa.Integer, nullable=False),
        sa.Column("lease_until", TIME),
        sa.Column("error", sa.Text),
        sa.Column("headline", sa.Text),
        sa.Column("advice", sa.String(32)),
        sa.Column("leader", sa.String(32)),
        sa.Column("leader_probability", NUMBER),
        sa.Column("code_version", sa.String(32), nullable=False),
        sa.Column("knowledge_version", sa.String(32), nullable=False),
        sa.Column("result", sa.JSON),
        sa.Column("curves", sa.JSON),
        sa.Column("queued_at", TIME, nullable=False),
        sa.Column("finished_at", TIME),
        sa.Index("ix_analyses_job_id", "job_id"),
        sa.Index("ix_analyses_state", "state", "id"),
    )


def downgrade() -> None:
    for table in ("analyses", "recording_chunks", "recordings", "jobs", "machines"):
        op.drop_table(table)
