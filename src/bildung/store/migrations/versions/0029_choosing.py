"""Until when teachers choose when their classes test, and when they were reminded."""

import sqlalchemy as sa
from alembic import op

revision = "0029"
down_revision = "0028"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("plan", sa.Column("choose_until", sa.Date(), nullable=True))
    op.add_column("plan", sa.Column("reminded_at", sa.DateTime(), nullable=True))


def downgrade() -> None:
    op.drop_column("plan", "reminded_at")
    op.drop_column("plan", "choose_until")
