"""Releases by audience, results held back, results as they were told; families that may not see results."""

import json

import sqlalchemy as sa
from alembic import op

from bildung.store.models.base import Utc

revision = "0040"
down_revision = "0039"
branch_labels = None
depends_on = None


def _refers(table: str, column: str, to: str, gone: str | None = None) -> sa.ForeignKeyConstraint:
    return sa.ForeignKeyConstraint([column], [f"{to}.id"], name=op.f(f"fk_{table}_{column}"), ondelete=gone)


def upgrade() -> None:
    op.create_table(
        "release",
        sa.Column("session_id", sa.Integer(), nullable=False),
        sa.Column("audience", sa.String(), nullable=False),
        sa.Column("shows", sa.JSON(), nullable=False),
        sa.Column("at", Utc(), nullable=False),
        sa.Column("made_at", Utc(), nullable=False),
        sa.Column("by_id", sa.Integer(), nullable=True),
        sa.Column("withdrawn_at", Utc(), nullable=True),
        _refers("release", "session_id", "session", "CASCADE"),
        _refers("release", "by_id", "person"),
        sa.PrimaryKeyConstraint("session_id", "audience", name=op.f("pk_release")),
    )
    op.create_table(
        "held_back",
        sa.Column("sitting_id", sa.Integer(), nullable=False),
        sa.Column("why", sa.String(), nullable=False),
        sa.Column("by_id", sa.Integer(), nullable=False),
        sa.Column("at", Utc(), nullable=False),
        _refers("held_back", "sitting_id", "sitting", "CASCADE"),
        _refers("held_back", "by_id", "person"),
        sa.PrimaryKeyConstraint("sitting_id", name=op.f("pk_held_back")),
    )
    op.create_table(
        "told_result",
        sa.Column("sitting_id", sa.Integer(), nullable=False),
        sa.Column("points", sa.JSON(), nullable=False),
        sa.Column("earned", sa.Double(), nullable=False),
        sa.Column("possible", sa.Double(), nullable=False),
        sa.Column("at", Utc(), nullable=False),
        sa.Column("corrected_at", Utc(), nullable=True),
        _refers("told_result", "sitting_id", "sitting", "CASCADE"),
        sa.PrimaryKeyConstraint("sitting_id", name=op.f("pk_told_result")),
    )
    op.add_column("family_link", sa.Column("results", sa.Boolean(), server_default="1", nullable=False))
    everything = json.dumps(["points", "answers", "right", "solutions", "comments"])
    op.execute(
        sa.text(
            "INSERT INTO release (session_id, audience, shows, at, made_at) "
            "SELECT id, 'student', :shows, released_at, released_at FROM session WHERE released_at IS NOT NULL"
        ).bindparams(shows=everything)
    )


def downgrade() -> None:
    op.drop_column("family_link", "results")
    for table in ("told_result", "held_back", "release"):
        op.drop_table(table)
