"""An item's last use kept in one row, so that a search among ten thousand items need not put it together."""

import sqlalchemy as sa
from alembic import op

from bildung.store.models.base import Utc

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "item_use",
        sa.Column("item_id", sa.Integer(), nullable=False),
        sa.Column("item_version_id", sa.Integer(), nullable=False),
        sa.Column("times", sa.Integer(), nullable=False),
        sa.Column("n", sa.Integer(), nullable=False),
        sa.Column("p", sa.Double(), nullable=True),
        sa.Column("r_rest", sa.Double(), nullable=True),
        sa.Column("wrong_share", sa.Double(), nullable=True),
        sa.Column("p_error", sa.Double(), nullable=True),
        sa.Column("sd", sa.Double(), nullable=True),
        sa.Column("loading", sa.Double(), nullable=True),
        sa.Column("problem", sa.Boolean(), nullable=False),
        sa.Column("at", Utc(), nullable=False),
        sa.ForeignKeyConstraint(["item_id"], ["item.id"], name=op.f("fk_item_use_item_id"), ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["item_version_id"], ["item_version.id"], name=op.f("fk_item_use_item_version_id")),
        sa.PrimaryKeyConstraint("item_id", name=op.f("pk_item_use")),
    )
    op.execute("ALTER TABLE item_figure ADD COLUMN sd DOUBLE")
    op.execute("ALTER TABLE item_figure ADD COLUMN loading DOUBLE")
    op.create_index(op.f("ix_item_figure_at"), "item_figure", ["at"], unique=False)
    # stamps gone, each administration is judged again at the next sweep and the rows above are made with it
    op.execute("UPDATE item_figure SET stamp = ''")


def downgrade() -> None:
    op.drop_index(op.f("ix_item_figure_at"), "item_figure")
    op.drop_table("item_use")
    for name in ("sd", "loading"):
        op.execute(f"ALTER TABLE item_figure DROP COLUMN {name}")
