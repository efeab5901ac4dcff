"""A closed session's answers as one matrix."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "packed_answers",
        sa.Column("session_id", sa.Integer(), nullable=False),
        sa.Column("sittings", sa.LargeBinary(), nullable=False),
        sa.Column("codes", sa.LargeBinary(), nullable=False),
        sa.Column("labels", sa.JSON(), nullable=False),
        sa.ForeignKeyConstraint(["session_id"], ["session.id"], name=op.f("fk_packed_answers_session_id")),
        sa.PrimaryKeyConstraint("session_id", name=op.f("pk_packed_answers")),
    )


def downgrade() -> None:
    op.drop_table("packed_answers")
