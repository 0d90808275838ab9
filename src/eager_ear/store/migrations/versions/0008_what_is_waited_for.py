"""What each job waits for, and all the words by which it may be looked for."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None

# What was kept beside the diary so far tells most of it; each job's next entry tells the rest.
FILL = """
UPDATE jobs SET
  words = REGEXP_REPLACE(CONCAT_WS(' ', '', place, headline), '[[:punct:][:space:]]+', ' '),
  waits_for = CASE
    WHEN bridged THEN 'restoring'
    WHEN closed IS NOT NULL AND due_on IS NOT NULL THEN 'follow_up'
    WHEN closed IS NOT NULL THEN 'nothing'
    WHEN advice IS NULL OR advice IN ('check_more', 'record_again') THEN 'evidence'
    ELSE 'decision'
  END
WHERE waits_for = ''
"""


def upgrade() -> None:
    # Cut short half-way, it can be done once more.
    there = sa.inspect(op.get_bind())
    columns = {column["name"] for column in there.get_columns("jobs")}
    indexes = {index["name"] for index in there.get_indexes("jobs")}
    if "waits_for" not in columns:
        op.add_column(
            "jobs", sa.Column("waits_for", sa.String(32, collation="ascii_bin"), nullable=False, server_default="")
        )
    if "part_on" not in columns:
        op.add_column("jobs", sa.Column("part_on", sa.Date(), nullable=True))
    if "words" not in columns:
        op.add_column("jobs", sa.Column("words", sa.Text(), nullable=False, server_default=""))
    op.execute(FILL)
    if "ix_jobs_waits_for" not in indexes:
        op.create_index("ix_jobs_waits_for", "jobs", ["waits_for", "changed_at", "id"])
    if "ix_jobs_words" not in indexes:
        op.create_index("ix_jobs_words", "jobs", ["words"], mysql_prefix="FULLTEXT", mariadb_prefix="FULLTEXT")


def downgrade() -> None:
    op.drop_index("ix_jobs_words", "jobs")
    op.drop_index("ix_jobs_waits_for", "jobs")
    for name in ("words", "part_on", "waits_for"):
        op.drop_column("jobs", name)
