"""Used parts keep the hours that they have run."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def upgrade() -> None:
    there = sa.inspect(op.get_bind())
    if "hours" not in {column["name"] for column in there.get_columns("used_parts")}:
        op.add_column("used_parts", sa.Column("hours", sa.Integer(), nullable=True))


def downgrade() -> None:
    op.drop_column("used_parts", "hours")
