"""School years, families, colleagues, groups, accommodations, attributes, course plans, joining, records runs."""

import sqlalchemy as sa
from alembic import op

from bildung.store.models.base import Utc

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None

# added in place: making these tables anew would lose their triggers
COLUMNS = (
    "federation weekdays INTEGER NOT NULL DEFAULT 31",
    "federation roster_version INTEGER NOT NULL DEFAULT 1",
    "person kind VARCHAR NOT NULL DEFAULT 'staff'",
    "person left_on DATE",
    "person last_sign_in_at DATETIME",
    "person last_place VARCHAR NOT NULL DEFAULT ''",
    "sign_in place VARCHAR NOT NULL DEFAULT ''",
    "class course VARCHAR NOT NULL DEFAULT ''",
    "class period VARCHAR NOT NULL DEFAULT ''",
    "class homeroom BOOLEAN NOT NULL DEFAULT 0",
    "class year_id INTEGER CONSTRAINT fk_class_year_id REFERENCES school_year (id)",
    "class code VARCHAR",
    "class open_door BOOLEAN NOT NULL DEFAULT 0",
    "enrolment begins DATE",
    "enrolment ends DATE",
    "form owner_id INTEGER CONSTRAINT fk_form_owner_id REFERENCES person (id)",
    "item owner_id INTEGER CONSTRAINT fk_item_owner_id REFERENCES person (id)",
)
TABLES = (
    "taught",
    "lesson_standard",
    "group_staff",
    "group_member",
    "student_group",
    "records_run",
    "lesson",
    "join_request",
    "family_link",
    "consent",
    "attribute_value",
    "accommodation",
    "course_plan",
    "closed_days",
    "setting",
    "school_year",
    "attribute",
)


def upgrade() -> None:
    op.create_table(
        "attribute",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("seen_by", sa.String(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_attribute")),
        sa.UniqueConstraint("name", name=op.f("uq_attribute_name")),
    )
    op.create_table(
        "school_year",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("title", sa.String(), nullable=False),
        sa.Column("start", sa.Date(), nullable=False),
        sa.Column("end", sa.Date(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_school_year")),
        sa.UniqueConstraint("start", name=op.f("uq_school_year_start")),
        sa.UniqueConstraint("title", name=op.f("uq_school_year_title")),
    )
    op.create_table(
        "setting",
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("value", sa.JSON(), nullable=False),
        sa.PrimaryKeyConstraint("name", name=op.f("pk_setting")),
    )
    op.create_table(
        "closed_days",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("start", sa.Date(), nullable=False),
        sa.Column("end", sa.Date(), nullable=False),
        sa.Column("school_id", sa.Integer(), nullable=True),
        sa.ForeignKeyConstraint(["school_id"], ["school.id"], name=op.f("fk_closed_days_school_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_closed_days")),
    )
    op.create_table(
        "course_plan",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("course", sa.String(), nullable=False),
        sa.Column("subject", sa.String(), nullable=False),
        sa.Column("grade", sa.String(), nullable=False),
        sa.Column("year_id", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(["year_id"], ["school_year.id"], name=op.f("fk_course_plan_year_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_course_plan")),
        sa.UniqueConstraint("subject", "grade", "year_id", name=op.f("uq_course_plan_subject_grade_year_id")),
    )
    op.create_table(
        "accommodation",
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("extra_time", sa.Double(), nullable=False),
        sa.Column("small_group", sa.Boolean(), nullable=False),
        sa.Column("own_proctor", sa.Boolean(), nullable=False),
        sa.Column("read_aloud", sa.Boolean(), nullable=False),
        sa.Column("large_print", sa.Boolean(), nullable=False),
        sa.Column("breaks", sa.Boolean(), nullable=False),
        sa.Column("form_kind", sa.String(), nullable=False),
        sa.Column("language", sa.String(), nullable=False),
        sa.Column("note", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(
            ["person_id"], ["person.id"], name=op.f("fk_accommodation_person_id"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("person_id", name=op.f("pk_accommodation")),
    )
    op.create_table(
        "attribute_value",
        sa.Column("attribute_id", sa.Integer(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("value", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(
            ["attribute_id"], ["attribute.id"], name=op.f("fk_attribute_value_attribute_id"), ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(
            ["person_id"], ["person.id"], name=op.f("fk_attribute_value_person_id"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("attribute_id", "person_id", name=op.f("pk_attribute_value")),
    )
    op.create_index(op.f("ix_attribute_value_person_id"), "attribute_value", ["person_id"], unique=False)
    op.create_table(
        "consent",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("giver_id", sa.Integer(), nullable=False),
        sa.Column("receiver_id", sa.Integer(), nullable=False),
        sa.Column("given_at", Utc(), nullable=False),
        sa.Column("ended_at", Utc(), nullable=True),
        sa.ForeignKeyConstraint(["giver_id"], ["person.id"], name=op.f("fk_consent_giver_id"), ondelete="CASCADE"),
        sa.ForeignKeyConstraint(
            ["receiver_id"], ["person.id"], name=op.f("fk_consent_receiver_id"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_consent")),
    )
    op.create_index(op.f("ix_consent_giver_id"), "consent", ["giver_id"], unique=False)
    op.create_index(op.f("ix_consent_receiver_id"), "consent", ["receiver_id"], unique=False)
    op.create_table(
        "family_link",
        sa.Column("family_id", sa.Integer(), nullable=False),
        sa.Column("student_id", sa.Integer(), nullable=False),
        sa.Column("relation", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(
            ["family_id"], ["person.id"], name=op.f("fk_family_link_family_id"), ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(
            ["student_id"], ["person.id"], name=op.f("fk_family_link_student_id"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("family_id", "student_id", name=op.f("pk_family_link")),
    )
    op.create_index(op.f("ix_family_link_student_id"), "family_link", ["student_id"], unique=False)
    op.create_table(
        "join_request",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("class_id", sa.Integer(), nullable=False),
        sa.Column("given", sa.String(), nullable=False),
        sa.Column("family", sa.String(), nullable=False),
        sa.Column("ticket_hash", sa.String(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("at", Utc(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=True),
        sa.Column("settled_at", Utc(), nullable=True),
        sa.ForeignKeyConstraint(["class_id"], ["class.id"], name=op.f("fk_join_request_class_id")),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_join_request_person_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_join_request")),
        sa.UniqueConstraint("ticket_hash", name=op.f("uq_join_request_ticket_hash")),
    )
    op.create_index(op.f("ix_join_request_class_id"), "join_request", ["class_id"], unique=False)
    op.create_table(
        "lesson",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("plan_id", sa.Integer(), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("unit", sa.String(), nullable=False),
        sa.Column("title", sa.String(), nullable=False),
        sa.Column("start", sa.Date(), nullable=False),
        sa.Column("end", sa.Date(), nullable=False),
        sa.ForeignKeyConstraint(["plan_id"], ["course_plan.id"], name=op.f("fk_lesson_plan_id"), ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_lesson")),
    )
    op.create_index(op.f("ix_lesson_plan_id"), "lesson", ["plan_id"], unique=False)
    op.create_table(
        "records_run",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("at", Utc(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("bulk", sa.Boolean(), nullable=False),
        sa.Column("counts", sa.JSON(), nullable=False),
        sa.Column("lines", sa.JSON(), nullable=False),
        sa.Column("message", sa.String(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=True),
        sa.Column("decided_at", Utc(), nullable=True),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_records_run_person_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_records_run")),
    )
    op.create_table(
        "student_group",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("school_id", sa.Integer(), nullable=True),
        sa.Column("owner_id", sa.Integer(), nullable=True),
        sa.Column("rule", sa.String(), nullable=True),
        sa.Column("created_at", Utc(), nullable=False),
        sa.ForeignKeyConstraint(["owner_id"], ["person.id"], name=op.f("fk_student_group_owner_id")),
        sa.ForeignKeyConstraint(["school_id"], ["school.id"], name=op.f("fk_student_group_school_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_student_group")),
        sa.UniqueConstraint("name", "school_id", name=op.f("uq_student_group_name_school_id")),
    )
    op.create_table(
        "group_member",
        sa.Column("group_id", sa.Integer(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(
            ["group_id"], ["student_group.id"], name=op.f("fk_group_member_group_id"), ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(
            ["person_id"], ["person.id"], name=op.f("fk_group_member_person_id"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("group_id", "person_id", name=op.f("pk_group_member")),
    )
    op.create_index(op.f("ix_group_member_person_id"), "group_member", ["person_id"], unique=False)
    op.create_table(
        "group_staff",
        sa.Column("group_id", sa.Integer(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(
            ["group_id"], ["student_group.id"], name=op.f("fk_group_staff_group_id"), ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(
            ["person_id"], ["person.id"], name=op.f("fk_group_staff_person_id"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("group_id", "person_id", name=op.f("pk_group_staff")),
    )
    op.create_index(op.f("ix_group_staff_person_id"), "group_staff", ["person_id"], unique=False)
    op.create_table(
        "lesson_standard",
        sa.Column("lesson_id", sa.Integer(), nullable=False),
        sa.Column("standard_id", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(
            ["lesson_id"], ["lesson.id"], name=op.f("fk_lesson_standard_lesson_id"), ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(["standard_id"], ["standard.id"], name=op.f("fk_lesson_standard_standard_id")),
        sa.PrimaryKeyConstraint("lesson_id", "standard_id", name=op.f("pk_lesson_standard")),
    )
    op.create_table(
        "taught",
        sa.Column("class_id", sa.Integer(), nullable=False),
        sa.Column("lesson_id", sa.Integer(), nullable=False),
        sa.Column("on", sa.Date(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(["class_id"], ["class.id"], name=op.f("fk_taught_class_id")),
        sa.ForeignKeyConstraint(["lesson_id"], ["lesson.id"], name=op.f("fk_taught_lesson_id"), ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_taught_person_id")),
        sa.PrimaryKeyConstraint("class_id", "lesson_id", name=op.f("pk_taught")),
    )
    for entry in COLUMNS:
        table, column = entry.split(" ", 1)
        op.execute(f"ALTER TABLE {table} ADD COLUMN {column}")
    op.execute("UPDATE person SET kind = CASE WHEN student THEN 'student' ELSE 'staff' END")
    op.execute("ALTER TABLE person DROP COLUMN student")
    op.create_index(op.f("ix_class_code"), "class", ["code"], unique=True)
    op.create_index("ix_person_kind", "person", ["kind", "active"])
    op.execute(
        'INSERT INTO school_year (title, start, "end") SELECT title, start, "end" FROM academic_session '
        "WHERE kind = 'schoolYear' GROUP BY start"
    )


def downgrade() -> None:
    op.execute("ALTER TABLE person ADD COLUMN student BOOLEAN NOT NULL DEFAULT 0")
    op.execute("UPDATE person SET student = kind = 'student'")
    op.drop_index("ix_person_kind", "person")
    op.drop_index("ix_class_code", "class")
    for entry in COLUMNS:
        table, column = entry.split(" ", 2)[:2]
        op.execute(f"ALTER TABLE {table} DROP COLUMN {column}")
    for table in TABLES:
        op.drop_table(table)
