"""Secret addresses of calendar feeds."""

import sqlalchemy as sa
from alembic import op

revision = "0027"
down_revision = "0026"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "calendar_feed",
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("token_hash", sa.String(), nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(
            ["person_id"], ["person.id"], name=op.f("fk_calendar_feed_person_id"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("person_id", name=op.f("pk_calendar_feed")),
        sa.UniqueConstraint("token_hash", name=op.f("uq_calendar_feed_token_hash")),
    )


def downgrade() -> None:
    op.drop_table("calendar_feed")
