"""What is new on a student's own page, and whether a test was taken at school."""

import sqlalchemy as sa
from alembic import op

from bildung.store.models.base import Utc

revision = "0036"
down_revision = "0035"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("sitting", sa.Column("way", sa.String(), server_default="", nullable=False))
    op.add_column("person", sa.Column("visited_at", Utc(), nullable=True))
    op.add_column("person", sa.Column("seen_sitting", sa.Integer(), nullable=True))
    op.add_column("person", sa.Column("seen_before", sa.Integer(), nullable=True))


def downgrade() -> None:
    for name in ("seen_before", "seen_sitting", "visited_at"):
        op.drop_column("person", name)
    op.drop_column("sitting", "way")
