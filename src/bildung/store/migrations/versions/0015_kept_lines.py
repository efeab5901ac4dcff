"""A line of each test that was sat, kept until what it rests on changes."""

import sqlalchemy as sa
from alembic import op

revision = "0015"
down_revision = "0014"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "kept_line",
        sa.Column("form_id", sa.Integer(), nullable=False),
        sa.Column("window_id", sa.Integer(), nullable=False),
        sa.Column("sessions", sa.String(), nullable=False),
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("line", sa.JSON(), nullable=False),
        sa.ForeignKeyConstraint(["form_id"], ["form.id"], name=op.f("fk_kept_line_form_id"), ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["window_id"], ["window.id"], name=op.f("fk_kept_line_window_id"), ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("form_id", "window_id", "sessions", name=op.f("pk_kept_line")),
    )


def downgrade() -> None:
    op.drop_table("kept_line")
