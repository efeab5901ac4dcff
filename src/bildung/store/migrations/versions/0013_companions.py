"""Which form each student sits, what was drawn for them, further attempts, parts on other days, and release."""

import sqlalchemy as sa
from alembic import op

from bildung.store.models.base import Utc

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None

_STAYS = "id, name, title, subject, grade, revision, created_at, published_at, published_by, owner_id, kind, unit, plan, settings, before_id, mirror_id"
_COLUMNS = {
    "sitting": (
        "form_id INTEGER CONSTRAINT fk_sitting_form_id REFERENCES form (id)",
        "seed INTEGER",
        "drawn JSON",
        "checked JSON",
        "attempt INTEGER DEFAULT 1 NOT NULL",
        "reached INTEGER DEFAULT 0 NOT NULL",
    ),
    "session": (
        "part INTEGER",
        "deal BOOLEAN DEFAULT 0 NOT NULL",
        "renewed BOOLEAN DEFAULT 0 NOT NULL",
        "released_at DATETIME",
    ),
    "form": ("read_revision INTEGER DEFAULT 0 NOT NULL",),
    "form_item": ("face JSON",),
}


def upgrade() -> None:
    for table, columns in _COLUMNS.items():
        for column in columns:
            op.execute(f"ALTER TABLE {table} ADD COLUMN {column}")
    op.create_index(op.f("ix_sitting_form_id"), "sitting", ["form_id"], unique=False)
    # what a form consists of never changes; which family it belongs to may be said later
    op.execute("DROP TRIGGER form_stays")
    op.execute(
        f"CREATE TRIGGER form_stays BEFORE UPDATE OF {_STAYS} ON form WHEN OLD.published_at IS NOT NULL "
        "BEGIN SELECT RAISE(ABORT, 'a published form never changes'); END"
    )
    op.create_table(
        "later_attempt",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("sitting_id", sa.Integer(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("answers", sa.JSON(), nullable=False),
        sa.Column("seed", sa.Integer(), nullable=True),
        sa.Column("drawn", sa.JSON(), nullable=True),
        sa.Column("checked", sa.JSON(), nullable=True),
        sa.Column("reached", sa.Integer(), nullable=False),
        sa.Column("started_at", Utc(), nullable=False),
        sa.Column("handed_in_at", Utc(), nullable=True),
        sa.ForeignKeyConstraint(["sitting_id"], ["sitting.id"], name=op.f("fk_later_attempt_sitting_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_later_attempt")),
        sa.UniqueConstraint("sitting_id", "number", name=op.f("uq_later_attempt_sitting_id_number")),
    )
    op.create_table(
        "companion_rule",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("family_id", sa.Integer(), nullable=False),
        sa.Column("form_id", sa.Integer(), nullable=False),
        sa.Column("group_id", sa.Integer(), nullable=True),
        sa.Column("person_id", sa.Integer(), nullable=True),
        sa.ForeignKeyConstraint(["family_id"], ["family.id"], name=op.f("fk_companion_rule_family_id")),
        sa.ForeignKeyConstraint(["form_id"], ["form.id"], name=op.f("fk_companion_rule_form_id")),
        sa.ForeignKeyConstraint(
            ["group_id"], ["student_group.id"], name=op.f("fk_companion_rule_group_id"), ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_companion_rule_person_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_companion_rule")),
    )
    op.create_index(op.f("ix_companion_rule_family_id"), "companion_rule", ["family_id"], unique=False)


def downgrade() -> None:
    op.execute("DROP TRIGGER form_stays")
    op.execute(
        "CREATE TRIGGER form_stays BEFORE UPDATE ON form WHEN OLD.published_at IS NOT NULL "
        "BEGIN SELECT RAISE(ABORT, 'a published form never changes'); END"
    )
    op.drop_table("companion_rule")
    op.drop_table("later_attempt")
    op.drop_index(op.f("ix_sitting_form_id"), "sitting")
    for table, columns in _COLUMNS.items():
        for column in reversed(columns):
            op.execute(f"ALTER TABLE {table} DROP COLUMN {column.split()[0]}")
