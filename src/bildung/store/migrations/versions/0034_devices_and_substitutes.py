"""Answers that come in after their student left the device, what a device can do, and substitutes."""

import sqlalchemy as sa
from alembic import op

from bildung.store.models.base import Utc

revision = "0034"
down_revision = "0033"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("sign_in", sa.Column("delivery_hash", sa.String(), nullable=True))
    op.create_index(op.f("ix_sign_in_delivery_hash"), "sign_in", ["delivery_hash"])
    op.add_column("sitting", sa.Column("device", sa.JSON(), nullable=True))
    op.add_column("session", sa.Column("substitute_code", sa.String(), nullable=True))
    op.create_index(op.f("ix_session_substitute_code"), "session", ["substitute_code"], unique=True)
    op.create_table(
        "substitute",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("session_id", sa.Integer(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("code", sa.String(), nullable=False),
        sa.Column("at", Utc(), nullable=False),
        sa.ForeignKeyConstraint(
            ["session_id"], ["session.id"], name=op.f("fk_substitute_session_id"), ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_substitute_person_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_substitute")),
    )
    op.create_index(op.f("ix_substitute_session_id"), "substitute", ["session_id"])
    op.create_index(op.f("ix_substitute_person_id"), "substitute", ["person_id"])


def downgrade() -> None:
    op.drop_table("substitute")
    op.drop_index(op.f("ix_session_substitute_code"), "session")
    op.drop_column("session", "substitute_code")
    op.drop_column("sitting", "device")
    op.drop_index(op.f("ix_sign_in_delivery_hash"), "sign_in")
    op.drop_column("sign_in", "delivery_hash")
