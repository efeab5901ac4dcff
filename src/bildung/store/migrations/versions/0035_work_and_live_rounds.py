"""Notes and sketches beside answers, when each item was before a student, words for those who are finished, live rounds."""

import sqlalchemy as sa
from alembic import op

from bildung.store.models.base import Utc

revision = "0035"
down_revision = "0034"
branch_labels = None
depends_on = None


def _refers(table: str, column: str, to: str, gone: str | None = None) -> sa.ForeignKeyConstraint:
    return sa.ForeignKeyConstraint([column], [f"{to}.id"], name=op.f(f"fk_{table}_{column}"), ondelete=gone)


def upgrade() -> None:
    op.add_column("session", sa.Column("afterward", sa.String(), server_default="", nullable=False))
    op.create_table(
        "student_work",
        sa.Column("sitting_id", sa.Integer(), nullable=False),
        sa.Column("form_item_id", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("content", sa.String(), nullable=False),
        sa.Column("takeover", sa.Integer(), nullable=False),
        sa.Column("sequence", sa.Integer(), nullable=False),
        _refers("student_work", "sitting_id", "sitting", "CASCADE"),
        _refers("student_work", "form_item_id", "form_item"),
        sa.PrimaryKeyConstraint("sitting_id", "form_item_id", "kind", name=op.f("pk_student_work")),
    )
    op.create_table(
        "visit_log",
        sa.Column("sitting_id", sa.Integer(), nullable=False),
        sa.Column("takeover", sa.Integer(), nullable=False),
        sa.Column("packed", sa.LargeBinary(), nullable=False),
        _refers("visit_log", "sitting_id", "sitting", "CASCADE"),
        sa.PrimaryKeyConstraint("sitting_id", "takeover", name=op.f("pk_visit_log")),
    )
    op.create_table(
        "live_round",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("class_id", sa.Integer(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("started_at", Utc(), nullable=False),
        sa.Column("ended_at", Utc(), nullable=True),
        sa.Column("evidence", sa.Boolean(), server_default="0", nullable=False),
        _refers("live_round", "class_id", "class"),
        _refers("live_round", "person_id", "person"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_live_round")),
    )
    op.create_index(op.f("ix_live_round_class_id"), "live_round", ["class_id"])
    op.create_table(
        "live_seat",
        sa.Column("round_id", sa.Integer(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("way", sa.String(), nullable=False),
        sa.Column("joined_at", Utc(), nullable=False),
        sa.Column("seen_at", Utc(), nullable=False),
        _refers("live_seat", "round_id", "live_round", "CASCADE"),
        _refers("live_seat", "person_id", "person"),
        sa.PrimaryKeyConstraint("round_id", "person_id", name=op.f("pk_live_seat")),
    )
    op.create_table(
        "live_question",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("round_id", sa.Integer(), nullable=False),
        sa.Column("item_version_id", sa.Integer(), nullable=True),
        sa.Column("words", sa.String(), server_default="", nullable=False),
        sa.Column("options", sa.Integer(), server_default="4", nullable=False),
        sa.Column("again_of", sa.Integer(), nullable=True),
        sa.Column("shown", sa.String(), server_default="counting", nullable=False),
        sa.Column("asked_at", Utc(), nullable=False),
        sa.Column("closed_at", Utc(), nullable=True),
        _refers("live_question", "round_id", "live_round", "CASCADE"),
        _refers("live_question", "item_version_id", "item_version"),
        _refers("live_question", "again_of", "live_question"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_live_question")),
    )
    op.create_index(op.f("ix_live_question_round_id"), "live_question", ["round_id"])
    op.create_table(
        "live_answer",
        sa.Column("question_id", sa.Integer(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("answer", sa.String(), nullable=False),
        sa.Column("way", sa.String(), nullable=False),
        sa.Column("at", Utc(), nullable=False),
        _refers("live_answer", "question_id", "live_question", "CASCADE"),
        _refers("live_answer", "person_id", "person"),
        sa.PrimaryKeyConstraint("question_id", "person_id", name=op.f("pk_live_answer")),
    )
    op.create_table(
        "response_device",
        sa.Column("class_id", sa.Integer(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        _refers("response_device", "class_id", "class", "CASCADE"),
        _refers("response_device", "person_id", "person", "CASCADE"),
        sa.PrimaryKeyConstraint("class_id", "number", name=op.f("pk_response_device")),
    )


def downgrade() -> None:
    for table in (
        "response_device",
        "live_answer",
        "live_question",
        "live_seat",
        "live_round",
        "visit_log",
        "student_work",
    ):
        op.drop_table(table)
    op.drop_column("session", "afterward")
