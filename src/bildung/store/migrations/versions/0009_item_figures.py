"""What each item did in each administration, kept so that the bank can show and sort by it."""

import sqlalchemy as sa
from alembic import op

from bildung.store.models.base import Utc

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "item_figure",
        sa.Column("form_id", sa.Integer(), nullable=False),
        sa.Column("window_id", sa.Integer(), nullable=False),
        sa.Column("item_version_id", sa.Integer(), nullable=False),
        sa.Column("n", sa.Integer(), nullable=False),
        sa.Column("p", sa.Double(), nullable=True),
        sa.Column("p_low", sa.Double(), nullable=True),
        sa.Column("p_high", sa.Double(), nullable=True),
        sa.Column("r_rest", sa.Double(), nullable=True),
        sa.Column("wrong", sa.String(), nullable=False),
        sa.Column("wrong_share", sa.Double(), nullable=True),
        sa.Column("flags", sa.JSON(), nullable=False),
        sa.Column("sound", sa.Boolean(), nullable=True),
        sa.Column("at", Utc(), nullable=False),
        sa.Column("stamp", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["form_id"], ["form.id"], name=op.f("fk_item_figure_form_id")),
        sa.ForeignKeyConstraint(["item_version_id"], ["item_version.id"], name=op.f("fk_item_figure_item_version_id")),
        sa.ForeignKeyConstraint(["window_id"], ["window.id"], name=op.f("fk_item_figure_window_id")),
        sa.PrimaryKeyConstraint("form_id", "window_id", "item_version_id", name=op.f("pk_item_figure")),
    )
    op.create_index(op.f("ix_item_figure_item_version_id"), "item_figure", ["item_version_id"], unique=False)


def downgrade() -> None:
    op.drop_table("item_figure")
