"""The log may be cleared of what is older than the federation keeps, never of anything younger than a year."""

from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None

TRIGGER = "CREATE TRIGGER audit_kept BEFORE DELETE ON audit WHEN {when} BEGIN SELECT RAISE(ABORT, '{message}'); END"


def upgrade() -> None:
    op.execute("DROP TRIGGER audit_kept")
    op.execute(
        TRIGGER.format(when="OLD.at > datetime('now', '-1 year')", message="the audit log is kept for a year at least")
    )


def downgrade() -> None:
    op.execute("DROP TRIGGER audit_kept")
    op.execute(TRIGGER.format(when="1", message="the audit log is never shortened"))
