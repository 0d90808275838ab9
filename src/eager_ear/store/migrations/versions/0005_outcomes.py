"""What became of the jobs that ended."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import DATETIME

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    if "outcomes" in sa.inspect(op.get_bind()).get_table_names():
        return
    op.create_table(
        "outcomes",
        sa.Column(
            "job_id",
            sa.Integer(),
            sa.ForeignKey("jobs.id", ondelete="CASCADE"),
            primary_key=True,
            autoincrement=False,
        ),
        sa.Column("machine_id", sa.Integer(), sa.ForeignKey("machines.id"), nullable=False, index=True),
        sa.Column("layout", sa.String(32, collation="ascii_bin"), nullable=False),
        sa.Column("day", sa.Date(), nullable=False, index=True),
        sa.Column("outcome", sa.String(32, collation="ascii_bin"), nullable=False),
        sa.Column("faults", sa.JSON(), nullable=True),
        sa.Column("called", sa.JSON(), nullable=False),
        sa.Column("advice", sa.String(32, collation="ascii_bin"), nullable=False),
        sa.Column("opened", sa.Boolean(), nullable=False),
        sa.Column("own_view", sa.JSON(), nullable=False),
        sa.Column("levels", sa.JSON(), nullable=False),
        sa.Column("minutes", sa.Double(), nullable=True),
        sa.Column("proof_failed", sa.Boolean(), nullable=False),
        sa.Column("by", sa.String(80), nullable=True),
        sa.Column("left_out", sa.String(500), nullable=True),
        sa.Column("changed_at", DATETIME(fsp=6), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("outcomes")
