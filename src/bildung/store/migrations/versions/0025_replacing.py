"""What an accommodation that waits for approval takes the place of."""

import sqlalchemy as sa
from alembic import op

revision = "0025"
down_revision = "0024"
branch_labels = None
depends_on = None


def upgrade() -> None:
    with op.batch_alter_table("accommodation") as table:
        table.add_column(sa.Column("replaces_id", sa.Integer(), nullable=True))
        table.create_foreign_key(
            op.f("fk_accommodation_replaces_id"), "accommodation", ["replaces_id"], ["id"], ondelete="SET NULL"
        )


def downgrade() -> None:
    with op.batch_alter_table("accommodation") as table:
        table.drop_constraint(op.f("fk_accommodation_replaces_id"), type_="foreignkey")
        table.drop_column("replaces_id")
