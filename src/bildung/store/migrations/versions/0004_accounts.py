"""Temporary passwords; when and with what a sign-in was last used."""

import sqlalchemy as sa
from alembic import op

from bildung.store.models.base import Utc

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("person", sa.Column("password_temporary", sa.Boolean(), nullable=False, server_default="0"))
    op.add_column("sign_in", sa.Column("seen_at", Utc(), nullable=True))
    op.add_column("sign_in", sa.Column("device", sa.String(), nullable=False, server_default=""))


def downgrade() -> None:
    op.drop_column("sign_in", "device")
    op.drop_column("sign_in", "seen_at")
    op.drop_column("person", "password_temporary")
