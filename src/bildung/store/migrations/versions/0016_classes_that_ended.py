"""Since when a class is over: whoever taught it until then still reads its results."""

import sqlalchemy as sa
from alembic import op

revision = "0016"
down_revision = "0015"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("class", sa.Column("ended_on", sa.Date(), nullable=True))


def downgrade() -> None:
    op.drop_column("class", "ended_on")
