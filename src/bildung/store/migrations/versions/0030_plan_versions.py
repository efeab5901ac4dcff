"""Earlier plans of a window, kept to compare and to go back to."""

import sqlalchemy as sa
from alembic import op

revision = "0030"
down_revision = "0029"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "plan_version",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("plan_id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("kept_at", sa.DateTime(), nullable=False),
        sa.Column("by_id", sa.Integer(), nullable=True),
        sa.Column("wishes", sa.JSON(), nullable=False),
        sa.Column("sessions", sa.JSON(), nullable=False),
        sa.Column("figures", sa.JSON(), nullable=False),
        sa.ForeignKeyConstraint(["plan_id"], ["plan.id"], name=op.f("fk_plan_version_plan_id"), ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["by_id"], ["person.id"], name=op.f("fk_plan_version_by_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_plan_version")),
    )
    op.create_index(op.f("ix_plan_version_plan_id"), "plan_version", ["plan_id"])


def downgrade() -> None:
    op.drop_table("plan_version")
