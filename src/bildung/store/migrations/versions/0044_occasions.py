"""Occasions of measures, cut scores, goals, names that were matched, reflections; scorers who are given some classes' responses;
levels as they were told."""

import sqlalchemy as sa
from alembic import op

from bildung.store.models.base import Utc

revision = "0044"
down_revision = "0043"
branch_labels = None
depends_on = None

MEASURE: tuple[sa.Column[object], ...] = (
    sa.Column("levels", sa.JSON(), nullable=True),
    sa.Column("falling", sa.Boolean(), server_default="0", nullable=False),
    sa.Column("own", sa.Boolean(), server_default="0", nullable=False),
    sa.Column("part_of_id", sa.Integer(), nullable=True),
    sa.Column("place", sa.Integer(), server_default="0", nullable=False),
)
TABLES = ("reflection", "reflection_request", "name_match", "goal", "cut_set", "measure_score", "occasion")


def _refers(table: str, column: str, to: str, cascade: bool = False) -> sa.ForeignKeyConstraint:
    name = op.f(f"fk_{table}_{column}")
    return sa.ForeignKeyConstraint([column], [f"{to}.id"], name=name, ondelete="CASCADE" if cascade else None)


def _key(table: str) -> sa.PrimaryKeyConstraint:
    return sa.PrimaryKeyConstraint("id", name=op.f(f"pk_{table}"))


def _id() -> sa.Column[int]:
    return sa.Column("id", sa.Integer(), nullable=False)


def upgrade() -> None:
    with op.batch_alter_table("measure") as table:
        for column in MEASURE:
            table.add_column(column.copy())
        table.create_foreign_key(op.f("fk_measure_part_of_id"), "measure", ["part_of_id"], ["id"], ondelete="CASCADE")
    op.create_index("ix_measure_part_of_id", "measure", ["part_of_id"])
    op.add_column("scoring_task", sa.Column("classes", sa.JSON(), nullable=True))
    op.add_column("told_result", sa.Column("level", sa.String(), server_default="", nullable=False))
    op.create_table(
        "occasion",
        _id(),
        sa.Column("measure_id", sa.Integer(), nullable=False),
        sa.Column("window_id", sa.Integer(), nullable=True),
        sa.Column("name", sa.String(), server_default="", nullable=False),
        sa.Column("first", sa.Date(), nullable=True),
        sa.Column("last", sa.Date(), nullable=True),
        _refers("occasion", "measure_id", "measure", cascade=True),
        _refers("occasion", "window_id", "window", cascade=True),
        _key("occasion"),
        sa.UniqueConstraint("measure_id", "window_id", name=op.f("uq_occasion_measure_id_window_id")),
        sa.UniqueConstraint("measure_id", "name", "first", name=op.f("uq_occasion_measure_id_name_first")),
    )
    op.create_index("ix_occasion_measure_id", "occasion", ["measure_id"])
    op.create_index("ix_occasion_window_id", "occasion", ["window_id"])
    op.execute(
        "INSERT INTO occasion (measure_id, window_id, name) SELECT DISTINCT measure_id, window_id, 'window ' || window_id "
        "FROM measure_score ORDER BY measure_id, window_id"
    )
    op.rename_table("measure_score", "measure_score_old")
    for name in ("ix_measure_score_measure_id", "ix_measure_score_person_id"):
        op.drop_index(name, table_name="measure_score_old")
    op.create_table(
        "measure_score",
        _id(),
        sa.Column("measure_id", sa.Integer(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("occasion_id", sa.Integer(), nullable=False),
        sa.Column("grade", sa.String(), nullable=False),
        sa.Column("week", sa.Double(), nullable=False),
        sa.Column("score", sa.Double(), nullable=False),
        sa.Column("se", sa.Double(), nullable=True),
        sa.Column("taken_on", sa.Date(), nullable=True),
        sa.Column("marks", sa.String(), server_default="", nullable=False),
        _refers("measure_score", "measure_id", "measure", cascade=True),
        _refers("measure_score", "person_id", "person"),
        _refers("measure_score", "occasion_id", "occasion", cascade=True),
        _key("measure_score"),
        sa.UniqueConstraint("occasion_id", "person_id", name=op.f("uq_measure_score_occasion_id_person_id")),
    )
    op.create_index("ix_measure_score_measure_id", "measure_score", ["measure_id"])
    op.create_index("ix_measure_score_person_id", "measure_score", ["person_id"])
    op.execute(
        "INSERT INTO measure_score (id, measure_id, person_id, occasion_id, grade, week, score, se) "
        "SELECT s.id, s.measure_id, s.person_id, o.id, s.grade, s.week, s.score, s.se FROM measure_score_old s "
        "JOIN occasion o ON o.measure_id = s.measure_id AND o.window_id = s.window_id"
    )
    op.drop_table("measure_score_old")
    op.create_table(
        "cut_set",
        _id(),
        sa.Column("measure_id", sa.Integer(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("names", sa.JSON(), nullable=False),
        sa.Column("rows", sa.JSON(), nullable=False),
        sa.Column("goal", sa.Integer(), nullable=False),
        sa.Column("source", sa.String(), nullable=False),
        sa.Column("added_at", Utc(), nullable=False),
        sa.Column("added_by_id", sa.Integer(), nullable=False),
        _refers("cut_set", "measure_id", "measure", cascade=True),
        _refers("cut_set", "added_by_id", "person"),
        _key("cut_set"),
    )
    op.create_index("ix_cut_set_measure_id", "cut_set", ["measure_id"])
    op.create_table(
        "goal",
        _id(),
        sa.Column("measure_id", sa.Integer(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("by_day", sa.Date(), nullable=False),
        sa.Column("score", sa.Double(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("set_at", Utc(), nullable=False),
        sa.Column("set_by_id", sa.Integer(), nullable=False),
        sa.Column("withdrawn_at", Utc(), nullable=True),
        _refers("goal", "measure_id", "measure", cascade=True),
        _refers("goal", "person_id", "person"),
        _refers("goal", "set_by_id", "person"),
        _key("goal"),
    )
    op.create_index("ix_goal_measure_id", "goal", ["measure_id"])
    op.create_index("ix_goal_person_id", "goal", ["person_id"])
    op.create_table(
        "name_match",
        _id(),
        sa.Column("written", sa.String(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=True),
        sa.Column("by_id", sa.Integer(), nullable=False),
        sa.Column("at", Utc(), nullable=False),
        _refers("name_match", "person_id", "person", cascade=True),
        _refers("name_match", "by_id", "person"),
        _key("name_match"),
        sa.UniqueConstraint("written", name=op.f("uq_name_match_written")),
    )
    op.create_index("ix_name_match_person_id", "name_match", ["person_id"])
    op.create_table(
        "reflection_request",
        _id(),
        sa.Column("measure_id", sa.Integer(), nullable=False),
        sa.Column("start_id", sa.Integer(), nullable=False),
        sa.Column("end_id", sa.Integer(), nullable=False),
        sa.Column("question", sa.String(), nullable=False),
        sa.Column("due", sa.Date(), nullable=False),
        sa.Column("asked_at", Utc(), nullable=False),
        sa.Column("asked_by_id", sa.Integer(), nullable=False),
        sa.Column("ended_at", Utc(), nullable=True),
        _refers("reflection_request", "measure_id", "measure", cascade=True),
        _refers("reflection_request", "start_id", "occasion", cascade=True),
        _refers("reflection_request", "end_id", "occasion", cascade=True),
        _refers("reflection_request", "asked_by_id", "person"),
        _key("reflection_request"),
    )
    op.create_index("ix_reflection_request_measure_id", "reflection_request", ["measure_id"])
    op.create_table(
        "reflection",
        _id(),
        sa.Column("request_id", sa.Integer(), nullable=False),
        sa.Column("class_id", sa.Integer(), nullable=True),
        sa.Column("school_id", sa.Integer(), nullable=True),
        sa.Column("grade", sa.String(), server_default="", nullable=False),
        sa.Column("concludes", sa.String(), nullable=False),
        sa.Column("plans", sa.String(), nullable=False),
        sa.Column("figures", sa.JSON(), nullable=False),
        sa.Column("at", Utc(), nullable=False),
        sa.Column("by_id", sa.Integer(), nullable=False),
        _refers("reflection", "request_id", "reflection_request", cascade=True),
        _refers("reflection", "class_id", "class"),
        _refers("reflection", "school_id", "school"),
        _refers("reflection", "by_id", "person"),
        _key("reflection"),
        sa.UniqueConstraint(
            "request_id",
            "class_id",
            "school_id",
            "grade",
            name=op.f("uq_reflection_request_id_class_id_school_id_grade"),
        ),
    )
    op.create_index("ix_reflection_request_id", "reflection", ["request_id"])
    op.create_index("ix_reflection_class_id", "reflection", ["class_id"])


def downgrade() -> None:
    op.create_table(
        "measure_score_new",
        _id(),
        sa.Column("measure_id", sa.Integer(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("window_id", sa.Integer(), nullable=False),
        sa.Column("grade", sa.String(), nullable=False),
        sa.Column("week", sa.Double(), nullable=False),
        sa.Column("score", sa.Double(), nullable=False),
        sa.Column("se", sa.Double(), nullable=True),
        _refers("measure_score", "measure_id", "measure", cascade=True),
        _refers("measure_score", "person_id", "person"),
        _refers("measure_score", "window_id", "window"),
        _key("measure_score"),
        sa.UniqueConstraint(
            "measure_id", "window_id", "person_id", name=op.f("uq_measure_score_measure_id_window_id_person_id")
        ),
    )
    op.execute(
        "INSERT INTO measure_score_new (id, measure_id, person_id, window_id, grade, week, score, se) "
        "SELECT s.id, s.measure_id, s.person_id, o.window_id, s.grade, s.week, s.score, s.se FROM measure_score s "
        "JOIN occasion o ON o.id = s.occasion_id WHERE o.window_id IS NOT NULL"
    )
    for table in TABLES:
        op.drop_table(table)
    op.rename_table("measure_score_new", "measure_score")
    op.create_index("ix_measure_score_measure_id", "measure_score", ["measure_id"])
    op.create_index("ix_measure_score_person_id", "measure_score", ["person_id"])
    op.drop_column("told_result", "level")
    op.drop_column("scoring_task", "classes")
    op.drop_index("ix_measure_part_of_id", table_name="measure")
    with op.batch_alter_table("measure") as batch:
        batch.drop_constraint(op.f("fk_measure_part_of_id"), type_="foreignkey")
        for column in MEASURE:
            batch.drop_column(column.name)
