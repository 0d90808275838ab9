"""What codes on displays mean, as the shop has learnt it, for each layout."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import DATETIME

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def code(length: int = 32) -> sa.String:
    return sa.String(length, collation="ascii_bin")


def upgrade() -> None:
    if "shown_codes" in sa.inspect(op.get_bind()).get_table_names():
        return
    op.create_table(
        "shown_codes",
        sa.Column("layout", code(), primary_key=True),
        sa.Column("text", sa.String(40, collation="utf8mb4_bin"), primary_key=True),
        sa.Column("means", code(), nullable=False),
        sa.Column("said_at", DATETIME(fsp=6), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("shown_codes")
