"""Whose a running measurement is."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    columns = {column["name"] for column in sa.inspect(op.get_bind()).get_columns("measurements")}
    if "owner" not in columns:
        op.add_column("measurements", sa.Column("owner", sa.String(36, collation="ascii_bin"), nullable=True))


def downgrade() -> None:
    op.drop_column("measurements", "owner")
