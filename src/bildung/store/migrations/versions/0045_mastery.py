"""Mastery: rules of a framework, sessions by decision, evidence entered by hand, interventions, purposes of groups, standards as they were."""

import sqlalchemy as sa
from alembic import op

from bildung.store.models.base import Utc

revision = "0045"
down_revision = "0044"
branch_labels = None
depends_on = None


def _int(name: str, nullable: bool = False) -> sa.Column[int]:
    return sa.Column(name, sa.Integer(), nullable=nullable)


def _words(name: str) -> sa.Column[str]:
    return sa.Column(name, sa.String(), nullable=False)


def _at(name: str = "at", nullable: bool = False) -> sa.Column[object]:
    return sa.Column(name, Utc(), nullable=nullable)


def _refers(table: str, column: str, to: str, ondelete: str | None = None) -> sa.ForeignKeyConstraint:
    return sa.ForeignKeyConstraint([column], [f"{to}.id"], name=op.f(f"fk_{table}_{column}"), ondelete=ondelete)


def _key(table: str, column: str = "id") -> sa.PrimaryKeyConstraint:
    return sa.PrimaryKeyConstraint(column, name=op.f(f"pk_{table}"))


def upgrade() -> None:
    op.create_table(
        "mastery_rule",
        _int("framework_id"),
        sa.Column("rules", sa.JSON(), nullable=False),
        sa.Column("counts", sa.JSON(), nullable=False),
        _words("retakes"),
        _int("revision"),
        _at(),
        _int("by_id"),
        _refers("mastery_rule", "framework_id", "framework", "CASCADE"),
        _refers("mastery_rule", "by_id", "person"),
        _key("mastery_rule", "framework_id"),
    )
    op.create_table(
        "session_evidence",
        _int("session_id"),
        sa.Column("counts", sa.Boolean(), nullable=False),
        _at(),
        _int("by_id"),
        _refers("session_evidence", "session_id", "session", "CASCADE"),
        _refers("session_evidence", "by_id", "person"),
        _key("session_evidence", "session_id"),
    )
    op.create_table(
        "entered_evidence",
        _int("id"),
        _int("person_id"),
        _int("standard_id"),
        _words("kind"),
        _words("what"),
        sa.Column("on", sa.Date(), nullable=False),
        sa.Column("earned", sa.Double(), nullable=False),
        sa.Column("possible", sa.Double(), nullable=False),
        _int("by_id"),
        _at(),
        _at("withdrawn_at", nullable=True),
        _refers("entered_evidence", "person_id", "person", "CASCADE"),
        _refers("entered_evidence", "standard_id", "standard"),
        _refers("entered_evidence", "by_id", "person"),
        _key("entered_evidence"),
    )
    op.create_table(
        "intervention",
        _int("id"),
        _int("person_id"),
        _int("standard_id"),
        _int("group_id", nullable=True),
        _words("what"),
        sa.Column("start", sa.Date(), nullable=False),
        sa.Column("until", sa.Date(), nullable=True),
        _int("by_id"),
        _at(),
        _at("withdrawn_at", nullable=True),
        _refers("intervention", "person_id", "person", "CASCADE"),
        _refers("intervention", "standard_id", "standard"),
        _refers("intervention", "group_id", "student_group", "SET NULL"),
        _refers("intervention", "by_id", "person"),
        _key("intervention"),
    )
    op.create_table(
        "group_purpose",
        _int("group_id"),
        _int("standard_id"),
        sa.Column("purpose", sa.String(), server_default="", nullable=False),
        sa.Column("check_on", sa.Date(), nullable=True),
        _refers("group_purpose", "group_id", "student_group", "CASCADE"),
        _refers("group_purpose", "standard_id", "standard"),
        _key("group_purpose", "group_id"),
    )
    op.create_table(
        "standard_change",
        _int("id"),
        _int("item_version_id"),
        _at(),
        sa.Column("before", sa.JSON(), nullable=False),
        _at("moved_at", nullable=True),
        _int("moved_by_id", nullable=True),
        _refers("standard_change", "item_version_id", "item_version", "CASCADE"),
        _refers("standard_change", "moved_by_id", "person"),
        _key("standard_change"),
    )
    for table, column in INDEXES:
        op.create_index(f"ix_{table}_{column}", table, [column])


INDEXES = (
    ("entered_evidence", "person_id"),
    ("entered_evidence", "standard_id"),
    ("intervention", "person_id"),
    ("intervention", "standard_id"),
    ("intervention", "group_id"),
    ("standard_change", "item_version_id"),
)


def downgrade() -> None:
    for table in (
        "standard_change",
        "group_purpose",
        "intervention",
        "entered_evidence",
        "session_evidence",
        "mastery_rule",
    ):
        op.drop_table(table)
