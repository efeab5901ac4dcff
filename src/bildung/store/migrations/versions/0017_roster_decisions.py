"""Birth dates, second records of one person, and what was decided against the records."""

import sqlalchemy as sa
from alembic import op

from bildung.store.models.base import Utc

revision = "0017"
down_revision = "0016"
branch_labels = None
depends_on = None


def upgrade() -> None:
    with op.batch_alter_table("person") as table:
        table.add_column(sa.Column("birth_date", sa.Date(), nullable=True))
        table.add_column(sa.Column("merged_into_id", sa.Integer(), nullable=True))
        table.create_foreign_key(op.f("fk_person_merged_into_id"), "person", ["merged_into_id"], ["id"])
    op.create_table(
        "roster_decision",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("other_id", sa.Integer(), nullable=True),
        sa.Column("class_id", sa.Integer(), nullable=True),
        sa.Column("by_id", sa.Integer(), nullable=False),
        sa.Column("at", Utc(), nullable=False),
        sa.Column("ended_at", Utc(), nullable=True),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_roster_decision_person_id")),
        sa.ForeignKeyConstraint(["other_id"], ["person.id"], name=op.f("fk_roster_decision_other_id")),
        sa.ForeignKeyConstraint(["class_id"], ["class.id"], name=op.f("fk_roster_decision_class_id")),
        sa.ForeignKeyConstraint(["by_id"], ["person.id"], name=op.f("fk_roster_decision_by_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_roster_decision")),
    )
    op.create_index(op.f("ix_roster_decision_person_id"), "roster_decision", ["person_id"])


def downgrade() -> None:
    op.drop_table("roster_decision")
    with op.batch_alter_table("person") as table:
        table.drop_column("merged_into_id")
        table.drop_column("birth_date")
