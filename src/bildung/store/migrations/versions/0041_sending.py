"""Results sent to the records system."""

import sqlalchemy as sa
from alembic import op

from bildung.store.models.base import Utc

revision = "0041"
down_revision = "0040"
branch_labels = None
depends_on = None


def _refers(table: str, column: str, to: str) -> sa.ForeignKeyConstraint:
    return sa.ForeignKeyConstraint([column], [f"{to}.id"], name=op.f(f"fk_{table}_{column}"))


def upgrade() -> None:
    op.create_table(
        "sent_result",
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("form_id", sa.Integer(), nullable=False),
        sa.Column("window_id", sa.Integer(), nullable=False),
        sa.Column("digest", sa.String(), nullable=False),
        sa.Column("at", Utc(), nullable=False),
        _refers("sent_result", "form_id", "form"),
        _refers("sent_result", "window_id", "window"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_sent_result")),
    )
    op.create_index("ix_sent_result_form_id", "sent_result", ["form_id"])
    op.create_table(
        "sending_run",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("form_id", sa.Integer(), nullable=False),
        sa.Column("window_id", sa.Integer(), nullable=False),
        sa.Column("at", Utc(), nullable=False),
        sa.Column("by_id", sa.Integer(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("sent", sa.Integer(), nullable=False),
        sa.Column("refused", sa.Integer(), nullable=False),
        sa.Column("lines", sa.JSON(), nullable=False),
        sa.Column("message", sa.String(), server_default="", nullable=False),
        _refers("sending_run", "form_id", "form"),
        _refers("sending_run", "window_id", "window"),
        _refers("sending_run", "by_id", "person"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_sending_run")),
    )
    op.create_index("ix_sending_run_form_id", "sending_run", ["form_id"])


def downgrade() -> None:
    op.drop_table("sending_run")
    op.drop_table("sent_result")
