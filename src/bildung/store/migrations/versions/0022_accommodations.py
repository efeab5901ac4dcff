"""Accommodations one by one, for a subject or kind of test, with source, dates and approval; what became of each."""

import sqlalchemy as sa
from alembic import op

from bildung.store.models.base import Utc

revision = "0022"
down_revision = "0021"
branch_labels = None
depends_on = None

FLAGS = ("small_group", "own_proctor", "read_aloud", "large_print", "breaks")


def upgrade() -> None:
    op.rename_table("accommodation", "accommodation_before")
    op.create_table(
        "accommodation",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("value", sa.String(), nullable=False, server_default=""),
        sa.Column("subject", sa.String(), nullable=False, server_default=""),
        sa.Column("test_kind", sa.String(), nullable=False, server_default=""),
        sa.Column("source", sa.String(), nullable=False, server_default=""),
        sa.Column("note", sa.String(), nullable=False, server_default=""),
        sa.Column("start", sa.Date(), nullable=True),
        sa.Column("until", sa.Date(), nullable=True),
        sa.Column("entered_at", Utc(), nullable=False),
        sa.Column("entered_by_id", sa.Integer(), nullable=True),
        sa.Column("approved_at", Utc(), nullable=True),
        sa.Column("approved_by_id", sa.Integer(), nullable=True),
        sa.ForeignKeyConstraint(
            ["person_id"], ["person.id"], name=op.f("fk_accommodation_person_id"), ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(["entered_by_id"], ["person.id"], name=op.f("fk_accommodation_entered_by_id")),
        sa.ForeignKeyConstraint(["approved_by_id"], ["person.id"], name=op.f("fk_accommodation_approved_by_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_accommodation")),
    )
    _carry_over()
    op.drop_table("accommodation_before")
    op.create_index(op.f("ix_accommodation_person_id"), "accommodation", ["person_id"])
    op.create_table(
        "accommodation_use",
        sa.Column("sitting_id", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("outcome", sa.String(), nullable=False),
        sa.Column("at", Utc(), nullable=False),
        sa.Column("by_id", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(
            ["sitting_id"], ["sitting.id"], name=op.f("fk_accommodation_use_sitting_id"), ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(["by_id"], ["person.id"], name=op.f("fk_accommodation_use_by_id")),
        sa.PrimaryKeyConstraint("sitting_id", "kind", name=op.f("pk_accommodation_use")),
    )
    op.add_column("federation", sa.Column("groups_day", sa.Date(), nullable=True))
    with op.batch_alter_table("person") as person:
        person.add_column(sa.Column("case_manager_id", sa.Integer(), nullable=True))
        person.create_foreign_key(op.f("fk_person_case_manager_id"), "person", ["case_manager_id"], ["id"])


def _carry_over() -> None:
    """A line for each need of the old table; the note stays with the student's first, or stands for itself."""
    columns = "person_id, kind, value, note, entered_at, approved_at"
    now = "strftime('%Y-%m-%d %H:%M:%f000', 'now')"

    def lines(kind: str, value: str, where: str) -> None:
        op.execute(
            f"INSERT INTO accommodation ({columns}) SELECT person_id, '{kind}', {value}, '', {now}, {now} "
            f"FROM accommodation_before WHERE {where}"
        )

    lines("extra_time", "rtrim(rtrim(printf('%.3f', extra_time), '0'), '.')", "extra_time > 1")
    for flag in FLAGS:
        lines(flag, "''", f"{flag} = 1")
    lines("form", "form_kind", "form_kind != ''")
    lines("directions", "language", "language != ''")
    op.execute(
        "UPDATE accommodation SET note = (SELECT b.note FROM accommodation_before b WHERE b.person_id = "
        "accommodation.person_id) WHERE id IN (SELECT min(id) FROM accommodation GROUP BY person_id)"
    )
    lines("other", "note", "note != '' AND person_id NOT IN (SELECT person_id FROM accommodation)")


def downgrade() -> None:
    with op.batch_alter_table("person") as person:
        person.drop_constraint(op.f("fk_person_case_manager_id"), type_="foreignkey")
        person.drop_column("case_manager_id")
    op.drop_column("federation", "groups_day")
    op.drop_table("accommodation_use")
    op.drop_table("accommodation")
    op.create_table(
        "accommodation",
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("extra_time", sa.Float(), nullable=False),
        *(sa.Column(flag, sa.Boolean(), nullable=False) for flag in FLAGS),
        sa.Column("form_kind", sa.String(), nullable=False),
        sa.Column("language", sa.String(), nullable=False),
        sa.Column("note", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(
            ["person_id"], ["person.id"], name=op.f("fk_accommodation_person_id"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("person_id", name=op.f("pk_accommodation")),
    )
