"""Whether single letters are shortcuts, by person."""

import sqlalchemy as sa
from alembic import op

revision = "0021"
down_revision = "0020"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("person", sa.Column("letter_keys", sa.Boolean(), nullable=False, server_default="1"))


def downgrade() -> None:
    op.drop_column("person", "letter_keys")
