"""Second opinions, pre-scored responses, and scores by an earlier rubric that stand."""

import sqlalchemy as sa
from alembic import op

revision = "0042"
down_revision = "0041"
branch_labels = None
depends_on = None


def upgrade() -> None:
    for name in ("second", "truth"):
        op.add_column("mark", sa.Column(name, sa.Boolean(), server_default="0", nullable=False))
    op.add_column("scoring_plan", sa.Column("kept", sa.Integer(), nullable=True))


def downgrade() -> None:
    op.drop_column("scoring_plan", "kept")
    for name in ("truth", "second"):
        op.drop_column("mark", name)
