"""Words that begin with a digit are kept behind a prefix, so that the index of words keeps short ones too."""

from __future__ import annotations

from alembic import op

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None


def upgrade() -> None:
    # Done once more it finds nothing.
    op.execute("UPDATE jobs SET words = REGEXP_REPLACE(words, ' ([0-9])', ' nr\\\\1') WHERE words REGEXP ' [0-9]'")


def downgrade() -> None:
    op.execute("UPDATE jobs SET words = REGEXP_REPLACE(words, ' nr([0-9])', ' \\\\1')")
