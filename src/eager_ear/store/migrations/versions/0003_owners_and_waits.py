"""Whose a running measurement is; when the next wait of a job rings."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import DATETIME

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    # Cut short after the first column, it can be done once more.
    if "owner" not in _columns("measurements"):
        op.add_column("measurements", sa.Column("owner", sa.String(36, collation="ascii_bin"), nullable=True))
    if "rings_at" not in _columns("jobs"):
        op.add_column("jobs", sa.Column("rings_at", DATETIME(fsp=6), nullable=True))


def _columns(table: str) -> set[str]:
    return {column["name"] for column in sa.inspect(op.get_bind()).get_columns(table)}


def downgrade() -> None:
    op.drop_column("jobs", "rings_at")
    op.drop_column("measurements", "owner")
