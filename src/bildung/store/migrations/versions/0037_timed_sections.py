"""Sections that end by their own minutes."""

import sqlalchemy as sa
from alembic import op

revision = "0037"
down_revision = "0036"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("sitting", sa.Column("section_at", sa.Integer(), server_default="0", nullable=False))


def downgrade() -> None:
    op.drop_column("sitting", "section_at")
