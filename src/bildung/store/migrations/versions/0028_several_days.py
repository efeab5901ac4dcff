"""Attempts that rest and are gone on with on another day; students whom support staff are there for."""

import sqlalchemy as sa
from alembic import op

revision = "0028"
down_revision = "0027"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("sitting", sa.Column("used_seconds", sa.Integer(), nullable=True))
    op.add_column("sitting", sa.Column("clock_from", sa.DateTime(), nullable=True))
    op.create_table(
        "staff_serves",
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("student_id", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(
            ["person_id"], ["person.id"], name=op.f("fk_staff_serves_person_id"), ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(
            ["student_id"], ["person.id"], name=op.f("fk_staff_serves_student_id"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("person_id", "student_id", name=op.f("pk_staff_serves")),
    )
    op.create_index(op.f("ix_staff_serves_student_id"), "staff_serves", ["student_id"])


def downgrade() -> None:
    op.drop_table("staff_serves")
    op.drop_column("sitting", "clock_from")
    op.drop_column("sitting", "used_seconds")
