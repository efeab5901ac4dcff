"""Who reads, writes or interprets for a student at a session."""

import sqlalchemy as sa
from alembic import op

revision = "0024"
down_revision = "0023"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "session_support",
        sa.Column("session_id", sa.Integer(), nullable=False),
        sa.Column("student_id", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("staff_id", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(
            ["session_id"], ["session.id"], name=op.f("fk_session_support_session_id"), ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(
            ["student_id"], ["person.id"], name=op.f("fk_session_support_student_id"), ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(["staff_id"], ["person.id"], name=op.f("fk_session_support_staff_id")),
        sa.PrimaryKeyConstraint("session_id", "student_id", "kind", name=op.f("pk_session_support")),
    )
    op.create_index(op.f("ix_session_support_staff_id"), "session_support", ["staff_id"])


def downgrade() -> None:
    op.drop_table("session_support")
