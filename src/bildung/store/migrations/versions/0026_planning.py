"""Rooms, carts, kinds of days, hours of staff, and plans of windows."""

import sqlalchemy as sa
from alembic import op

revision = "0026"
down_revision = "0025"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "cart",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("school_id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("devices", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(["school_id"], ["school.id"], name=op.f("fk_cart_school_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_cart")),
        sa.UniqueConstraint("school_id", "name", name=op.f("uq_cart_school_id_name")),
    )
    op.create_index(op.f("ix_cart_school_id"), "cart", ["school_id"])
    op.create_table(
        "day_pattern",
        sa.Column("school_id", sa.Integer(), nullable=False),
        sa.Column("cycle", sa.Boolean(), nullable=False),
        sa.Column("types", sa.JSON(), nullable=False),
        sa.Column("first", sa.Date(), nullable=False),
        sa.Column("shifts", sa.Boolean(), nullable=False),
        sa.ForeignKeyConstraint(["school_id"], ["school.id"], name=op.f("fk_day_pattern_school_id")),
        sa.PrimaryKeyConstraint("school_id", name=op.f("pk_day_pattern")),
    )
    op.create_table(
        "day_type",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("school_id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("place", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(["school_id"], ["school.id"], name=op.f("fk_day_type_school_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_day_type")),
        sa.UniqueConstraint("school_id", "name", name=op.f("uq_day_type_school_id_name")),
    )
    op.create_index(op.f("ix_day_type_school_id"), "day_type", ["school_id"])
    op.create_table(
        "room",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("school_id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("seats", sa.Integer(), nullable=False),
        sa.Column("devices", sa.Integer(), nullable=False),
        sa.Column("shared", sa.Boolean(), nullable=False),
        sa.ForeignKeyConstraint(["school_id"], ["school.id"], name=op.f("fk_room_school_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_room")),
        sa.UniqueConstraint("school_id", "name", name=op.f("uq_room_school_id_name")),
    )
    op.create_index(op.f("ix_room_school_id"), "room", ["school_id"])
    op.create_table(
        "block",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("day_type_id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("start", sa.Time(), nullable=False),
        sa.Column("end", sa.Time(), nullable=False),
        sa.ForeignKeyConstraint(
            ["day_type_id"], ["day_type.id"], name=op.f("fk_block_day_type_id"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_block")),
    )
    op.create_index(op.f("ix_block_day_type_id"), "block", ["day_type_id"])
    op.create_table(
        "day_change",
        sa.Column("school_id", sa.Integer(), nullable=False),
        sa.Column("day", sa.Date(), nullable=False),
        sa.Column("day_type_id", sa.Integer(), nullable=True),
        sa.Column("why", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(
            ["day_type_id"], ["day_type.id"], name=op.f("fk_day_change_day_type_id"), ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(["school_id"], ["school.id"], name=op.f("fk_day_change_school_id")),
        sa.PrimaryKeyConstraint("school_id", "day", name=op.f("pk_day_change")),
    )
    op.create_table(
        "plan",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("window_id", sa.Integer(), nullable=False),
        sa.Column("school_id", sa.Integer(), nullable=False),
        sa.Column("wishes", sa.JSON(), nullable=False),
        sa.Column("sessions", sa.JSON(), nullable=False),
        sa.Column("figures", sa.JSON(), nullable=False),
        sa.Column("steps", sa.JSON(), nullable=False),
        sa.Column("step", sa.Integer(), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.Column("made_by_id", sa.Integer(), nullable=True),
        sa.Column("published_at", sa.DateTime(), nullable=True),
        sa.ForeignKeyConstraint(["made_by_id"], ["person.id"], name=op.f("fk_plan_made_by_id")),
        sa.ForeignKeyConstraint(["school_id"], ["school.id"], name=op.f("fk_plan_school_id")),
        sa.ForeignKeyConstraint(["window_id"], ["window.id"], name=op.f("fk_plan_window_id"), ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_plan")),
        sa.UniqueConstraint("window_id", "school_id", name=op.f("uq_plan_window_id_school_id")),
    )
    op.create_index(op.f("ix_plan_school_id"), "plan", ["school_id"])
    op.create_index(op.f("ix_plan_window_id"), "plan", ["window_id"])
    op.create_table(
        "plan_hold",
        sa.Column("school_id", sa.Integer(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("since", sa.DateTime(), nullable=False),
        sa.Column("last", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_plan_hold_person_id"), ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["school_id"], ["school.id"], name=op.f("fk_plan_hold_school_id")),
        sa.PrimaryKeyConstraint("school_id", name=op.f("pk_plan_hold")),
    )
    op.create_table(
        "staff_hours",
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("weekday", sa.Integer(), nullable=False),
        sa.Column("start", sa.Time(), nullable=False),
        sa.Column("end", sa.Time(), nullable=False),
        sa.ForeignKeyConstraint(
            ["person_id"], ["person.id"], name=op.f("fk_staff_hours_person_id"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("person_id", "weekday", name=op.f("pk_staff_hours")),
    )
    op.create_table(
        "staff_support",
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("language", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(
            ["person_id"], ["person.id"], name=op.f("fk_staff_support_person_id"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("person_id", "kind", name=op.f("pk_staff_support")),
    )
    op.create_table(
        "class_time",
        sa.Column("class_id", sa.Integer(), nullable=False),
        sa.Column("block_id", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(["block_id"], ["block.id"], name=op.f("fk_class_time_block_id"), ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["class_id"], ["class.id"], name=op.f("fk_class_time_class_id"), ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("class_id", "block_id", name=op.f("pk_class_time")),
    )


def downgrade() -> None:
    op.drop_table("class_time")
    op.drop_table("staff_support")
    op.drop_table("staff_hours")
    op.drop_table("plan_hold")
    op.drop_table("plan")
    op.drop_table("day_change")
    op.drop_table("block")
    op.drop_table("room")
    op.drop_table("day_type")
    op.drop_table("day_pattern")
    op.drop_table("cart")
