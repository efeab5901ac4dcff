"""Frameworks: standards as trees, several side by side, and links between them."""

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "framework",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("identifier", sa.String(), nullable=False),
        sa.Column("title", sa.String(), nullable=False),
        sa.Column("version", sa.String(), nullable=False),
        sa.Column("creator", sa.String(), nullable=False),
        sa.Column("language", sa.String(), nullable=False),
        sa.Column("main", sa.Boolean(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_framework")),
        sa.UniqueConstraint("identifier", name=op.f("uq_framework_identifier")),
    )
    with op.batch_alter_table("standard") as batch:
        batch.drop_constraint(op.f("uq_standard_code"), type_="unique")
        batch.add_column(sa.Column("framework_id", sa.Integer(), nullable=True))
        batch.add_column(sa.Column("identifier", sa.String(), nullable=True))
        batch.add_column(sa.Column("parent_id", sa.Integer(), nullable=True))
        batch.add_column(sa.Column("kind", sa.String(), nullable=False, server_default=""))
        batch.add_column(sa.Column("grade_to", sa.String(), nullable=False, server_default=""))
        batch.add_column(sa.Column("priority", sa.Boolean(), nullable=False, server_default="0"))
        batch.add_column(sa.Column("position", sa.Double(), nullable=False, server_default="0"))
        batch.create_foreign_key(op.f("fk_standard_framework_id"), "framework", ["framework_id"], ["id"])
        batch.create_foreign_key(op.f("fk_standard_parent_id"), "standard", ["parent_id"], ["id"])
        batch.create_unique_constraint(op.f("uq_standard_framework_id_identifier"), ["framework_id", "identifier"])
    op.create_index(op.f("ix_standard_framework_id"), "standard", ["framework_id"])
    op.create_index("ix_standard_code", "standard", ["code"])
    op.create_table(
        "standard_link",
        sa.Column("origin_id", sa.Integer(), nullable=False),
        sa.Column("destination_id", sa.Integer(), nullable=False),
        sa.Column("relation", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(
            ["origin_id"], ["standard.id"], name=op.f("fk_standard_link_origin_id"), ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(
            ["destination_id"], ["standard.id"], name=op.f("fk_standard_link_destination_id"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("origin_id", "destination_id", "relation", name=op.f("pk_standard_link")),
    )
    op.create_index(op.f("ix_standard_link_destination_id"), "standard_link", ["destination_id"])


def downgrade() -> None:
    op.drop_table("standard_link")
    op.drop_index("ix_standard_code", "standard")
    op.drop_index(op.f("ix_standard_framework_id"), "standard")
    with op.batch_alter_table("standard") as batch:
        batch.drop_constraint(op.f("uq_standard_framework_id_identifier"), type_="unique")
        batch.drop_constraint(op.f("fk_standard_parent_id"), type_="foreignkey")
        batch.drop_constraint(op.f("fk_standard_framework_id"), type_="foreignkey")
        for name in ("position", "priority", "grade_to", "kind", "parent_id", "identifier", "framework_id"):
            batch.drop_column(name)
        batch.create_unique_constraint(op.f("uq_standard_code"), ["code"])
    op.drop_table("framework")
