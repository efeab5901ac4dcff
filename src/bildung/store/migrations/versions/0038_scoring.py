"""Scores by rubric and condition code, who scores what, comments, safety alerts."""

import sqlalchemy as sa
from alembic import op

from bildung.store.models.base import Utc

revision = "0038"
down_revision = "0037"
branch_labels = None
depends_on = None


def _refers(table: str, column: str, to: str, gone: str | None = None) -> sa.ForeignKeyConstraint:
    return sa.ForeignKeyConstraint([column], [f"{to}.id"], name=op.f(f"fk_{table}_{column}"), ondelete=gone)


def _number(name: str, null: bool = False) -> sa.Column[int]:
    return sa.Column(name, sa.Integer(), nullable=null)


def upgrade() -> None:
    op.add_column("mark", sa.Column("criteria", sa.JSON(none_as_null=True), nullable=True))
    op.add_column("mark", sa.Column("code", sa.String(), server_default="", nullable=False))
    op.add_column("mark", sa.Column("final", sa.Boolean(), server_default="0", nullable=False))
    op.add_column("mark", sa.Column("scoring", sa.Integer(), nullable=True))
    op.create_table(
        "scoring_plan",
        _number("form_item_id"),
        _number("window_id"),
        sa.Column("seed", sa.Integer(), server_default="1", nullable=False),
        sa.Column("share", sa.Double(), server_default="0", nullable=False),
        sa.Column("apart", sa.Double(), nullable=True),
        _refers("scoring_plan", "form_item_id", "form_item", "CASCADE"),
        _refers("scoring_plan", "window_id", "window", "CASCADE"),
        sa.PrimaryKeyConstraint("form_item_id", "window_id", name=op.f("pk_scoring_plan")),
    )
    op.create_table(
        "scoring_task",
        _number("id"),
        _number("form_item_id"),
        _number("window_id"),
        _number("scorer_id"),
        sa.Column("due", sa.Date(), nullable=True),
        sa.Column("made_at", Utc(), nullable=False),
        _number("made_by_id"),
        _refers("scoring_task", "form_item_id", "form_item", "CASCADE"),
        _refers("scoring_task", "window_id", "window", "CASCADE"),
        _refers("scoring_task", "scorer_id", "person"),
        _refers("scoring_task", "made_by_id", "person"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_scoring_task")),
        sa.UniqueConstraint(
            "form_item_id", "window_id", "scorer_id", name=op.f("uq_scoring_task_form_item_id_window_id_scorer_id")
        ),
    )
    op.create_index("ix_scoring_task_form_item_id", "scoring_task", ["form_item_id"])
    op.create_index("ix_scoring_task_scorer_id", "scoring_task", ["scorer_id"])
    op.create_table(
        "scoring_hold",
        _number("sitting_id"),
        _number("form_item_id"),
        _number("person_id"),
        sa.Column("until", Utc(), nullable=False),
        _refers("scoring_hold", "sitting_id", "sitting", "CASCADE"),
        _refers("scoring_hold", "form_item_id", "form_item", "CASCADE"),
        _refers("scoring_hold", "person_id", "person"),
        sa.PrimaryKeyConstraint("sitting_id", "form_item_id", name=op.f("pk_scoring_hold")),
    )
    op.create_index("ix_scoring_hold_person_id", "scoring_hold", ["person_id"])
    op.create_table(
        "response_comment",
        _number("id"),
        _number("sitting_id"),
        _number("form_item_id"),
        _number("author_id"),
        sa.Column("text", sa.String(), nullable=False),
        sa.Column("at", Utc(), nullable=False),
        sa.Column("read_at", Utc(), nullable=True),
        _refers("response_comment", "sitting_id", "sitting", "CASCADE"),
        _refers("response_comment", "form_item_id", "form_item"),
        _refers("response_comment", "author_id", "person"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_response_comment")),
        sa.UniqueConstraint(
            "sitting_id",
            "form_item_id",
            "author_id",
            name=op.f("uq_response_comment_sitting_id_form_item_id_author_id"),
        ),
    )
    op.create_table(
        "phrase",
        _number("id"),
        _number("person_id"),
        sa.Column("text", sa.String(), nullable=False),
        _refers("phrase", "person_id", "person"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_phrase")),
    )
    op.create_index("ix_phrase_person_id", "phrase", ["person_id"])
    op.create_table(
        "alert_person",
        _number("school_id"),
        _number("person_id"),
        _refers("alert_person", "school_id", "school", "CASCADE"),
        _refers("alert_person", "person_id", "person", "CASCADE"),
        sa.PrimaryKeyConstraint("school_id", "person_id", name=op.f("pk_alert_person")),
    )
    op.create_table(
        "safety_alert",
        _number("id"),
        _number("sitting_id"),
        _number("form_item_id"),
        _number("by_id"),
        sa.Column("at", Utc(), nullable=False),
        sa.Column("answer", sa.String(), nullable=False),
        sa.Column("closed_at", Utc(), nullable=True),
        _number("closed_by_id", True),
        sa.Column("outcome", sa.String(), server_default="", nullable=False),
        _refers("safety_alert", "sitting_id", "sitting"),
        _refers("safety_alert", "form_item_id", "form_item"),
        _refers("safety_alert", "by_id", "person"),
        _refers("safety_alert", "closed_by_id", "person"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_safety_alert")),
    )
    op.create_index("ix_safety_alert_sitting_id", "safety_alert", ["sitting_id"])
    op.create_table(
        "alert_receiver",
        _number("alert_id"),
        _number("person_id"),
        sa.Column("seen_at", Utc(), nullable=True),
        _refers("alert_receiver", "alert_id", "safety_alert", "CASCADE"),
        _refers("alert_receiver", "person_id", "person"),
        sa.PrimaryKeyConstraint("alert_id", "person_id", name=op.f("pk_alert_receiver")),
    )
    op.create_index("ix_alert_receiver_person_id", "alert_receiver", ["person_id"])


def downgrade() -> None:
    for name in (
        "alert_receiver",
        "safety_alert",
        "alert_person",
        "phrase",
        "response_comment",
        "scoring_hold",
        "scoring_task",
        "scoring_plan",
    ):
        op.drop_table(name)
    for name in ("scoring", "final", "code", "criteria"):
        op.drop_column("mark", name)
