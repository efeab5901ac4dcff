"""Roster errors reported from where they are noticed."""

import sqlalchemy as sa
from alembic import op

from bildung.store.models.base import Utc

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "roster_report",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("session_id", sa.Integer(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("text", sa.String(), nullable=False),
        sa.Column("at", Utc(), nullable=False),
        sa.Column("settled_at", Utc(), nullable=True),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_roster_report_person_id")),
        sa.ForeignKeyConstraint(["session_id"], ["session.id"], name=op.f("fk_roster_report_session_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_roster_report")),
    )
    op.create_index(op.f("ix_roster_report_session_id"), "roster_report", ["session_id"])


def downgrade() -> None:
    op.drop_index(op.f("ix_roster_report_session_id"), "roster_report")
    op.drop_table("roster_report")
