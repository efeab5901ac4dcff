"""Corrections of results: items scored otherwise, left out or given to all; single scores; scores set aside."""

import sqlalchemy as sa
from alembic import op

from bildung.store.models.base import Utc

revision = "0039"
down_revision = "0038"
branch_labels = None
depends_on = None


def _refers(table: str, column: str, to: str, gone: str | None = None) -> sa.ForeignKeyConstraint:
    return sa.ForeignKeyConstraint([column], [f"{to}.id"], name=op.f(f"fk_{table}_{column}"), ondelete=gone)


def _number(name: str, null: bool = False) -> sa.Column[int]:
    return sa.Column(name, sa.Integer(), nullable=null)


def upgrade() -> None:
    op.create_table(
        "correction",
        _number("id"),
        sa.Column("kind", sa.String(), nullable=False),
        _number("form_item_id"),
        _number("window_id"),
        _number("sitting_id", null=True),
        sa.Column("before", sa.JSON(), nullable=False),
        sa.Column("after", sa.JSON(), nullable=False),
        sa.Column("moved", sa.JSON(), nullable=False),
        sa.Column("reason", sa.String(), nullable=False),
        _number("by_id"),
        sa.Column("at", Utc(), nullable=False),
        sa.Column("undone_at", Utc(), nullable=True),
        _number("undone_by_id", null=True),
        sa.Column("undone_why", sa.String(), server_default="", nullable=False),
        _refers("correction", "form_item_id", "form_item"),
        _refers("correction", "window_id", "window"),
        _refers("correction", "sitting_id", "sitting", "CASCADE"),
        _refers("correction", "by_id", "person"),
        _refers("correction", "undone_by_id", "person"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_correction")),
    )
    op.create_index("ix_correction_form_item_id", "correction", ["form_item_id"])
    op.create_table(
        "place_rule",
        _number("form_item_id"),
        _number("window_id"),
        sa.Column("rule", sa.String(), nullable=False),
        sa.Column("unreached", sa.Boolean(), nullable=False),
        _number("correction_id"),
        _refers("place_rule", "form_item_id", "form_item", "CASCADE"),
        _refers("place_rule", "window_id", "window", "CASCADE"),
        _refers("place_rule", "correction_id", "correction"),
        sa.PrimaryKeyConstraint("form_item_id", "window_id", name=op.f("pk_place_rule")),
    )
    op.create_table(
        "score_change",
        _number("sitting_id"),
        _number("form_item_id"),
        sa.Column("points", sa.Double(), nullable=False),
        _number("correction_id"),
        _refers("score_change", "sitting_id", "sitting", "CASCADE"),
        _refers("score_change", "form_item_id", "form_item", "CASCADE"),
        _refers("score_change", "correction_id", "correction"),
        sa.PrimaryKeyConstraint("sitting_id", "form_item_id", name=op.f("pk_score_change")),
    )
    op.create_index("ix_score_change_form_item_id", "score_change", ["form_item_id"])
    op.add_column("mark", sa.Column("aside", sa.Boolean(), server_default="0", nullable=False))


def downgrade() -> None:
    op.drop_column("mark", "aside")
    for table in ("score_change", "place_rule", "correction"):
        op.drop_table(table)
