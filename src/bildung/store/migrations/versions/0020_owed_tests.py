"""What a window asks for, who is exempt, who takes a test in another session; sessions that can be changed."""

import sqlalchemy as sa
from alembic import op

from bildung.store.models.base import Utc

revision = "0020"
down_revision = "0019"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "requirement",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("window_id", sa.Integer(), nullable=False),
        sa.Column("rule", sa.String(), nullable=False),
        sa.Column("family_id", sa.Integer(), nullable=True),
        sa.Column("form_id", sa.Integer(), nullable=True),
        sa.Column("part", sa.Integer(), nullable=True),
        sa.Column("why", sa.String(), nullable=False),
        sa.Column("at", Utc(), nullable=False),
        sa.Column("by_id", sa.Integer(), nullable=True),
        sa.ForeignKeyConstraint(
            ["window_id"], ["window.id"], name=op.f("fk_requirement_window_id"), ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(["family_id"], ["family.id"], name=op.f("fk_requirement_family_id")),
        sa.ForeignKeyConstraint(["form_id"], ["form.id"], name=op.f("fk_requirement_form_id")),
        sa.ForeignKeyConstraint(["by_id"], ["person.id"], name=op.f("fk_requirement_by_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_requirement")),
    )
    op.create_index(op.f("ix_requirement_window_id"), "requirement", ["window_id"])
    op.create_table(
        "exemption",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=True),
        sa.Column("group_id", sa.Integer(), nullable=True),
        sa.Column("window_id", sa.Integer(), nullable=True),
        sa.Column("subject", sa.String(), nullable=False),
        sa.Column("reason", sa.String(), nullable=False),
        sa.Column("asked_by", sa.String(), nullable=False),
        sa.Column("note", sa.String(), nullable=False),
        sa.Column("instead", sa.String(), nullable=False),
        sa.Column("starts", sa.Date(), nullable=False),
        sa.Column("ends", sa.Date(), nullable=True),
        sa.Column("at", Utc(), nullable=False),
        sa.Column("by_id", sa.Integer(), nullable=True),
        sa.Column("ended_at", Utc(), nullable=True),
        sa.Column("ended_by", sa.Integer(), nullable=True),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_exemption_person_id"), ondelete="CASCADE"),
        sa.ForeignKeyConstraint(
            ["group_id"], ["student_group.id"], name=op.f("fk_exemption_group_id"), ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(["window_id"], ["window.id"], name=op.f("fk_exemption_window_id"), ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["by_id"], ["person.id"], name=op.f("fk_exemption_by_id")),
        sa.ForeignKeyConstraint(["ended_by"], ["person.id"], name=op.f("fk_exemption_ended_by")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_exemption")),
    )
    op.create_index(op.f("ix_exemption_person_id"), "exemption", ["person_id"])
    op.create_index(op.f("ix_exemption_group_id"), "exemption", ["group_id"])
    op.create_table(
        "placement",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("session_id", sa.Integer(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("why", sa.String(), nullable=False),
        sa.Column("at", Utc(), nullable=False),
        sa.Column("by_id", sa.Integer(), nullable=True),
        sa.ForeignKeyConstraint(
            ["session_id"], ["session.id"], name=op.f("fk_placement_session_id"), ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_placement_person_id"), ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["by_id"], ["person.id"], name=op.f("fk_placement_by_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_placement")),
        sa.UniqueConstraint("session_id", "person_id", name=op.f("uq_placement_session_id_person_id")),
    )
    op.create_index(op.f("ix_placement_session_id"), "placement", ["session_id"])
    op.create_index(op.f("ix_placement_person_id"), "placement", ["person_id"])
    op.create_table(
        "window_dates",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("window_id", sa.Integer(), nullable=False),
        sa.Column("school_id", sa.Integer(), nullable=True),
        sa.Column("grade", sa.String(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=True),
        sa.Column("start", sa.Date(), nullable=False),
        sa.Column("end", sa.Date(), nullable=False),
        sa.Column("why", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(
            ["window_id"], ["window.id"], name=op.f("fk_window_dates_window_id"), ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(["school_id"], ["school.id"], name=op.f("fk_window_dates_school_id")),
        sa.ForeignKeyConstraint(
            ["person_id"], ["person.id"], name=op.f("fk_window_dates_person_id"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_window_dates")),
    )
    op.create_index(op.f("ix_window_dates_window_id"), "window_dates", ["window_id"])
    op.add_column("session", sa.Column("title", sa.String(), nullable=False, server_default=""))
    op.add_column("session", sa.Column("instructions", sa.String(), nullable=False, server_default=""))
    op.add_column("session", sa.Column("revision", sa.Integer(), nullable=False, server_default="1"))
    op.add_column("session", sa.Column("canceled_at", Utc(), nullable=True))
    op.add_column("session", sa.Column("cancel_why", sa.String(), nullable=False, server_default=""))
    op.add_column("session", sa.Column("still_owed", sa.Boolean(), nullable=False, server_default="1"))
    op.add_column("session", sa.Column("by_name", sa.Boolean(), nullable=False, server_default="0"))
    op.add_column("form", sa.Column("secure", sa.Boolean(), nullable=True))
    op.add_column("form", sa.Column("stays_secure", sa.Boolean(), nullable=False, server_default="0"))
    op.add_column("sitting", sa.Column("interrupted", sa.Boolean(), nullable=False, server_default="0"))


def downgrade() -> None:
    op.drop_column("form", "stays_secure")
    op.drop_column("form", "secure")
    op.drop_column("sitting", "interrupted")
    for name in ("by_name", "still_owed", "cancel_why", "canceled_at", "revision", "instructions", "title"):
        op.drop_column("session", name)
    for name in ("window_dates", "placement", "exemption", "requirement"):
        op.drop_table(name)
