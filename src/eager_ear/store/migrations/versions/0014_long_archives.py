"""Indexes for what an archive of a hundred thousand jobs would be read through for."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None

INDEXES = (
    ("ix_jobs_due_on", "jobs", ["due_on"]),
    ("ix_outcomes_newest", "outcomes", ["day", "job_id", "changed_at"]),
)
OVER = ("ix_outcomes_day", "outcomes", ["day"])


def upgrade() -> None:
    there = sa.inspect(op.get_bind())
    for name, table, columns in INDEXES:
        if name not in {index["name"] for index in there.get_indexes(table)}:
            op.create_index(name, table, columns)
    if OVER[0] in {index["name"] for index in there.get_indexes(OVER[1])}:
        op.drop_index(*OVER[:2])


def downgrade() -> None:
    op.create_index(*OVER)
    for name, table, _ in INDEXES:
        op.drop_index(name, table)
