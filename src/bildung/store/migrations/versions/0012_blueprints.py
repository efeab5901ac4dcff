"""Blueprints, families of companion forms, and what a form knows of its kind, plan and settings."""

import sqlalchemy as sa
from alembic import op

from bildung.store.models.base import Utc

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None

_FORM = (
    "kind VARCHAR DEFAULT '' NOT NULL",
    "unit VARCHAR DEFAULT '' NOT NULL",
    "role VARCHAR DEFAULT '' NOT NULL",
    "scale VARCHAR DEFAULT '' NOT NULL",
    "plan JSON",
    "settings JSON DEFAULT '{}' NOT NULL",
    "blueprint_id INTEGER CONSTRAINT fk_form_blueprint_id REFERENCES blueprint (id)",
    "family_id INTEGER CONSTRAINT fk_form_family_id REFERENCES family (id)",
    "before_id INTEGER CONSTRAINT fk_form_before_id REFERENCES form (id)",
    "mirror_id INTEGER CONSTRAINT fk_form_mirror_id REFERENCES form (id)",
)


def upgrade() -> None:
    op.create_table(
        "blueprint",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("subject", sa.String(), nullable=False),
        sa.Column("grade", sa.String(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("content", sa.JSON(), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("owner_id", sa.Integer(), nullable=True),
        sa.Column("changed_at", Utc(), nullable=False),
        sa.ForeignKeyConstraint(["owner_id"], ["person.id"], name=op.f("fk_blueprint_owner_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_blueprint")),
        sa.UniqueConstraint("name", name=op.f("uq_blueprint_name")),
    )
    op.create_table(
        "family",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("title", sa.String(), nullable=False),
        sa.Column("owner_id", sa.Integer(), nullable=True),
        sa.Column("created_at", Utc(), nullable=False),
        sa.ForeignKeyConstraint(["owner_id"], ["person.id"], name=op.f("fk_family_owner_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_family")),
        sa.UniqueConstraint("name", name=op.f("uq_family_name")),
    )
    for column in _FORM:
        op.execute(f"ALTER TABLE form ADD COLUMN {column}")
    op.execute("ALTER TABLE form_item ADD COLUMN part INTEGER DEFAULT 0 NOT NULL")
    op.create_index(op.f("ix_form_family_id"), "form", ["family_id"], unique=False)


def downgrade() -> None:
    op.drop_index(op.f("ix_form_family_id"), "form")
    op.execute("ALTER TABLE form_item DROP COLUMN part")
    for column in reversed(_FORM):
        op.execute(f"ALTER TABLE form DROP COLUMN {column.split()[0]}")
    op.drop_table("family")
    op.drop_table("blueprint")
