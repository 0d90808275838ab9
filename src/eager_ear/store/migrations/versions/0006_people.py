"""People, their sign-ins, invitations, and the audit list."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import DATETIME

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None

TIME = DATETIME(fsp=6)


def code(length: int = 32) -> sa.String:
    return sa.String(length, collation="ascii_bin")


def upgrade() -> None:
    # Cut short after one table, it can be done once more.
    there = set(sa.inspect(op.get_bind()).get_table_names())
    if "people" not in there:
        op.create_table(
            "people",
            sa.Column("id", sa.Integer(), primary_key=True),
            sa.Column("uuid", code(36), nullable=False, unique=True),
            sa.Column("name", sa.String(80), nullable=False, unique=True),
            sa.Column("role", code(), nullable=False),
            sa.Column("password", code(200), nullable=False),
            sa.Column("disabled", sa.Boolean(), nullable=False),
            sa.Column("failures", sa.Integer(), nullable=False),
            sa.Column("locked_until", TIME, nullable=True),
            sa.Column("created_at", TIME, nullable=False),
        )
    person = sa.ForeignKey("people.id", ondelete="CASCADE")
    if "sign_ins" not in there:
        op.create_table(
            "sign_ins",
            sa.Column("token", code(64), primary_key=True),
            sa.Column("person_id", sa.Integer(), person, nullable=False, index=True),
            sa.Column("device", sa.String(80), nullable=False),
            sa.Column("created_at", TIME, nullable=False),
            sa.Column("seen_at", TIME, nullable=False),
        )
    if "invitations" not in there:
        op.create_table(
            "invitations",
            sa.Column("code", code(64), primary_key=True),
            sa.Column("role", code(), nullable=False),
            sa.Column("person_id", sa.Integer(), sa.ForeignKey("people.id", ondelete="CASCADE"), nullable=True),
            sa.Column("until", TIME, nullable=False),
        )
    if "audit" not in there:
        op.create_table(
            "audit",
            sa.Column("id", sa.Integer(), primary_key=True),
            sa.Column("at", TIME, nullable=False, index=True),
            sa.Column("who", sa.String(80), nullable=False),
            sa.Column("what", code(), nullable=False),
            sa.Column("about", sa.String(200), nullable=False),
        )


def downgrade() -> None:
    for name in ("audit", "invitations", "sign_ins", "people"):
        op.drop_table(name)
