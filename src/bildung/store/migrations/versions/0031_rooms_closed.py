"""Rooms that cannot be used on some days."""

import sqlalchemy as sa
from alembic import op

revision = "0031"
down_revision = "0030"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "room_closing",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("school_id", sa.Integer(), nullable=False),
        sa.Column("room", sa.String(), nullable=False),
        sa.Column("first", sa.Date(), nullable=False),
        sa.Column("last", sa.Date(), nullable=False),
        sa.ForeignKeyConstraint(["school_id"], ["school.id"], name=op.f("fk_room_closing_school_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_room_closing")),
    )
    op.create_index(op.f("ix_room_closing_school_id"), "room_closing", ["school_id"])


def downgrade() -> None:
    op.drop_table("room_closing")
