"""Measures, their scores and norms."""

import sqlalchemy as sa
from alembic import op

from bildung.store.models.base import Utc

revision = "0043"
down_revision = "0042"
branch_labels = None
depends_on = None


def _refers(table: str, column: str, to: str, cascade: bool = False) -> sa.ForeignKeyConstraint:
    name = op.f(f"fk_{table}_{column}")
    return sa.ForeignKeyConstraint([column], [f"{to}.id"], name=name, ondelete="CASCADE" if cascade else None)


def upgrade() -> None:
    op.create_table(
        "measure",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("subject", sa.String(), nullable=False),
        sa.Column("low", sa.Double(), nullable=False),
        sa.Column("high", sa.Double(), nullable=False),
        sa.Column("decimals", sa.Integer(), server_default="0", nullable=False),
        sa.Column("version", sa.Integer(), server_default="0", nullable=False),
        sa.Column("made_at", Utc(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_measure")),
        sa.UniqueConstraint("name", name=op.f("uq_measure_name")),
    )
    op.create_table(
        "measure_score",
        sa.Column("id", sa.Integer(), nullable=False),
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
        sa.PrimaryKeyConstraint("id", name=op.f("pk_measure_score")),
        sa.UniqueConstraint(
            "measure_id", "window_id", "person_id", name=op.f("uq_measure_score_measure_id_window_id_person_id")
        ),
    )
    op.create_index("ix_measure_score_measure_id", "measure_score", ["measure_id"])
    op.create_index("ix_measure_score_person_id", "measure_score", ["person_id"])
    op.create_table(
        "norm_set",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("measure_id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("version", sa.String(), nullable=False),
        sa.Column("source", sa.String(), nullable=False),
        sa.Column("population", sa.String(), nullable=False),
        sa.Column("published", sa.Date(), nullable=True),
        sa.Column("norms", sa.String(), nullable=False),
        sa.Column("correlations", sa.String(), server_default="", nullable=False),
        sa.Column("added_at", Utc(), nullable=False),
        sa.Column("added_by_id", sa.Integer(), nullable=False),
        _refers("norm_set", "measure_id", "measure", cascade=True),
        _refers("norm_set", "added_by_id", "person"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_norm_set")),
    )
    op.create_index("ix_norm_set_measure_id", "norm_set", ["measure_id"])


def downgrade() -> None:
    for table in ("norm_set", "measure_score", "measure"):
        op.drop_table(table)
