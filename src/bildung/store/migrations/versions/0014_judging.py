"""Time spent on items, verdicts on items, kept views and reports, marks by hand."""

import sqlalchemy as sa
from alembic import op

from bildung.store.models.base import Utc

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("ALTER TABLE packed_answers ADD COLUMN times BLOB")
    op.create_table(
        "time_on",
        sa.Column("sitting_id", sa.Integer(), nullable=False),
        sa.Column("form_item_id", sa.Integer(), nullable=False),
        sa.Column("takeover", sa.Integer(), nullable=False),
        sa.Column("milliseconds", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(["sitting_id"], ["sitting.id"], name=op.f("fk_time_on_sitting_id")),
        sa.ForeignKeyConstraint(["form_item_id"], ["form_item.id"], name=op.f("fk_time_on_form_item_id")),
        sa.PrimaryKeyConstraint("sitting_id", "form_item_id", "takeover", name=op.f("pk_time_on")),
    )
    op.create_table(
        "verdict",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("item_version_id", sa.Integer(), nullable=False),
        sa.Column("form_id", sa.Integer(), nullable=True),
        sa.Column("window_id", sa.Integer(), nullable=True),
        sa.Column("verdict", sa.String(), nullable=False),
        sa.Column("reason", sa.String(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("at", Utc(), nullable=False),
        sa.Column("answered_at", Utc(), nullable=True),
        sa.ForeignKeyConstraint(["item_version_id"], ["item_version.id"], name=op.f("fk_verdict_item_version_id")),
        sa.ForeignKeyConstraint(["form_id"], ["form.id"], name=op.f("fk_verdict_form_id")),
        sa.ForeignKeyConstraint(["window_id"], ["window.id"], name=op.f("fk_verdict_window_id")),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_verdict_person_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_verdict")),
    )
    op.create_index(op.f("ix_verdict_item_version_id"), "verdict", ["item_version_id"], unique=False)
    op.create_table(
        "kept_view",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("path", sa.String(), nullable=False),
        sa.Column("query", sa.String(), nullable=False),
        sa.Column("created_at", Utc(), nullable=False),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_kept_view_person_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_kept_view")),
        sa.UniqueConstraint("person_id", "name", name=op.f("uq_kept_view_person_id_name")),
    )
    op.create_table(
        "kept_report",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("question", sa.String(), nullable=False),
        sa.Column("title", sa.String(), nullable=False),
        sa.Column("wanted", sa.JSON(), nullable=False),
        sa.Column("sessions", sa.JSON(), nullable=False),
        sa.Column("named", sa.Boolean(), nullable=False),
        sa.Column("format", sa.String(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("says", sa.String(), nullable=False),
        sa.Column("file", sa.String(), nullable=False),
        sa.Column("pages", sa.Integer(), nullable=True),
        sa.Column("created_at", Utc(), nullable=False),
        sa.Column("done_at", Utc(), nullable=True),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_kept_report_person_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_kept_report")),
    )
    op.create_index(op.f("ix_kept_report_person_id"), "kept_report", ["person_id"], unique=False)
    op.create_table(
        "mark",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("sitting_id", sa.Integer(), nullable=False),
        sa.Column("form_item_id", sa.Integer(), nullable=False),
        sa.Column("marker_id", sa.Integer(), nullable=False),
        sa.Column("points", sa.Double(), nullable=False),
        sa.Column("at", Utc(), nullable=False),
        sa.ForeignKeyConstraint(["sitting_id"], ["sitting.id"], name=op.f("fk_mark_sitting_id")),
        sa.ForeignKeyConstraint(["form_item_id"], ["form_item.id"], name=op.f("fk_mark_form_item_id")),
        sa.ForeignKeyConstraint(["marker_id"], ["person.id"], name=op.f("fk_mark_marker_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_mark")),
        sa.UniqueConstraint(
            "sitting_id", "form_item_id", "marker_id", name=op.f("uq_mark_sitting_id_form_item_id_marker_id")
        ),
    )
    op.create_index("ix_mark_form_item_id", "mark", ["form_item_id"], unique=False)


def downgrade() -> None:
    for table in ("mark", "kept_report", "kept_view", "verdict", "time_on"):
        op.drop_table(table)
    op.execute("ALTER TABLE packed_answers DROP COLUMN times")
