"""Sessions that are opened again, and answers that came when they could no longer be taken."""

import sqlalchemy as sa
from alembic import op

from bildung.store.models.base import Utc

revision = "0019"
down_revision = "0018"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("sitting", sa.Column("ended_by_close", sa.Boolean(), nullable=False, server_default="0"))
    op.create_table(
        "refused_answer",
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("sitting_id", sa.Integer(), nullable=False),
        sa.Column("form_item_id", sa.Integer(), nullable=False),
        sa.Column("answer", sa.String(), nullable=False),
        sa.Column("takeover", sa.Integer(), nullable=False),
        sa.Column("sequence", sa.Integer(), nullable=False),
        sa.Column("at", Utc(), nullable=False),
        sa.Column("why", sa.String(), nullable=False),
        sa.Column("taken", sa.Boolean(), nullable=True),
        sa.Column("settled_at", Utc(), nullable=True),
        sa.Column("settled_by", sa.Integer(), nullable=True),
        sa.ForeignKeyConstraint(["sitting_id"], ["sitting.id"], name=op.f("fk_refused_answer_sitting_id")),
        sa.ForeignKeyConstraint(["form_item_id"], ["form_item.id"], name=op.f("fk_refused_answer_form_item_id")),
        sa.ForeignKeyConstraint(["settled_by"], ["person.id"], name=op.f("fk_refused_answer_settled_by")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_refused_answer")),
    )
    op.create_index(op.f("ix_refused_answer_sitting_id"), "refused_answer", ["sitting_id"])


def downgrade() -> None:
    op.drop_table("refused_answer")
    op.drop_column("sitting", "ended_by_close")
