"""What the shop has settled, its price book, and when somebody comes back to a job."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import DATETIME

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    # Cut short after the first table, it can be done once more.
    there = set(sa.inspect(op.get_bind()).get_table_names())
    if "shop" not in there:
        op.create_table(
            "shop",
            sa.Column("id", sa.Integer(), primary_key=True, autoincrement=False),
            sa.Column("settings", sa.JSON(), nullable=False),
            sa.Column("changed_at", DATETIME(fsp=6), nullable=False),
        )
    if "due_on" not in {column["name"] for column in sa.inspect(op.get_bind()).get_columns("jobs")}:
        op.add_column("jobs", sa.Column("due_on", sa.Date(), nullable=True))
    if "prices" not in there:
        op.create_table(
            "prices",
            sa.Column("code", sa.String(80, collation="ascii_bin"), primary_key=True),
            sa.Column("amount", sa.BigInteger(), nullable=False),
            sa.Column("currency", sa.String(3, collation="ascii_bin"), nullable=False),
            sa.Column("source", sa.String(200, collation="utf8mb4_bin"), nullable=False),
            sa.Column("available_on", sa.Date(), nullable=True),
            sa.Column("returnable", sa.Boolean(), nullable=False),
            sa.Column("said_at", DATETIME(fsp=6), nullable=False),
        )


def downgrade() -> None:
    op.drop_table("prices")
    op.drop_table("shop")
    op.drop_column("jobs", "due_on")
