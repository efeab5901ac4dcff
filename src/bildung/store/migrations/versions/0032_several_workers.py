"""What several web workers on one store tell each other: what happened, how far jobs are, versions of what is at hand;
and plans that are being made, which a restart begins again."""

import sqlalchemy as sa
from alembic import op

from bildung.store.models.base import Utc

revision = "0032"
down_revision = "0031"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "happened",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("worker", sa.Integer(), nullable=False),
        sa.Column("topic", sa.String(), nullable=False),
        sa.Column("message", sa.JSON(), nullable=False),
        sa.Column("at", Utc(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_happened")),
        sqlite_autoincrement=True,
    )
    op.create_table(
        "running_job",
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("worker", sa.Integer(), nullable=False),
        sa.Column("what", sa.String(), nullable=False),
        sa.Column("done", sa.Integer(), nullable=False),
        sa.Column("total", sa.Integer(), nullable=False),
        sa.Column("stop", sa.Boolean(), nullable=False),
        sa.PrimaryKeyConstraint("person_id", "name", name=op.f("pk_running_job")),
    )
    op.create_table(
        "asked_plan",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("school_id", sa.Integer(), nullable=False),
        sa.Column("window_id", sa.Integer(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("wishes", sa.JSON(), nullable=False),
        sa.Column("again", sa.Boolean(), nullable=False),
        sa.Column("at", Utc(), nullable=False),
        sa.ForeignKeyConstraint(["window_id"], ["window.id"], name=op.f("fk_asked_plan_window_id"), ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["school_id"], ["school.id"], name=op.f("fk_asked_plan_school_id")),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_asked_plan_person_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_asked_plan")),
    )
    op.create_table(
        "kept_version",
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.PrimaryKeyConstraint("name", name=op.f("pk_kept_version")),
    )


def downgrade() -> None:
    op.drop_table("kept_version")
    op.drop_table("asked_plan")
    op.drop_table("running_job")
    op.drop_table("happened")
