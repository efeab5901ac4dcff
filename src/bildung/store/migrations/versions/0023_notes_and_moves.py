"""What was noted about an attempt; when and where students were told that a session is, before it
moved; when a test that is open for days is due."""

import sqlalchemy as sa
from alembic import op

from bildung.store.models.base import Utc

revision = "0023"
down_revision = "0022"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("sitting", sa.Column("note", sa.String(), nullable=False, server_default=""))
    op.add_column("session", sa.Column("told_start", Utc(), nullable=True))
    op.add_column("session", sa.Column("due", Utc(), nullable=True))
    op.add_column("session", sa.Column("told_room", sa.String(), nullable=True))


def downgrade() -> None:
    op.drop_column("session", "due")
    op.drop_column("session", "told_room")
    op.drop_column("session", "told_start")
    op.drop_column("sitting", "note")
