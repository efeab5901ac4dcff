"""A session as it runs: clocks that stand still, minutes given, help asked for, and what happened in the room."""

import sqlalchemy as sa
from alembic import op

from bildung.store.models.base import Utc

revision = "0033"
down_revision = "0032"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("session", sa.Column("paused_at", Utc(), nullable=True))
    for name in ("paused_at", "away_at", "help_at", "seen_at"):
        op.add_column("sitting", sa.Column(name, Utc(), nullable=True))
    op.add_column("sitting", sa.Column("added_seconds", sa.Integer(), server_default="0", nullable=False))
    op.create_table(
        "room_event",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("session_id", sa.Integer(), nullable=False),
        sa.Column("sitting_id", sa.Integer(), nullable=True),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("words", sa.String(), server_default="", nullable=False),
        sa.Column("at", Utc(), nullable=False),
        sa.Column("until", Utc(), nullable=True),
        sa.Column("by_id", sa.Integer(), nullable=True),
        sa.Column("by_name", sa.String(), server_default="", nullable=False),
        sa.Column("settled_at", Utc(), nullable=True),
        sa.Column("settled_by_id", sa.Integer(), nullable=True),
        sa.Column("outcome", sa.String(), server_default="", nullable=False),
        sa.ForeignKeyConstraint(
            ["session_id"], ["session.id"], name=op.f("fk_room_event_session_id"), ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(
            ["sitting_id"], ["sitting.id"], name=op.f("fk_room_event_sitting_id"), ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(["by_id"], ["person.id"], name=op.f("fk_room_event_by_id")),
        sa.ForeignKeyConstraint(["settled_by_id"], ["person.id"], name=op.f("fk_room_event_settled_by_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_room_event")),
    )
    op.create_index(op.f("ix_room_event_session_id"), "room_event", ["session_id"])
    op.create_index(op.f("ix_room_event_sitting_id"), "room_event", ["sitting_id"])


def downgrade() -> None:
    op.drop_table("room_event")
    op.drop_column("sitting", "added_seconds")
    for name in ("seen_at", "help_at", "away_at", "paused_at"):
        op.drop_column("sitting", name)
    op.drop_column("session", "paused_at")
