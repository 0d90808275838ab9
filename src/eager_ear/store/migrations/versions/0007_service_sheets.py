"""Service sheets, kept with the platform, and which of them a machine goes by."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import DATETIME

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def code(length: int = 32) -> sa.String:
    return sa.String(length, collation="ascii_bin")


def upgrade() -> None:
    # Cut short half-way, it can be done once more.
    there = sa.inspect(op.get_bind())
    if "service_sheets" not in there.get_table_names():
        op.create_table(
            "service_sheets",
            sa.Column("id", code(36), primary_key=True),
            sa.Column("layout", code(), nullable=False, index=True),
            sa.Column("name", sa.String(120), nullable=False),
            sa.Column("slots", sa.JSON(), nullable=False),
            sa.Column("photo_job", code(36), nullable=False),
            sa.Column("changed_by", sa.String(80), nullable=False),
            sa.Column("changed_at", DATETIME(fsp=6), nullable=False),
        )
    if "sheet" not in {column["name"] for column in there.get_columns("machines")}:
        op.add_column("machines", sa.Column("sheet", code(36), nullable=True))


def downgrade() -> None:
    op.drop_column("machines", "sheet")
    op.drop_table("service_sheets")
