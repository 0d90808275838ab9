"""Machines without a customer, used parts, prices by platform, everybody's own pace, two machines of a column."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import DATETIME

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def code(length: int = 32) -> sa.String:
    return sa.String(length, collation="ascii_bin")


def upgrade() -> None:
    there = sa.inspect(op.get_bind())
    if "ours" not in {column["name"] for column in there.get_columns("jobs")}:
        op.add_column("jobs", sa.Column("ours", sa.Boolean(), nullable=False, server_default=sa.false()))
        op.create_index("ix_jobs_ours", "jobs", ["ours", "changed_at", "id"])
    if "platform" not in {column["name"] for column in there.get_columns("prices")}:
        op.add_column("prices", sa.Column("platform", code(36), nullable=False, server_default=""))
        op.execute("ALTER TABLE prices DROP PRIMARY KEY, ADD PRIMARY KEY (code, platform)")
    if "pace" not in {column["name"] for column in there.get_columns("people")}:
        op.add_column("people", sa.Column("pace", sa.Float(53), nullable=True))
    if "column_with" not in {column["name"] for column in there.get_columns("machines")}:
        op.add_column("machines", sa.Column("column_with", code(36), nullable=True))
        op.create_index("ix_machines_column_with", "machines", ["column_with"])
    if "used_parts" in there.get_table_names():
        return
    op.create_table(
        "used_parts",
        sa.Column("entry", code(36), primary_key=True),
        sa.Column("job_id", sa.Integer(), sa.ForeignKey("jobs.id", ondelete="CASCADE"), nullable=False),
        sa.Column("layout", code(), nullable=True),
        sa.Column("sheet", code(36), nullable=True),
        sa.Column("part", code(), nullable=False),
        sa.Column("condition", code(), nullable=False),
        sa.Column("shelf", sa.String(100), nullable=False),
        sa.Column("kept_at", DATETIME(fsp=6), nullable=False),
        sa.Column("fitted_in", sa.Integer(), sa.ForeignKey("jobs.id", ondelete="SET NULL"), nullable=True),
    )
    op.create_index("ix_used_parts_fitted_in", "used_parts", ["fitted_in", "layout"])


def downgrade() -> None:
    op.drop_table("used_parts")
    op.drop_column("people", "pace")
    op.drop_index("ix_machines_column_with", "machines")
    op.drop_column("machines", "column_with")
    op.execute("DELETE FROM prices WHERE platform <> ''")
    op.execute("ALTER TABLE prices DROP PRIMARY KEY, ADD PRIMARY KEY (code)")
    op.drop_column("prices", "platform")
    op.drop_index("ix_jobs_ours", "jobs")
    op.drop_column("jobs", "ours")
